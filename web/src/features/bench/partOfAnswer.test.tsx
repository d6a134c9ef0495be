import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { act, renderHook, waitFor } from '@testing-library/react'
import type { ReactNode } from 'react'
import { expect, it } from 'vitest'
import { json, server } from '../../testing/server'
import { told } from '../../testing/answer'
import { useBench } from './useBench'

const duty = {
  path: 'duty',
  rowId: 'duty',
  name: 'duty',
  label: 'Duty',
  kind: 'choice',
  required: true,
  unit: '',
  unitLabel: '',
  min: null,
  max: null,
  step: null,
  several: null,
  state: 'open',
  value: null,
}
const answerWith = (more: object, cans: [boolean, boolean]) =>
  told({
    head: 1,
    valid: true,
    exact: true,
    suggestions: 0,
    sections: [
      {
        id: 's',
        topicId: 's',
        assemblyId: 'r',
        title: 'Duty',
        place: null,
        prefix: '',
        asked: [
          {
            ...duty,
            ...more,
            choices: [
              { value: 'chill', label: 'Chill', color: null, can: cans[0] },
              { value: 'freezer', label: 'Freezer', color: null, can: cans[1] },
            ],
          },
        ],
      },
    ],
  } as never)

/** A server that tells a part first, and the whole when it is let. */
function inParts(part: object, whole: object) {
  let go!: () => void
  const wait = new Promise<void>((done) => (go = done))
  const line = (name: string, data: object) => new TextEncoder().encode(`event: ${name}\ndata: ${JSON.stringify(data)}\n\n`)
  const body = new ReadableStream({
    async start(stream) {
      stream.enqueue(line('part', part))
      await wait
      stream.enqueue(line('whole', whole))
      stream.close()
    },
  })
  return { response: new Response(body, { headers: { 'Content-Type': 'text/event-stream' } }), go }
}

it('a bench shows what is known of the new answer in the one before, until the whole is there', async () => {
  const first = answerWith({}, [true, true])
  server.answer = () => json(first)
  const queries = new QueryClient()
  const Wrapper = ({ children }: { children: ReactNode }) => <QueryClientProvider client={queries}>{children}</QueryClientProvider>
  const { result } = renderHook(() => useBench(7, 1, 'juniperfall.test.parts'), { wrapper: Wrapper })
  await waitFor(() => expect(result.current.answer?.sections).toHaveLength(1))
  expect(result.current.working).toBe(false)

  const known = {
    formKey: 'f',
    valid: true,
    asked: [{ path: 'duty', state: { state: 'picked', value: 'chill', unknown: true, unknownChoices: [1] } }],
  }
  const whole = { ...answerWith({ state: 'picked', value: 'chill' }, [true, false]), form: undefined }
  const told = inParts(known, whole)
  server.answer = ({ body }) => {
    expect(body).toMatchObject({ parts: true, form: 'f' })
    return told.response
  }
  act(() => result.current.pick('duty', 'chill'))
  const choices = () => result.current.answer!.sections[0]!.asked[0]!.choices
  await waitFor(() => expect(choices()).toMatchObject([{ can: true, unknown: false }, { unknown: true }]))
  expect(result.current.working).toBe(true)
  told.go()
  await waitFor(() => expect(result.current.working).toBe(false))
  expect(choices()).toMatchObject([
    { can: true, unknown: false },
    { can: false, unknown: false },
  ])
  localStorage.removeItem('juniperfall.test.parts')
})
