import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { expect, it, vi } from 'vitest'
import { json, server } from '../../testing/server'
import { HistorySheet } from './HistorySheet'
import { WorkshopContext, type Workshop } from './Workshop'

const entry = (sequence: number, kind = 'edit', undoes: number | null = null) => ({
  sequence,
  person: 'ines',
  madeAt: '2026-11-24T08:00:00Z',
  kind,
  undoes,
  changes: [{ rowId: sequence === 5 ? 'r.width' : 'gone', name: `row ${sequence}`, what: 'max: 8 → 9' }],
})
const document = { reused: [], assemblies: [{ id: 'room', topics: [{ id: 't', rows: [{ id: 'r.width' }] }] }] }

it('shows who changed what, goes to the row, and fetches what is older when asked, back into the revisions before', async () => {
  const paths: string[] = []
  server.answer = (asked) => {
    if (asked.path === '/api/products/p/revisions')
      return json([
        { id: 9, number: 2, author: 'ines' },
        { id: 4, number: 1, author: 'tomas', releasedBy: 'marit', releasedAt: '2026-10-01T08:00:00Z' },
      ])
    paths.push(asked.path + asked.search)
    if (asked.path === '/api/revisions/4/history')
      return json([entry(1)].map((e) => ({ ...e, changes: [{ ...e.changes[0], name: 'the first of all' }] })))
    return json(asked.search === '' ? [entry(5), entry(4, 'undo', 3), entry(3)] : [entry(2), entry(1)])
  }
  const [goToRow, close] = [vi.fn(), vi.fn()]
  render(
    <QueryClientProvider client={new QueryClient()}>
      <WorkshopContext value={{ revisionId: 9, document, goToRow, model: { revision: { productId: 'p' } } } as unknown as Workshop}>
        <HistorySheet onClose={close} />
      </WorkshopContext>
    </QueryClientProvider>,
  )
  const link = await screen.findByRole('button', { name: 'row 5' })
  expect(screen.getByText('taken back:')).toBeTruthy()
  expect(screen.queryByText('row 2')).toBeNull()
  await userEvent.click(screen.getByRole('button', { name: 'Earlier ones' }))
  expect(await screen.findByText('row 1')).toBeTruthy()
  expect(screen.queryByRole('button', { name: 'Earlier ones' })).toBeNull()
  await userEvent.click(screen.getByRole('button', { name: 'Those of the revision before' }))
  expect(await screen.findByText('the first of all')).toBeTruthy()
  expect(screen.getByText('Revision 1').parentElement!.textContent).toContain('by tomas, released by marit')
  expect(paths).toEqual(['/api/revisions/9/history', '/api/revisions/9/history?before=3', '/api/revisions/4/history'])
  expect(screen.queryByRole('button', { name: /revision before/ })).toBeNull()
  await userEvent.click(link)
  expect(goToRow).toHaveBeenCalledWith('room', 'r.width')
  expect(close).toHaveBeenCalled()
})
