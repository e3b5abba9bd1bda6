/** Save a file: an address, or data that was made here. */
export function saveFile(name: string, content: string | Blob): void {
  const link = document.createElement('a')
  link.href = typeof content === 'string' ? content : URL.createObjectURL(content)
  link.download = name
  link.click()
  if (typeof content !== 'string') URL.revokeObjectURL(link.href)
}

/** Save a drawing as a picture, twice as fine as it is shown, on a ground of its own where one is given. */
export async function savePicture(name: string, address: string, ground = ''): Promise<void> {
  const image = new Image()
  image.src = address
  await image.decode()
  const canvas = document.createElement('canvas')
  canvas.width = image.width * 2
  canvas.height = image.height * 2
  const pen = canvas.getContext('2d')
  if (!pen) return
  if (ground) {
    pen.fillStyle = ground
    pen.fillRect(0, 0, canvas.width, canvas.height)
  }
  pen.drawImage(image, 0, 0, canvas.width, canvas.height)
  saveFile(name, canvas.toDataURL('image/png'))
}
