import { ProblemError, type Problem } from './client'
import { t } from '../texts'

/** Posts a question that is answered step by step, and hands on each step as it comes. Aborting ends it on both sides. */
export async function* steps<T>(path: string, body: unknown, signal: AbortSignal): AsyncGenerator<T> {
  let response
  try {
    response = await fetch(path, {
      method: 'POST',
      signal,
      headers: { 'X-Juniperfall': '1', 'Content-Type': 'application/json', Accept: 'text/event-stream' },
      body: JSON.stringify(body),
    })
  } catch (e) {
    if (signal.aborted) return
    throw new ProblemError({
      status: 0,
      detail: e instanceof Error && e.name === 'AbortError' ? t('api.itWasStopped') : t('api.theServerCannotBeReachedJust'),
    })
  }
  if (!response.ok || !response.body) {
    const told = (await response.json().catch(() => ({}))) as Partial<Problem>
    throw new ProblemError({ detail: t('api.somethingWentWrong'), ...told, status: response.status })
  }
  for await (const { data } of eventsOf(response.body, signal)) yield data as T
}

/** The events of a stream, each with its name. */
export async function* eventsOf(
  body: ReadableStream<Uint8Array<ArrayBuffer>>,
  signal?: AbortSignal,
): AsyncGenerator<{ name: string; data: unknown }> {
  const reader = body.pipeThrough(new TextDecoderStream()).getReader()
  let waiting = ''
  try {
    for (;;) {
      const { done, value } = await reader.read()
      if (done) return
      waiting += value
      const events = waiting.split('\n\n')
      waiting = events.pop()!
      for (const event of events) {
        const field = (name: string) =>
          event
            .split('\n')
            .filter((l) => l.startsWith(`${name}:`))
            .map((l) => l.slice(name.length + 1).trim())
            .join('\n')
        const data = field('data')
        if (data !== '') yield { name: field('event'), data: JSON.parse(data) }
      }
    }
  } catch (e) {
    if (!signal?.aborted) throw e instanceof ProblemError ? e : new ProblemError({ status: 0, detail: t('api.theConnectionWasLostBeforeIt') })
  } finally {
    void reader.cancel().catch(() => {})
  }
}
