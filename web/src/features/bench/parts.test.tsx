import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { fireEvent, render, screen, waitFor, within } from '@testing-library/react'
import { MemoryRouter } from 'react-router'
import userEvent from '@testing-library/user-event'
import type { ReactNode } from 'react'
import { describe, expect, it, vi } from 'vitest'
import { json, problem, server } from '../../testing/server'
import { nearestTo } from '../../ui/numbers'
import { BomTree } from '../../ui/structure/BomTree'
import type { Asked, Answer } from '../../api/answer'
import { AskedRow } from './AskedRow'
import { ChoiceList } from './ChoiceList'
import { SeveralChoice } from './SeveralChoice'
import { Figures } from './Figures'
import { Outcome } from './Outcome'
import { WaysOut } from './Reason'
import type { Bench } from './useBench'
import { DayChoice, SiteChoice } from './WhereAndWhen'
import { today } from '../../ui/WhereFields'

const show = (page: ReactNode) =>
  render(
    <MemoryRouter>
      <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>{page}</QueryClientProvider>
    </MemoryRouter>,
  )

const figure = {
  path: 'r.outer',
  rowId: 'outer',
  assemblyId: 'r',
  label: 'Outer length',
  place: null,
  text: '3800 – 3900 mm',
  suggested: '3800 – 3900 mm',
  isNumber: true,
  isGoal: false,
  unit: 'mm',
  final: false,
  formula: 'length + 2 * core.thickness',
  because: [{ path: 'r.core', label: 'Panel core', value: 'open' }],
}
const question = { picks: [{ path: 'r.duty', value: 'freezer' }], site: 'HAL', date: null, customerClass: null }
const bench = (more: Partial<Bench> = {}) =>
  ({
    question,
    picks: question.picks,
    answer: {
      head: 7,
      figures: [figure, { ...figure, path: 'r.area', label: 'Floor area', text: '8.64 m²', suggested: '8.64 m²', final: true }],
    } as unknown as Answer,
    pickAll: vi.fn(),
    pick: vi.fn(),
    ...more,
  }) as unknown as Bench

describe('figures', () => {
  it('say where they come from, and how far an open one goes when asked', async () => {
    server.answer = () => json({ text: '3800 – 3900 mm', mayHaveNoValue: true, finished: true })
    const goToPick = vi.fn()
    show(<Figures revisionId={3} bench={bench()} goToPick={goToPick} />)
    expect(screen.queryByText('length + 2 * core.thickness')).toBeNull()
    await userEvent.click(screen.getByRole('button', { name: 'Outer length' }))
    expect(screen.getByText('length + 2 * core.thickness')).toBeTruthy()
    await userEvent.click(screen.getByRole('button', { name: 'Panel core' }))
    expect(goToPick).toHaveBeenCalledWith('r.core')
    expect(server.requests).toEqual([])
    await userEvent.click(screen.getByRole('button', { name: 'How far can it really go?' }))
    expect((await screen.findByRole('status')).textContent).toBe('Exactly 3800 – 3900 mm over all that can still be picked; or it does not apply.')
    expect(server.requests).toEqual([{ method: 'POST', path: '/api/revisions/3/bounds', search: '', body: { ...question, path: 'r.outer' } }])
  })

  it('do not pass off what was cut short as exact, and say what went wrong', async () => {
    server.answer = () => json({ text: '3800 mm', mayHaveNoValue: true, finished: false })
    const page = show(<Figures revisionId={3} bench={bench()} />)
    await userEvent.click(screen.getByRole('button', { name: 'Outer length' }))
    await userEvent.click(screen.getByRole('button', { name: /How far/ }))
    expect((await screen.findByRole('status')).textContent).toBe('Time ran out; at least 3800 mm.')
    page.unmount()
    server.answer = () => problem(422, 'There is no such number.')
    show(<Figures revisionId={3} bench={bench()} />)
    await userEvent.click(screen.getByRole('button', { name: 'Outer length' }))
    await userEvent.click(screen.getByRole('button', { name: /How far/ }))
    expect(await screen.findByText('There is no such number.')).toBeTruthy()
  })

  it('stand as suggested beside what they can be over all that can still be picked', () => {
    const differing = bench()
    differing.answer!.figures[0]!.suggested = '3800 mm'
    show(<Figures revisionId={3} bench={differing} />)
    expect(
      within(screen.getByRole('row', { name: /Outer length/ }))
        .getAllByRole('cell')
        .map((c) => c.textContent),
    ).toEqual(['Outer length', '3800 mm', '3800 – 3900 mm'])
    expect(screen.getAllByRole('columnheader').map((c) => c.textContent)).toEqual(['', 'as suggested now', 'over all that can still be picked'])
  })

  it('that are final have nothing left to ask', async () => {
    show(<Figures revisionId={3} bench={bench()} />)
    await userEvent.click(screen.getByRole('button', { name: 'Floor area' }))
    expect(screen.queryByRole('button', { name: /How far/ })).toBeNull()
  })
})

