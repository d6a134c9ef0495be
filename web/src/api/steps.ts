import { ProblemError, type Problem } from './client'

/** Posts a question that is answered step by step, and hands on each step as it comes. Aborting ends it on both sides. */
export async function* steps<T>(path: string, body: unknown, signal: AbortSignal): AsyncGenerator<T> {
  let response
  try {
    response = await fetch(path, { method: 'POST', signal, headers: { 'X-Juniperfall': '1', 'Content-Type': 'application/json', Accept: 'text/event-stream' }, body: JSON.stringify(body) })
  } catch (e) {
    if (signal.aborted) return
    throw new ProblemError({ status: 0, detail: e instanceof Error && e.name === 'AbortError' ? 'It was stopped.' : 'The server cannot be reached just now.' })
  }
  if (!response.ok || !response.body) {
    const told = (await response.json().catch(() => ({}))) as Partial<Problem>
    throw new ProblemError({ detail: 'Something went wrong.', ...told, status: response.status })
  }
  const reader = response.body.pipeThrough(new TextDecoderStream()).getReader()
  let waiting = ''
  try {
    for (;;) {
      const { done, value } = await reader.read()
      if (done) return
      waiting += value
      const events = waiting.split('\n\n')
      waiting = events.pop()!
      for (const event of events) {
        const data = event.split('\n').filter((l) => l.startsWith('data:')).map((l) => l.slice(5).trim()).join('\n')
        if (data !== '') yield JSON.parse(data) as T
      }
    }
  } catch (e) {
    if (!signal.aborted) throw e instanceof ProblemError ? e : new ProblemError({ status: 0, detail: 'The connection was lost before it was done.' })
  } finally {
    void reader.cancel().catch(() => {})
  }
}
