import { act, screen } from '@testing-library/react'
import { Profiler } from 'react'
import { beforeEach, expect, it, vi } from 'vitest'
import { documentOf, finding, inWorkshop, rows } from '../../testing/workshop'
import type { Row } from './model'
import { Worksheet } from './Worksheet'

const drawn: string[] = []
beforeEach(() => void drawn.splice(0))

// The mark stands in every line, so that React's profiler counts how often the line around it is drawn.
vi.mock('./KindMark', async (actual) => {
  const { KindMark } = await actual<typeof import('./KindMark')>()
  return {
    KindMark: ({ row }: { row: Row }) => (
      <Profiler id={row.id} onRender={(id) => void drawn.push(id)}>
        <KindMark row={row} />
      </Profiler>
    ),
  }
})

const answer = (width: string) => ({
  sections: [
    {
      asked: [
        { path: 'width', rowId: 'width', state: 'picked', valueLabel: width, missing: false },
        { path: 'finish', rowId: 'finish', state: 'open', valueLabel: null, missing: false },
      ],
    },
  ],
  figures: [{ rowId: 'area', suggested: `${Number(width) / 500} m²` }],
  lines: [
    { rowId: 'hinge', suggested: 'in', suggestedQuantity: '2 pcs' },
    { rowId: 'hang', suggested: 'out', suggestedQuantity: '' },
  ],
  clashes: [],
})
const all = Object.keys(rows)

it('A pick draws the rows that come to something else, and no other', () => {
  const page = inWorkshop((_, door) => <Worksheet assembly={door} openRow={null} kind={null} />, { bench: { answer: answer('900') } as never })
  expect(drawn.sort()).toEqual(all.sort())
  drawn.splice(0)
  page.update({ bench: { answer: answer('1000') } })
  expect(drawn.sort()).toEqual(['area', 'width'])
  expect(screen.getByText('2 m²')).toBeTruthy()
})

it('A fault, a person and an edit draw the row that they are of', () => {
  const page = inWorkshop((_, door) => <Worksheet assembly={door} openRow={null} kind={null} />)
  drawn.splice(0)
  page.update({ findings: [finding('wide', 'expression', 'There is no “x”.')] })
  expect(drawn.splice(0)).toEqual(['wide'])
  page.update({ present: [{ page: 'p', person: 'marit', display: 'Marit', rowId: 'hinge' }] })
  // What was wrong before is right again.
  expect(drawn.splice(0).sort()).toEqual(['hinge', 'wide'])
  page.update({ document: documentOf(...Object.values({ ...rows, hinge: { ...rows.hinge, quantity: '3' } as Row })) })
  expect(drawn.splice(0)).toEqual(['hinge'])
  expect(screen.getByText(/HNG-L/).textContent).toContain('3')
})

it('Marking a row draws that row', () => {
  inWorkshop((_, door) => <Worksheet assembly={door} openRow={null} kind={null} />)
  drawn.splice(0)
  act(() => document.querySelector('[data-row="wide"]')!.dispatchEvent(new MouseEvent('click', { bubbles: true, ctrlKey: true })))
  expect(drawn).toEqual(['wide'])
})