describe('what a model with faults comes to', () => {
  const outcome = (leftOut: number) =>
    bench({
      answer: {
        ...bench().answer!,
        valid: true,
        exact: true,
        leftOut,
        advice: [],
        suggestions: 0,
        structure: null,
        missing: [],
        clashes: [],
        lines: [],
        structureFaults: [],
      } as unknown as Answer,
    })

  it('says how many faults are left out of it, and nothing where there are none', () => {
    const page = show(<Outcome revisionId={3} bench={outcome(2)} />)
    expect(screen.getByText(/The model has 2 faults: what is faulty is left out of this/)).toBeTruthy()
    page.unmount()
    show(<Outcome revisionId={3} bench={outcome(0)} />)
    expect(screen.queryByText('Draft.')).toBeNull()
  })
})

describe('where and when', () => {
  const sites = [
    { code: 'HAL', label: 'Haldwyn' },
    { code: 'TRN', label: 'Tarn Bridge' },
  ]

  it('the site is one of those there are, or any; one that is gone is still told', async () => {
    const askFor = vi.fn()
    const page = show(<SiteChoice bench={bench({ askFor })} sites={sites} />)
    const choice = screen.getByRole<HTMLSelectElement>('combobox', { name: 'Site' })
    expect(choice.value).toBe('HAL')
    await userEvent.selectOptions(choice, 'Tarn Bridge')
    await userEvent.selectOptions(choice, 'any site')
    expect(askFor.mock.calls).toEqual([[{ site: 'TRN' }], [{ site: null }]])
    page.unmount()
    show(<SiteChoice bench={bench({ question: { ...question, site: 'OLD' } })} sites={sites} />)
    expect(screen.getByRole('option', { name: 'OLD, which is gone' })).toBeTruthy()
  })

  it('the day is asked for once its year is whole, and can be taken away', () => {
    const askFor = vi.fn()
    show(<DayChoice bench={bench({ askFor, question: { ...question, date: '2026-11-24' } })} />)
    const day = screen.getByLabelText('Day')
    for (const typed of ['0002-11-24', '0020-11-24', '0202-11-24', '2027-11-24', '']) fireEvent.change(day, { target: { value: typed } })
    expect(askFor.mock.calls).toEqual([[{ date: '2027-11-24' }], [{ date: null }]])
  })

  it('today is the day of this place, whatever the hour', () => {
    expect(today(new Date(2027, 0, 5, 0, 1))).toBe('2027-01-05')
    expect(today(new Date(2027, 11, 31, 23, 59))).toBe('2027-12-31')
  })
})

describe('ways out', () => {
  it('are each one action, which changes all that it names', async () => {
    server.answer = () =>
      json({
        ways: [
          {
            changes: [
              { path: 'r.core', label: 'Core', from: '80 mm', to: '120', toLabel: '120 mm' },
              { path: 'r.floor', label: 'Floor', from: 'None', to: null, toLabel: null },
            ],
          },
        ],
        cause: null,
        finished: true,
      })
    const [on, done] = [bench(), vi.fn()]
    show(<WaysOut revisionId={3} bench={on} onDone={done} />)
    const way = await screen.findByRole('button', { name: 'Core: 80 mm → 120 mm, let go of Floor' })
    await userEvent.click(way)
    expect(on.pickAll).toHaveBeenCalledWith([
      { path: 'r.core', value: '120' },
      { path: 'r.floor', value: null },
    ])
    expect(done).toHaveBeenCalled()
  })

  it.each([
    [{ ways: [], cause: null, finished: false }, 'No way was found in time.'],
    [{ ways: [], cause: null, finished: true }, 'Nothing has to change for it.'],
    [{ ways: [], cause: { sentence: '', picks: [], causes: [] }, finished: true }, 'There is no way to it, whatever else is picked.'],
  ])('none of which were found are told apart', async (answer, sentence) => {
    server.answer = () => json(answer)
    show(<WaysOut revisionId={3} bench={bench()} path="r.core" value="150" />)
    expect(await screen.findByText(sentence)).toBeTruthy()
  })
})

const line = (position: number, item: string, more: object = {}) => ({
  position,
  item,
  description: `${item} described`,
  net: '2',
  gross: '2.2',
  unit: 'm',
  unitLabel: 'm',
  perOrder: false,
  cost: '1',
  operation: null,
  issue: 'backflush',
  condition: '',
  because: [],
  quantity: '',
  quantityBecause: [],
  step: '',
  scrap: '0',
  rowId: item,
  assemblyId: 'r',
  below: null,
  ...more,
})

