/** A server for the tests of the stores: answers by method and path, keeps what was sent, and can be away. */
export interface Sent {
  method: string
  path: string
  body: Record<string, unknown>
}
type Answer = (sent: Sent) => { status?: number; body: unknown }
interface Server {
  sent: Sent[]
  away: boolean
  delay: Promise<unknown>
}
let server: Server = { sent: [], away: true, delay: Promise.resolve() }
let answerOf: Answer = () => ({ status: 404, body: {} })

// The client takes both when it is made: this module is imported before it. A page knows its own address, Node does not.
const Plain = globalThis.Request
globalThis.Request = class extends Plain {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(typeof input === 'string' ? new URL(input, 'http://localhost') : input, init)
  }
}
globalThis.fetch = async (input) => {
  const request = input as Request
  const text = await request.text()
  const body = (text ? JSON.parse(text) : {}) as Record<string, unknown>
  const one = { method: request.method, path: new URL(request.url).pathname, body }
  const mine = server
  mine.sent.push(one)
  await mine.delay
  if (mine.away) throw new TypeError('away')
  const { status = 200, body: data } = answerOf(one)
  return new Response(JSON.stringify(data), {
    status,
    headers: { 'content-type': 'application/json' },
  })
}

export function answering(answer: Answer): Server {
  answerOf = answer
  server = { sent: [], away: false, delay: Promise.resolve() }
  return server
}

/** Let every promise that is on its way come to its end. */
export async function settled(): Promise<void> {
  for (let i = 0; i < 30; i++) await new Promise((resolve) => setTimeout(resolve, 0))
}
