import { render, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { describe, expect, it, vi } from 'vitest'
import { json, server } from '../../testing/server'
import { AskedRow } from './AskedRow'
import type { Asked } from '../../api/answer'
import type { Bench } from './useBench'

const choice = (value: string, can = true) => ({ value, label: value, color: null, can, unknown: false })
const finish = {
  path: 'finish',
  rowId: 'finish',
  label: 'Finish',
  kind: 'choice',
  value: 'grey',
  valueLabel: 'grey',
  state: 'suggested',
  clash: null,
  missing: false,
  unitLabel: '',
  min: null,
  max: null,
  step: null,
  lowest: null,
  highest: null,
  members: null,
  unknown: false,
  several: null,
  choices: [choice('white'), choice('grey'), choice('zinc', false)],
} as unknown as Asked

function show() {
  const pick = vi.fn()
  const bench = {
    picks: [],
    fillIns: [],
    question: { picks: [], site: null, date: null },
    pick,
    pickAll: vi.fn(),
    change: vi.fn(),
    working: false,
    answer: { head: 1, faults: [] },
  } as unknown as Bench
  server.answer = () =>
    json({ possible: false, finished: true, reason: { picks: [], causes: [], sentence: 'Zinc is not made any more.' }, ways: [], cause: true })
  render(
    <QueryClientProvider client={new QueryClient()}>
      <button>before</button>
      <AskedRow asked={finish} bench={bench} revisionId={1} />
      <button>after</button>
    </QueryClientProvider>,
  )
  return pick
}

describe('a question', () => {
  it('is one stop of Tab, at its value; arrows go among its values', async () => {
    const pick = show()
    screen.getByRole('button', { name: 'before' }).focus()
    await userEvent.tab()
    expect(document.activeElement).toBe(screen.getByRole('button', { name: 'grey' }))
    await userEvent.keyboard('{ArrowLeft}')
    expect(document.activeElement).toBe(screen.getByRole('button', { name: 'white' }))
    await userEvent.keyboard('{ArrowLeft}')
    expect(document.activeElement).toBe(screen.getByRole('button', { name: /zinc/ }))
    await userEvent.keyboard('{Home}{Enter}')
    expect(pick).toHaveBeenCalledWith('finish', 'white')
    await userEvent.tab()
    expect(document.activeElement).toBe(screen.getByRole('button', { name: 'after' }))
  })

  it('says aloud why a value is ruled out, and Esc closes it with the focus where it was', async () => {
    show()
    await userEvent.click(screen.getByRole('button', { name: /zinc/ }))
    const reason = screen.getByRole('region', { name: 'Why Finish: zinc' })
    expect(reason.getAttribute('aria-live')).toBe('polite')
    await waitFor(() => expect(reason.textContent).toContain('Zinc is not made any more.'))
    await userEvent.keyboard('{Escape}')
    expect(screen.queryByRole('region')).toBeNull()
    expect(document.activeElement).toBe(screen.getByRole('button', { name: /zinc/ }))
    // Closed from within, the focus stays in the question.
    await userEvent.click(screen.getByRole('button', { name: /zinc/ }))
    await userEvent.click(screen.getByRole('button', { name: 'Close the reason' }))
    await waitFor(() => expect(document.activeElement).toBe(screen.getByRole('button', { name: 'grey' })))
  })
})
