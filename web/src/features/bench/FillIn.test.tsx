import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { render, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import type { ReactNode } from 'react'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { json, server } from '../../testing/server'
import { Session, type Me } from '../../session/session'
import { AskedRow } from './AskedRow'
import { FillIn } from './FillIn'
import type { Answer } from '../../api/answer'
import type { Bench } from './useBench'

const question = { picks: [{ path: 'duty', value: 'freezer' }], site: null, date: null, customerClass: null }
const me = { name: 'ines', display: 'Ines Halloran', role: 'engineer', rights: ['read', 'seeCosts'] } as Me
const bench = (more: Partial<Bench> = {}) =>
  ({
    question,
    picks: question.picks,
    fillIns: [],
    fillIn: vi.fn(),
    answer: {
      head: 2,
      valid: true,
      faults: [],
      figures: [{ path: 'area', label: 'Floor area', place: null, isNumber: true, isGoal: true }],
    } as unknown as Answer,
    pick: vi.fn(),
    pickAll: vi.fn(),
    change: vi.fn(),
    working: false,
    ...more,
  }) as unknown as Bench
const step = (more: object) => ({
  values: [{ path: 'core', value: '100', filledIn: 'lowest #cost' }],
  changes: [{ path: 'core', label: 'Panel core', from: '80 mm', to: '100 mm' }],
  assumed: [{ path: 'ambient', label: 'Ambient', value: '32 °C' }],
  number: '5000 EUR',
  bound: '3000 EUR',
  share: 0.2,
  done: false,
  proven: false,
  ...more,
})

/** A connection on which steps are sent one by one. */
function streaming() {
  const stream = new TransformStream<Uint8Array>()
  const writer = stream.writable.getWriter()
  const fetched = vi.fn((_: RequestInfo | URL, init?: RequestInit) => {
    init?.signal?.addEventListener('abort', () => void writer.abort(new DOMException('aborted', 'AbortError')).catch(() => {}))
    return Promise.resolve(new Response(stream.readable, { headers: { 'Content-Type': 'text/event-stream' } }))
  })
  vi.stubGlobal('fetch', fetched)
  const send = (text: string) => writer.write(new TextEncoder().encode(text))
  return {
    fetched,
    send,
    event: (name: string, data: object) => send(`event: ${name}\ndata: ${JSON.stringify(data)}\n\n`),
    end: () => writer.close(),
  }
}

const show = (fillIn: ReactNode, as = me) => render(<Session value={as}>{fillIn}</Session>)

describe('filling in what is open', () => {
  beforeEach(() => void vi.unstubAllGlobals())

  it('shows each better one as it comes, and takes the best so far when it is stopped', async () => {
    const [line, asked, close] = [streaming(), bench(), vi.fn()]
    show(<FillIn revisionId={4} bench={asked} onClose={close} />)
    await userEvent.click(screen.getByRole('button', { name: 'Find it' }))
    expect(JSON.parse(line.fetched.mock.calls[0]![1]!.body as string)).toEqual({ ...question, goal: '#cost', highest: false, hold: [] })
    // A step can come in pieces.
    const text = `event: better\ndata: ${JSON.stringify(step({}))}\n\n`
    await line.send(text.slice(0, 30))
    await line.send(text.slice(30))
    expect((await screen.findByRole('status')).textContent).toContain('5000 EURthe best so far; none is better than 3000 EUR')
    expect(screen.getByRole('progressbar').getAttribute('aria-valuenow')).toBe('20')
    await userEvent.click(screen.getByRole('button', { name: 'Stop' }))
    expect(await screen.findByRole('list', { name: 'What would change' })).toBeTruthy()
    await userEvent.click(await screen.findByRole('button', { name: 'Take this answer' }))
    expect(asked.fillIn).toHaveBeenCalledWith([{ path: 'core', value: '100', filledIn: 'lowest #cost' }])
    expect(close).toHaveBeenCalled()
  })

  it('says when nothing is better, and asks for any number that is computed', async () => {
    const line = streaming()
    show(<FillIn revisionId={4} bench={bench()} onClose={vi.fn()} />)
    await userEvent.selectOptions(screen.getByRole('combobox'), 'highest Floor area')
    await userEvent.click(screen.getByRole('button', { name: 'Find it' }))
    await line.event('done', step({ number: '9 m²', bound: '9 m²', share: 1, done: true, proven: true }))
    await line.end()
    expect((await screen.findByRole('status')).textContent).toContain('proven: there is nothing better')
    await waitFor(() => expect(screen.getByRole('button', { name: 'Again' })).toBeTruthy())
    expect(JSON.parse(line.fetched.mock.calls[0]![1]!.body as string)).toMatchObject({ goal: 'area', highest: true })
    // What is given is assumed as suggested; each change can be held before it is looked for again.
    expect(screen.getByText(/^Assumed, as it is given/).parentElement!.textContent).toContain('Ambient 32 °C')
    const change = within(screen.getByRole('list', { name: 'What would change' }))
    expect(change.getByRole('listitem').textContent).toContain('Panel core: 80 mm → 100 mm')
    await userEvent.click(change.getByRole('checkbox', { name: 'hold it' }))
    // What is held is not in what was found: that is not taken any more.
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Take this answer' }).disabled).toBe(true)
    await userEvent.click(screen.getByRole('button', { name: 'Again' }))
    expect(JSON.parse(line.fetched.mock.calls[1]![1]!.body as string)).toMatchObject({ hold: ['core'] })
  })

  it('offers no cost to who may not see it', async () => {
    const line = streaming()
    show(<FillIn revisionId={4} bench={bench({ answer: { ...bench().answer!, priced: true } })} onClose={vi.fn()} />, { ...me, rights: ['read'] })
    expect(screen.queryByRole('option', { name: 'lowest cost' })).toBeNull()
    await userEvent.click(screen.getByRole('button', { name: 'Find it' }))
    expect(JSON.parse(line.fetched.mock.calls[0]![1]!.body as string)).toMatchObject({ goal: '#price', highest: false })
  })

  it('tells what went wrong', async () => {
    vi.stubGlobal('fetch', () =>
      Promise.resolve(new Response(JSON.stringify({ detail: 'While picks clash, nothing can be filled in.' }), { status: 422 })),
    )
    show(<FillIn revisionId={4} bench={bench()} onClose={vi.fn()} />)
    await userEvent.click(screen.getByRole('button', { name: 'Find it' }))
    expect((await screen.findByRole('alert')).textContent).toBe('While picks clash, nothing can be filled in.')
  })
})

describe('a row of ruled-out values', () => {
  it('tells on request what stands against all of them, those of one reason together', async () => {
    const choices = ['80', '100', '120', '150'].map((value) => ({
      value,
      label: `${value} mm`,
      color: null,
      can: value === '120' || value === '150',
    }))
    const asked = {
      path: 'core',
      rowId: 'core',
      name: 'core',
      label: 'Panel core',
      kind: 'choice',
      state: 'open',
      applies: 'always',
      required: true,
      missing: false,
      value: null,
      valueLabel: null,
      clash: 0,
      unit: '',
      unitLabel: '',
      min: null,
      max: null,
      step: null,
      lowest: null,
      highest: null,
      members: null,
      choices,
      several: null,
    } as Parameters<typeof AskedRow>[0]['asked']
    const goTo = vi.fn()
    server.answer = () =>
      json({
        finished: true,
        groups: [
          {
            labels: ['80 mm', '100 mm'],
            reason: {
              sentence: '',
              picks: [{ path: 'duty', label: 'Duty', value: 'deep', valueLabel: 'Deep freezer' }],
              causes: [{ kind: 'rule', rowId: 'rule4', assemblyId: 'room', mark: '§4', sentence: 'The core is too thin.' }],
            },
          },
        ],
      })
    render(
      <QueryClientProvider client={new QueryClient()}>
        <AskedRow asked={asked} bench={bench()} revisionId={4} goTo={goTo} />
      </QueryClientProvider>,
    )
    await userEvent.click(screen.getByRole('button', { name: '2 ruled out' }))
    expect(await screen.findByText('80 mm · 100 mm')).toBeTruthy()
    await userEvent.click(screen.getByRole('button', { name: /The core is too thin/ }))
    expect(goTo).toHaveBeenCalledWith('room', 'rule4')
  })
})
