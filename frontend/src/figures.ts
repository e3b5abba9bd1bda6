/** Figures in columns, set so that their points stand below each other. */

/** Most decimals in a column of cells; null when one of them is words: the column is then set to the left. */
export function decimalsOf(cells: string[]): number | null {
  return cells.every((cell) => /^[\d.]*$/.test(cell))
    ? Math.max(0, ...cells.map((cell) => cell.length - `${cell}.`.indexOf('.')))
    : null
}

/** A figure with blanks behind it, as many as it has decimals less than the others of its column. */
export function aligned(cell: string, decimals: number | null | undefined): string {
  if (!cell || !decimals) return cell
  return cell + '\u00a0'.repeat(decimals - (cell.length - `${cell}.`.indexOf('.')))
}
