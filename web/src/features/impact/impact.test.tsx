import { screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'
import { showPage } from '../../testing/page'
import { server } from '../../testing/server'
import { ImpactPage } from './ImpactPage'

const entry = {
  id: 'a',
  version: 1,
  isStructure: false,
  name: 'Dairy hall',
  productCode: 'CR',
  revisionId: 1,
  revisionNumber: 1,
  changedBy: 'marit',
  changedAt: '2026-11-24T10:00:00Z',
  kind: 'breaks',
  because: '§2 A panel cell carries at most 90 m² of ceiling.',
  rows: [{ rowId: 'rule2', assemblyId: 'r', name: '§2' }],
  changes: [],
  allChanges: 0,
  group: 'breaks rule2',
}
const price = { of: 'price', rowId: '', subject: 'List price', before: '9550.00 EUR', after: '9900.00 EUR', by: '350' }
const changed = {
  ...entry,
  id: 'b',
  name: 'Pharmacy annex',
  kind: 'changes',
  because: '',
  rows: [],
  changes: [price],
  allChanges: 3,
  group: 'changes Price',
}
const edit = {
  sequence: 7,
  person: 'ines',
  madeAt: '2026-11-25T10:00:00Z',
  kind: 'edit',
  undoes: null,
  changes: [{ rowId: 'rule2', name: '§2', what: 'upper: 90 m2 → 30 m2' }],
}
const impact = {
  head: 7,
  all: 14,
  done: 14,
  running: false,
  troubles: ['DS could not take this draft: one fault would stand in it.'],
  counts: { breaks: 1, asksMore: 0, changes: 1, mends: 0, staysBroken: 0, same: 12, unknown: 0 },
  groups: [
    { group: 'breaks rule2', kind: 'breaks', count: 1, about: '§2', edit: { edit, seenOn: 'Dairy hall' } },
    { group: 'changes Price', kind: 'changes', count: 1, about: 'List price', edit: { edit: null, seenOn: 'Pharmacy annex' } },
  ],
  entries: [entry, changed],
}
const revision = (state: string) => ({
  id: 2,
  number: 2,
  state,
  head: 7,
  author: 'ines',
  changedAt: '2026-11-25T10:00:00Z',
  document: { label: { en: 'Cold room' }, code: 'CR' },
})

function show(state: string, rights = ['read', 'configure']) {
  const answers = {
    'GET /api/revisions/2': () => revision(state),
    'GET /api/revisions/2/impact': () => impact,
    'POST /api/revisions/2/impact/move': () => ({ moved: 12, notMoved: [{ id: 'a', name: 'Dairy hall', why: 'It is too large.' }], left: 3 }),
  }
  return showPage(<ImpactPage />, { answers, rights, route: '/workshop/:revisionId/impact', path: '/workshop/2/impact' })
}

describe('What a draft touches', () => {
  it('is told by the edit that does it, and narrowed to what one edit touches', async () => {
    show('draft')
    const byWhat = await screen.findByRole('region', { name: 'By what' })
    expect(within(byWhat).getByText('1 break')).toBeTruthy()
    expect(byWhat.textContent).toContain('by ines')
    expect(within(byWhat).getByRole('link', { name: '§2' }).getAttribute('href')).toBe('/workshop/2?row=rule2')
    expect(within(byWhat).getByText(/by none of the draft’s edits/)).toBeTruthy()
    expect(screen.getByText(/DS could not take this draft/)).toBeTruthy()
    const list = screen.getByRole('region', { name: 'What is touched' })
    expect(within(list).getByText('9550.00 EUR → 9900.00 EUR')).toBeTruthy()
    await userEvent.click(within(byWhat).getByRole('button', { name: 'List price' }))
    expect(within(list).queryByText('Dairy hall')).toBeNull()
    await userEvent.click(within(list).getByRole('button', { name: /Pharmacy annex/ }))
    expect(within(list).getByRole('row', { name: /List price.*\+350/ })).toBeTruthy()
    expect(within(list).getByText('3 changes in all')).toBeTruthy()
    expect(screen.queryByRole('button', { name: /^Move/ })).toBeNull()
  })

  it('is moved on after the release: what stays the same at once, what is left is told', async () => {
    show('released')
    await userEvent.click(await screen.findByRole('button', { name: 'Move the 12 that stay the same to this revision' }))
    const said = await screen.findByText(/12 are moved/)
    expect(said.textContent).toContain('Dairy hall: It is too large.')
    expect(said.textContent).toContain('3 more are left')
    expect(server.requests.find((r) => r.path.endsWith('/move'))?.body).toEqual({ ids: null })
  })

  it('is moved by nobody who may not configure', async () => {
    show('released', ['read'])
    await screen.findByRole('region', { name: 'By what' })
    expect(screen.queryByRole('button', { name: /^Move/ })).toBeNull()
  })
})
