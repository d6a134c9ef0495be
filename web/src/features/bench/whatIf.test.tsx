import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { render, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Answer, Asked } from '../../api/answer'
import type { Pick } from '../../api/question'
import { json, problem, server } from '../../testing/server'
import type { Bench } from './useBench'
import { allThatStands } from './whatIf'
import { WhatInstanceCosts, WhatItCosts } from './WhatItCosts'

const core = {
  path: 'core',
  label: 'Panel core',
  kind: 'choice',
  state: 'suggested',
  value: '80',
  several: null,
  unitLabel: '',
  lowest: null,
  highest: null,
  choices: ['80', '100', '150'].map((value) => ({ value, label: `${value} mm`, color: null, can: value !== '150', unknown: false })),
} as unknown as Asked
const length = {
  ...core,
  path: 'length',
  label: 'Length',
  kind: 'quantity',
  state: 'picked',
  value: '3600',
  choices: [],
  lowest: '1200',
  highest: '6000',
  unitLabel: 'mm',
}
const extras = {
  ...core,
  path: 'extras',
  label: 'Extras',
  kind: 'several',
  value: null,
  choices: [],
  several: [
    { path: 'extras#hooks', label: 'Hooks', state: 'suggested', chosen: false },
    { path: 'extras#drain', label: 'Drain', state: 'follows', chosen: true },
    { path: 'extras#rails', label: 'Rails', state: 'open', chosen: null },
  ],
}
const picks: Pick[] = [{ path: 'length', value: '3600' }]
const bench = {
  question: { picks: [...picks, { path: 'core', value: '80', filledIn: 'lowest #cost' }], site: null, date: null, customerClass: 'TRADE' },
  picks,
  answer: { head: 4, sections: [{ asked: [core, length, extras] }] } as unknown as Answer,
  working: false,
} as unknown as Bench
const side = { price: { each: '100' }, valid: true, hindrances: [] as string[] }
const show = (panel: React.ReactNode) =>
  render(<QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>{panel}</QueryClientProvider>)
const bodies = () => server.requests.map((r) => r.body as { then: Pick[]; refill: boolean; customerClass: string })

describe('what something costs', () => {
  beforeEach(() => void (server.requests.length = 0))

  it('keeps every value beside the picks as filled in, whatever filled it in before', () => {
    expect(allThatStands(bench)).toEqual([
      { path: 'length', value: '3600' },
      { path: 'core', value: '80', filledIn: 'kept' },
      { path: 'extras#hooks', value: 'no', filledIn: 'kept' },
    ])
  })

  it('tells the difference for each value that can be had, with what changes along, or why it cannot be told', async () => {
    server.answer = ({ body }) => {
      const { then } = body as { then: Pick[] }
      const isKept = then.some((p) => p.filledIn === 'kept')
      return json({
        now: side,
        then: side,
        difference: isKept ? '-12.5' : '240',
        changes: [
          { kind: 'attribute', name: 'Panel core', before: '80 mm', after: '100 mm' },
          { kind: 'attribute', name: 'Cooling set: Unit', before: 'C290-22', after: '' },
          { kind: 'total', name: 'Weight', before: '1', after: '2' },
        ],
      })
    }
    show(<WhatItCosts revisionId={7} bench={bench} asked={core} onClose={vi.fn()} />)
    const row = await screen.findByRole('row', { name: /100 mm/ })
    expect(await within(row).findByText('− 12.50 EUR')).toBeTruthy()
    expect(await within(row).findByText('+ 240.00 EUR')).toBeTruthy()
    expect(row.textContent).toContain('Then also: Cooling set: Unit: C290-22 → nothing')
    expect(row.textContent).not.toContain('Weight')
    expect(screen.queryByRole('row', { name: /150 mm/ })).toBeNull()
    // Both are asked for the same customers, with what is needed filled in; a value that was filled in gives way to the one asked about.
    expect(bodies().map((b) => [b.customerClass, b.refill])).toEqual([
      ['TRADE', true],
      ['TRADE', true],
    ])
    expect(bodies()[0]!.then).toEqual([
      { path: 'length', value: '3600' },
      { path: 'extras#hooks', value: 'no', filledIn: 'kept' },
      { path: 'core', value: '100' },
    ])
  })

  it('of a number any other one is asked for, of several choices each one more or less', async () => {
    server.answer = () => json({ now: side, then: { ...side, price: null, hindrances: ['At most 6 m.'] }, difference: null, changes: [] })
    const page = show(<WhatItCosts revisionId={7} bench={bench} asked={length as Asked} onClose={vi.fn()} />)
    expect(await within(await screen.findByRole('row', { name: /6000 mm/ })).findByText('At most 6 m.')).toBeTruthy()
    expect(screen.getByRole('row', { name: /6000 mm/ }).textContent).toMatch(/––$/)
    await userEvent.type(screen.getByRole('textbox', { name: /Another number/ }), '4200')
    expect(await screen.findByRole('row', { name: /4200 mm/ })).toBeTruthy()
    page.unmount()
    show(<WhatItCosts revisionId={7} bench={bench} asked={extras as unknown as Asked} onClose={vi.fn()} />)
    expect((await screen.findAllByRole('row')).slice(1).map((r) => r.firstChild!.firstChild!.textContent)).toEqual([
      'with Hooks',
      'without Drain',
      'with Rails',
    ])
  })

  it('an instance costs what is paid less without it; a fault is told in its place', async () => {
    server.answer = () => problem(422, 'There can be at most 500 picks.')
    const close = vi.fn()
    show(<WhatInstanceCosts revisionId={7} bench={bench} name="Door 2" without={(all) => all.slice(1)} onClose={close} />)
    expect(await screen.findByText('There can be at most 500 picks.')).toBeTruthy()
    expect(bodies().map((b) => b.then.length)).toEqual([2, 1])
    await userEvent.click(screen.getByRole('button', { name: 'Close what it costs' }))
    expect(close).toHaveBeenCalled()
  })
})
