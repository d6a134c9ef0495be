import { screen, within } from '@testing-library/react'
import { describe, expect, it } from 'vitest'
import { showPage } from '../../testing/page'
import { DifferencePage } from './DifferencePage'

const nothing = { example: null, because: null, isProven: true }

function show(difference: object, meaning: object = { lost: nothing, gained: nothing, values: [], suggested: [] }) {
  showPage(<DifferencePage />, {
    route: '/workshop/:revisionId/difference',
    path: '/workshop/2/difference',
    answers: {
      'GET /api/revisions/2': () => ({ number: 2, state: 'draft', head: 7, document: { id: 'room', code: 'CR', label: { en: 'Room' } } }),
      'GET /api/revisions/2/difference': () => difference,
      'GET /api/revisions/2/difference/meaning': () => meaning,
    },
  })
}

const sheets = [
  {
    id: 'room',
    name: 'Room',
    isList: false,
    changes: [
      { kind: 'changed', id: 'rule2', rowId: 'rule2', name: '§2', fields: [{ field: 'upper', before: '90 m2', after: '30 m2' }] },
      { kind: 'removed', id: 'part20', rowId: 'part20', name: 'LED-36', fields: [] },
    ],
  },
  {
    id: 'cores',
    name: 'Panel core',
    isList: true,
    changes: [{ kind: 'added', id: 'cores:200', rowId: 'cores:200', name: 'Panel core 200 mm', fields: [] }],
  },
]

describe('what a revision changes', () => {
  it('is told by worksheet, with what stood there, and with what it means', async () => {
    show(
      { from: 1, fromId: 1, to: 2, sheets },
      {
        lost: { example: [{ path: 'length', label: 'Length', value: '9000', valueLabel: '9000 mm' }], because: '§2', isProven: true },
        gained: { ...nothing, isProven: false },
        values: [{ label: 'Length', before: '1200 mm … 12000 mm', after: '1200 mm … 9000 mm' }],
        suggested: [{ kind: 'total', name: 'List price', before: '9760.00 EUR', after: '9900.00 EUR' }],
      },
    )
    const room = await screen.findByRole('region', { name: 'Room' })
    expect(within(room).getByText('90 m2')).toBeTruthy()
    expect(within(room).getByRole('img', { name: 'removed' })).toBeTruthy()
    // What is gone leads nowhere.
    expect(within(room).queryByRole('link', { name: 'LED-36' })).toBeNull()
    expect(screen.getByRole('link', { name: 'Panel core 200 mm' }).getAttribute('href')).toBe('/workshop/2?list=cores')
    const means = await screen.findByRole('region', { name: 'What it means' })
    expect(await within(means).findByText(/ruled out now/)).toBeTruthy()
    expect(within(means).getByText('9000 mm')).toBeTruthy()
    // What was not proven is not passed off as such.
    expect(within(means).getByText(/does not prove/)).toBeTruthy()
    expect(within(means).getByText(/List price/).textContent).toContain('9900.00 EUR')
  })

  it('says that nothing was released before, or that nothing is different', async () => {
    show({ from: null, fromId: null, to: 2, sheets: [] })
    expect(await screen.findByText('Nothing was released before: everything is new.')).toBeTruthy()
  })
})
