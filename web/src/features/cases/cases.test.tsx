import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'
import { showPage } from '../../testing/page'
import { CasesPage } from './CasesPage'
import { casesInShort, type Case, type Cases } from './useCases'

const one = (over: Partial<Case>): Case => ({
  id: 'c1',
  name: 'Butcher’s freezer',
  note: null,
  site: 'HAL',
  date: null,
  quantity: '5',
  state: 'passed',
  first: '',
  picks: [{ path: 'duty', label: 'Duty', value: 'duty:freezer', code: 'freezer', valueLabel: 'Freezer', fault: null }],
  expected: [
    {
      index: 0,
      of: 'price',
      at: '',
      subject: 'List price',
      is: '9040',
      shown: '9040.00 EUR',
      within: null,
      because: null,
      actual: null,
      actualShown: null,
      fault: null,
    },
  ],
  ...over,
})

const failing = one({
  id: 'c2',
  name: 'Dairy hall',
  state: 'failed',
  first: 'List price: 9040.00 EUR is expected, 9100.00 EUR came out.',
  expected: [{ ...one({}).expected[0]!, actual: '9100', actualShown: '9100.00 EUR' }],
})

const view = (cases: Case[]): Cases => ({
  head: 7,
  running: false,
  trouble: null,
  all: cases.length,
  passed: cases.filter((c) => c.state === 'passed').length,
  failed: cases.filter((c) => c.state === 'failed').length,
  open: cases.filter((c) => c.state === null).length,
  cases,
  contradictions: [],
})

function show(cases: Case[], { rights = ['read', 'edit', 'remark'], state = 'draft' } = {}) {
  const edits: { steps: unknown[] }[] = []
  showPage(<CasesPage />, {
    route: '/workshop/:revisionId/cases',
    path: '/workshop/2/cases',
    rights,
    answers: {
      'GET /api/revisions/2': () => ({
        number: 2,
        state,
        head: 7,
        changedAt: '2026-11-29T10:00:00Z',
        document: { id: 'room', code: 'CR', label: { en: 'Room' } },
      }),
      'GET /api/revisions/2/cases': () => view(cases),
      'GET /api/revisions/2/cases/coverage': () => ({
        kinds: [
          { kind: 'rule', reached: 1, all: 2, missing: [{ kind: 'rule', rowId: 'r1', assemblyId: 'a', name: '§1', part: '' }] },
          { kind: 'value', reached: 4, all: 4, missing: [] },
        ],
        proposals: ['p1', 'p2'].map((id) => ({
          case: {
            id,
            name: id,
            picks: [{ at: 'n', is: '8' }],
            quantity: '1',
            expected: [{ of: 'verdict', at: '', is: 'ruled out', within: null, because: null }],
          },
          name: `Proposed ${id}`,
          picks: [],
          reaches: [{ kind: 'rule', rowId: 'r1', assemblyId: 'a', name: '§1', part: '' }],
        })),
        pending: false,
        finished: true,
      }),
      'POST /api/revisions/2/edits': (request) => {
        edits.push(request.body as never)
        return {}
      },
    },
  })
  return edits
}

describe('test cases', () => {
  it('are told with their first difference, and what came out is accepted with a reason', async () => {
    const edits = show([one({}), failing])
    await userEvent.click(await screen.findByRole('button', { name: /Dairy hall/ }))
    expect(screen.getByText('List price: 9040.00 EUR is expected, 9100.00 EUR came out.')).toBeTruthy()
    const row = screen.getByRole('row', { name: /List price/ })
    expect(within(row).getByText('9100.00 EUR')).toBeTruthy()
    await userEvent.click(within(row).getByRole('button', { name: 'accept' }))
    const keep = screen.getByRole<HTMLButtonElement>('button', { name: 'Accept what came out' })
    // Not without a reason.
    expect(keep.disabled).toBe(true)
    await userEvent.type(screen.getByLabelText('Why it is right as it comes out now'), 'Prices of 2027')
    await userEvent.click(keep)
    await waitFor(() =>
      expect(edits[0]?.steps).toEqual([
        { do: 'set', rowId: 'c2', field: 'expected/0/is', value: '9100', before: '9040' },
        { do: 'set', rowId: 'c2', field: 'expected/0/because', value: 'Prices of 2027', before: null },
      ]),
    )
  })

  it('that differ alike are accepted together, with one reason in one edit', async () => {
    const edits = show([one({}), failing, { ...failing, id: 'c3', name: 'Fish hall' }])
    const alike = await screen.findByRole('region', { name: 'Different in several cases' })
    expect(alike.textContent).toContain('List price: in 2 cases')
    await userEvent.click(within(alike).getByRole('button', { name: 'accept all …' }))
    await userEvent.type(screen.getByLabelText('Why it is right as it comes out now'), 'Prices of 2027{Enter}')
    await waitFor(() => expect(edits).toHaveLength(1))
    expect((edits[0]!.steps as { rowId: string; field: string }[]).map((s) => `${s.rowId} ${s.field}`)).toEqual([
      'c2 expected/0/is',
      'c2 expected/0/because',
      'c3 expected/0/is',
      'c3 expected/0/because',
    ])
  })

  it('are filtered by words and by whether they pass', async () => {
    show([one({}), failing])
    await screen.findByText('Dairy hall')
    await userEvent.type(screen.getByLabelText('Search test cases'), 'butcher freezer')
    expect(screen.queryByText('Dairy hall')).toBeNull()
    await userEvent.clear(screen.getByLabelText('Search test cases'))
    await userEvent.click(screen.getByLabelText('Only those that do not pass'))
    expect(screen.queryByText('Butcher’s freezer')).toBeNull()
    expect(screen.getByText('Dairy hall')).toBeTruthy()
  })

  it('are made of what is proposed, without those that are unticked', async () => {
    const edits = show([one({})])
    await userEvent.click(await screen.findByRole('button', { name: 'Find out' }))
    expect(await screen.findByText('1 of 2')).toBeTruthy()
    await userEvent.click(screen.getByRole('checkbox', { name: /Proposed p1/ }))
    await userEvent.click(screen.getByRole('button', { name: 'Make these 1' }))
    await waitFor(() =>
      expect(edits[0]?.steps).toMatchObject([{ do: 'add', parentId: 'room', collection: 'cases', row: { id: 'p2', picks: [{ at: 'n', is: '8' }] } }]),
    )
  })

  it('cannot be changed in a released revision, nor by who may not edit', async () => {
    show([failing], { state: 'released' })
    await userEvent.click(await screen.findByRole('button', { name: /Dairy hall/ }))
    expect(screen.queryByRole('button', { name: 'accept' })).toBeNull()
    expect(screen.queryByRole('button', { name: 'Remove this case' })).toBeNull()
  })

  it('are told in short', () => {
    expect(casesInShort(undefined)).toBe('…')
    expect(casesInShort(view([]))).toBe('none yet')
    expect(casesInShort(view([one({}), failing]))).toBe('1 of 2 fail')
    expect(casesInShort({ ...view([one({}), one({ id: 'x', state: null })]), running: true })).toBe('1 of 2 pass so far')
    expect(casesInShort(view([one({})]))).toBe('1 of 1 pass')
  })
})