describe('a bill of materials', () => {
  const below = { item: 'DS', bom: [line(10, 'FR-80')] }
  const structure = {
    item: 'CR',
    bom: [
      line(10, 'PW-80', {
        condition: 'floor = none',
        because: [{ path: 'r.floor', label: 'Floor', value: 'None' }],
        quantity: 'area / 1 m',
        quantityBecause: [],
        scrap: '10',
        step: '0.1',
      }),
      line(20, 'DS', { below }),
    ],
  }

  it('opens and closes its levels', async () => {
    show(<BomTree structure={structure as never} />)
    const table = screen.getByRole('table', { name: 'Bill of materials of CR' })
    expect(within(table).getByText('FR-80')).toBeTruthy()
    await userEvent.click(screen.getByRole('button', { name: 'Close DS' }))
    expect(within(table).queryByText('FR-80')).toBeNull()
    await userEvent.click(screen.getByRole('button', { name: 'Open DS' }))
    expect(within(table).getByText('FR-80')).toBeTruthy()
  })

  it('says why a line is there and what was added to its quantity', async () => {
    const goTo = vi.fn()
    show(<BomTree structure={structure as never} goTo={goTo} />)
    await userEvent.click(screen.getByRole('button', { name: 'PW-80' }))
    expect(screen.getByText('floor = none')).toBeTruthy()
    expect(screen.getByText(/rounded up to steps of 0.1, with 10 % scrap: net 2, gross 2.2/)).toBeTruthy()
    await userEvent.click(screen.getAllByRole('button', { name: 'To its row' })[0]!)
    expect(goTo).toHaveBeenCalledWith('r', 'PW-80')
    await userEvent.click(screen.getByRole('button', { name: 'FR-80' }))
    expect(screen.getByText('A standard part: it is always there.')).toBeTruthy()
  })
})

describe('the choices of a question', () => {
  const choices = [
    { value: '80', label: '80 mm', color: null, can: false, unknown: false },
    { value: '100', label: '100 mm', color: null, can: true, unknown: false },
    { value: '120', label: '120 mm', color: null, can: true, unknown: false },
  ]

  it('can be picked where they can be had, asked about where not, and let go of again', async () => {
    const [pick, why] = [vi.fn(), vi.fn()]
    show(<ChoiceList label="Core" choices={choices} value="100" state="picked" onPick={pick} onWhy={why} />)
    await userEvent.click(screen.getByRole('button', { name: '120 mm' }))
    expect(pick).toHaveBeenLastCalledWith('120')
    await userEvent.click(screen.getByRole('button', { name: '80 mm, ruled out: why?' }))
    expect(why).toHaveBeenCalledWith('80')
    expect(pick).toHaveBeenCalledTimes(1)
    const chosen = screen.getByRole('button', { name: '100 mm' })
    expect(chosen.getAttribute('aria-pressed')).toBe('true')
    await userEvent.click(chosen)
    expect(pick).toHaveBeenLastCalledWith(null)
  })
})

