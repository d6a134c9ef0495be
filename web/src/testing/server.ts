/** Stands in for the server in tests of single parts: each test says what is answered; every request is kept. */
export type Asked = { method: string; path: string; search: string; body: unknown }

export const server = {
  requests: [] as Asked[],
  answer: (asked: Asked): Response | Promise<Response> => problem(404, `Nothing is answered to ${asked.method} ${asked.path}.`),
}

export const json = (value: unknown, status = 200) => new Response(JSON.stringify(value), { status, headers: { 'Content-Type': 'application/json' } })
export const problem = (status: number, detail: string, more: object = {}) => json({ detail, ...more }, status)

/** The streams of changes that were opened; a test speaks for the server on them. */
export class Stream extends EventTarget {
  static opened: Stream[] = []
  closed = false
  constructor(readonly url: string) {
    super()
    Stream.opened.push(this)
  }
  tell(type: string, data: string) {
    this.dispatchEvent(new MessageEvent(type, { data }))
  }
  close() {
    this.closed = true
  }
}
