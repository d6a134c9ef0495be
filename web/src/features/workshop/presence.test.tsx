import { render, screen, waitFor, within } from '@testing-library/react'
import { describe, expect, it } from 'vitest'
import { json, server } from '../../testing/server'
import { inWorkshop } from '../../testing/workshop'
import { initials, others, usePresence, type Present } from './usePresence'
import { Worksheet } from './Worksheet'

const page = (id: string, person: string, rowId: string | null): Present => ({ page: id, person, display: `${person} Halloran`, rowId })

function Page({ rowId }: { rowId: string | null }) {
  return <output>{usePresence(7, rowId)}</output>
}

describe('who is in the model now', () => {
  it('is said when a page opens, goes to another row, and leaves', async () => {
    server.answer = () => json({})
    const { rerender, unmount } = render(<Page rowId={null} />)
    const own = screen.getByRole('status').textContent
    rerender(<Page rowId="width" />)
    rerender(<Page rowId="width" />)
    unmount()
    await waitFor(() => expect(server.requests).toHaveLength(3))
    expect(server.requests.map((r) => r.body)).toEqual([
      { page: own, rowId: null, leaves: false },
      { page: own, rowId: 'width', leaves: false },
      { page: own, rowId: 'width', leaves: true },
    ])
    expect(server.requests[0]!.path).toBe('/api/revisions/7/presence')
  })

  it('is everyone but this page, once a person and row', () => {
    const here = [
      page('a', 'Ines', 'width'),
      page('b', 'Ines', 'width'),
      page('c', 'Tomas', 'width'),
      page('d', 'Tomas', 'width'),
      page('e', 'Tomas', null),
    ]
    expect(others(here, 'a').map((p) => p.page)).toEqual(['b', 'c', 'e'])
    expect([initials('Ines Halloran'), initials('odile'), initials('Ana Maria de Souza'), initials('')]).toEqual(['IH', 'O', 'AM', ''])
  })

  it('is seen by initials at the row', () => {
    inWorkshop((_, door) => <Worksheet assembly={door} openRow={null} kind={null} />, { present: [page('b', 'Tomas', 'width')] })
    expect(within(screen.getByRole('button', { name: /^attribute width/ })).getByText('TH')).toBeTruthy()
    expect(screen.getAllByText('Tomas Halloran is here')).toHaveLength(1)
  })
})
