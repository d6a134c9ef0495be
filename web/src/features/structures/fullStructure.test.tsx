import { render, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { MemoryRouter } from 'react-router'
import { describe, expect, it, vi } from 'vitest'
import type { Schemas } from '../../api/client'
import { told } from '../../testing/answer'
import { showPage } from '../../testing/page'
import { ComparePage } from '../configurations/ComparePage'
import { CostTime } from '../../ui/structure/CostTime'
import { FullStructurePage } from './FullStructurePage'

const totals = (cost: string) => ({ material: '40', scrap: '5', labour: '30', machine: '15', overhead: '10', cost, weight: '3', work: '60' })
const costs: Schemas['CostsView'] = {
  quantity: '3',
  order: totals('300.5'),
  piece: totals('100.17'),
  levels: [
    { item: 'CR', description: 'Cold room', depth: 0, lot: '3', own: totals('200'), all: totals('300.5') },
    { item: 'DS', description: 'Door set', depth: 1, lot: '6', own: totals('100.5'), all: totals('100.5') },
  ],
  schedule: {
    days: '4',
    longestBought: 'UNIT, 15 days',
    operations: [
      { item: 'DS', depth: 1, sequence: 10, name: 'Hang', workCentre: 'Bench', start: '0', end: '1', isCritical: false },
      { item: 'CR', depth: 0, sequence: 20, name: 'Foam', workCentre: 'Press', start: '1', end: '4', isCritical: true },
    ],
  },
  findings: [
    { severity: 'error', sentence: 'SEAL is not kept at Haldwyn.', mendedIn: 'item', code: 'SEAL', rowId: 'p', assemblyId: 'a', rowName: 'SEAL' },
  ],
}

describe('cost and time', () => {
  it('adds up level by level, draws operations to scale, and says what is missing with the way there', () => {
    render(
      <MemoryRouter>
        <CostTime costs={costs} />
      </MemoryRouter>,
    )
    expect(
      within(screen.getByRole('region', { name: 'Cost by level' }))
        .getAllByRole('row')
        .map((r) => r.lastChild!.textContent),
    ).toEqual(['Cost EUR', '300.50', '100.50', '100.17'])
    const foam = screen.getByTitle('day 1.00 to 4.00, on the longest way')
    expect([foam.style.left, foam.style.width]).toEqual(['25%', '75%'])
    expect(screen.getByRole('link', { name: 'To the item' }).getAttribute('href')).toBe('/items/SEAL')
  })
})

const line = (more: object) => ({
  key: 'k',
  depth: 0,
  kind: 'part',
  rowId: 'p',
  assemblyId: 'a',
  prefix: '',
  name: 'BOLT',
  description: '',
  quantity: '2',
  condition: '',
  state: 'always',
  whyNot: null,
  because: [],
  question: null,
  position: 0,
  ...more,
})

describe('the full structure', () => {
  it('is narrowed to what is there or not, and by picks, in its address', async () => {
    const bodies: { picks: unknown[] }[] = []
    showPage(<FullStructurePage />, {
      route: '/workshop/:revisionId/structure',
      path: '/workshop/3/structure',
      answers: {
        'GET /api/revisions/3': () => ({
          id: 3,
          number: 1,
          state: 'draft',
          head: 1,
          sites: [{ code: 'HAL', label: 'Haldwyn' }],
          document: { code: 'CR', label: { en: 'Cold room' } },
        }),
        'POST /api/revisions/3/full-structure': ({ body }: { body?: unknown }) => {
          bodies.push(body as never)
          return {
            example: true,
            lines: [
              line({}),
              line({
                key: 'q',
                rowId: 'q',
                name: 'LAMP',
                state: 'out',
                condition: 'lit',
                whyNot: 'This does not hold: lit.',
                because: [{ path: 'lit', label: 'Lit', value: 'no' }],
              }),
            ],
          }
        },
        'POST /api/revisions/3/answer': () =>
          told({
            sections: [
              {
                title: 'Duty',
                place: null,
                asked: [
                  {
                    path: 'lit',
                    label: 'Lit',
                    choices: [
                      { value: 'yes', label: 'Yes', can: true, color: null },
                      { value: 'no', label: 'No', can: false, color: null },
                    ],
                    members: null,
                    unitLabel: '',
                  },
                ],
              },
            ],
          }),
      },
    })
    // Which lines are drawn hangs on the height of the window, which there is none of here; how many there are does not.
    const rows = () => screen.getByRole('table', { name: 'Lines' }).getAttribute('aria-rowcount')
    await vi.waitFor(() => expect(rows()).toBe('2'))
    await userEvent.selectOptions(await screen.findByLabelText('Narrow by'), 'lit')
    expect(within(screen.getByLabelText('Value of Lit')).queryByRole('option', { name: 'No' })).toBeNull()
    await userEvent.selectOptions(screen.getByLabelText('Value of Lit'), 'yes')
    expect(screen.getByLabelText('address').textContent).toBe('/workshop/3/structure?pick=lit%3Dyes')
    await vi.waitFor(() => expect(bodies.at(-1)!.picks).toEqual([{ path: 'lit', value: 'yes' }]))
    await userEvent.selectOptions(screen.getByLabelText('Which lines'), 'out')
    expect(rows()).toBe('1')
  })
})

describe('a comparison', () => {
  it('shows what differs, and the rest when asked', async () => {
    const head = (id: string, name: string) => ({ id, name, productCode: 'CR', revisionNumber: 1, site: null, date: null, complete: true })
    showPage(<ComparePage />, {
      route: '/compare',
      path: '/compare?left=a&right=b',
      answers: {
        'GET /api/compare': () => ({
          left: head('a', 'Harbour'),
          right: head('b', 'Bakery'),
          rows: [
            { kind: 'attribute', name: 'Duty', before: 'Freezer', after: 'Chill' },
            { kind: 'total', name: 'Cost', before: '1 EUR', after: '1 EUR' },
          ],
        }),
      },
    })
    expect(await screen.findByText('Freezer')).toBeTruthy()
    expect(screen.queryByText('Cost')).toBeNull()
    await userEvent.click(screen.getByLabelText('Only what differs'))
    expect(screen.getByText('Cost')).toBeTruthy()
    expect(screen.getByRole('link', { name: 'Bakery' }).getAttribute('href')).toBe('/configurations/b')
  })
})