describe('what is not known yet', () => {
  const unknown = { value: '140', label: '140 mm', color: null, can: false, unknown: true }

  it('is neither offered as possible nor told as ruled out, and can be picked', async () => {
    const [pick, why] = [vi.fn(), vi.fn()]
    show(<ChoiceList label="Core" choices={[unknown]} value={null} state="open" onPick={pick} onWhy={why} />)
    await userEvent.click(screen.getByRole('button', { name: '140 mm, not known yet' }))
    expect(pick).toHaveBeenCalledWith('140')
    expect(why).not.toHaveBeenCalled()
  })

  it('of a number is said on its line, and whatever is typed is picked', async () => {
    const [pick, bounds] = [vi.fn(), { min: '1200', max: '12000', step: '50' }]
    const asked = {
      path: 'r.length',
      rowId: 'length',
      name: 'length',
      label: 'Length',
      kind: 'quantity',
      state: 'open',
      applies: 'maybe',
      required: true,
      missing: false,
      value: null,
      valueLabel: null,
      clash: 0,
      unit: 'mm',
      unitLabel: 'mm',
      ...bounds,
      lowest: null,
      highest: null,
      members: null,
      choices: [],
      several: null,
      unknown: true,
    } as unknown as Asked
    const on = bench({ pick, answer: { faults: [] } as unknown as Answer, picks: [], fillIns: [] })
    const page = show(<AskedRow asked={asked} bench={on} revisionId={3} />)
    expect(screen.getByRole('slider').title).toBe('Not known yet how far it goes, of 1200 … 12000 mm')
    await userEvent.type(screen.getByRole('textbox', { name: 'Length' }), '3000{Enter}')
    expect(pick).toHaveBeenCalledWith('r.length', '3000')
    // Once it is known that it cannot be, it is asked about instead.
    page.unmount()
    pick.mockClear()
    server.answer = () => json({ reason: null, possible: false, finished: true })
    show(<AskedRow asked={{ ...asked, unknown: false, lowest: '4000', highest: '6000' }} bench={on} revisionId={3} />)
    await userEvent.type(screen.getByRole('textbox', { name: 'Length' }), '3000{Enter}')
    expect(pick).not.toHaveBeenCalled()
    await waitFor(() => expect(server.requests.map((r) => r.path)).toContain('/api/revisions/3/why'))
    // What was typed stays, and the nearest that can be had is one click away.
    expect(screen.getByRole<HTMLInputElement>('textbox', { name: 'Length' }).value).toBe('3000')
    expect(screen.getByText(/nearest that can be had/).textContent).toBe('The nearest that can be had: 4000 mm')
    await userEvent.click(screen.getByRole('button', { name: '4000 mm' }))
    expect(pick).toHaveBeenCalledWith('r.length', '4000')
    expect(screen.queryByText(/nearest that can be had/)).toBeNull()
  })

  it.each([
    ['900', { lowest: '1000', highest: '1200', members: null, step: '50' }, ['1000']],
    ['1300', { lowest: '1000', highest: '1200', members: null, step: '50' }, ['1200']],
    ['1160', { lowest: '1000', highest: '1200', members: null, step: '50' }, ['1150', '1200']],
    ['1100', { lowest: '1000', highest: '1200', members: null, step: '50' }, []],
    ['1100', { lowest: '900', highest: '1500', members: ['900', '1150', '1500'], step: '50' }, ['900', '1150']],
    ['2000', { lowest: '900', highest: '1500', members: ['900', '1150', '1500'], step: '50' }, ['1500']],
    ['a', { lowest: '900', highest: '1500', members: null, step: '50' }, []],
    ['5', { lowest: null, highest: null, members: null, step: '1' }, []],
  ])('the nearest to %s among what can be had', (text, can, near) => expect(nearestTo(text, can)).toEqual(near))

  it('is counted apart in a long list', () => {
    const many = Array.from({ length: 8 }, (_, i) => ({ value: `${i}`, label: `${i} mm`, color: null, can: i < 3, unknown: i === 7 }))
    show(<ChoiceList label="Core" choices={many} value={null} state="open" onPick={vi.fn()} onWhy={vi.fn()} />)
    expect(screen.getByRole('button', { name: 'Core: open' }).textContent).toContain('3 of 8, 1 not known yet')
  })
})

describe('several choices', () => {
  const member = {
    path: 'x#rail',
    label: 'Rail',
    color: null,
    state: 'suggested',
    chosen: false,
    suggested: false,
    canBeIn: true,
    canBeOut: true,
    missing: false,
    clash: 0,
    unknown: false,
  } as const

  it('are taken in and out, without a pick for what is suggested anyway', async () => {
    const onPick = vi.fn()
    const page = show(
      <SeveralChoice
        label="Extras"
        members={[member, { ...member, path: 'x#lamp', label: 'Lamp', state: 'picked', chosen: true }]}
        onPick={onPick}
        onWhy={vi.fn()}
      />,
    )
    await userEvent.click(screen.getByRole('checkbox', { name: 'Rail', checked: false }))
    await userEvent.click(screen.getByRole('checkbox', { name: 'Lamp', checked: true }))
    expect(onPick.mock.calls).toEqual([
      ['x#rail', 'yes'],
      ['x#lamp', null],
    ])
    page.unmount()
    show(<SeveralChoice label="Extras" members={[{ ...member, chosen: true, suggested: true }]} onPick={onPick} onWhy={vi.fn()} />)
    await userEvent.click(screen.getByRole('checkbox', { name: 'Rail' }))
    expect(onPick).toHaveBeenLastCalledWith('x#rail', 'no')
  })

  it('that cannot be changed tell why instead', async () => {
    const [onPick, onWhy] = [vi.fn(), vi.fn()]
    const out = { ...member, canBeIn: false }
    const always = { ...member, path: 'x#lamp', label: 'Lamp', state: 'follows', chosen: true, canBeOut: false } as const
    show(<SeveralChoice label="Extras" members={[out, always]} onPick={onPick} onWhy={onWhy} />)
    await userEvent.click(screen.getByRole('checkbox', { name: 'Rail, ruled out: why?' }))
    await userEvent.click(screen.getByRole('checkbox', { name: 'Lamp, always in: why?' }))
    expect(onPick).not.toHaveBeenCalled()
    expect(onWhy.mock.calls).toEqual([
      [out, 'yes'],
      [always, 'yes'],
    ])
  })
})
