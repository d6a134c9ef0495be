import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { expect, it, vi } from 'vitest'
import { json, server } from '../../testing/server'
import { HistorySheet } from './HistorySheet'
import { WorkshopContext, type Workshop } from './Workshop'

const entry = (sequence: number, kind = 'edit', undoes: number | null = null) => ({ sequence, person: 'ines', madeAt: '2026-11-24T08:00:00Z', kind, undoes, changes: [{ rowId: sequence === 5 ? 'r.width' : 'gone', name: `row ${sequence}`, what: 'max: 8 → 9' }] })
const document = { reused: [], assemblies: [{ id: 'room', topics: [{ id: 't', rows: [{ id: 'r.width' }] }] }] }

it('shows who changed what, goes to the row, and fetches what is older when asked', async () => {
  const paths: string[] = []
  server.answer = (asked) => {
    paths.push(asked.search)
    return json(asked.search === '' ? [entry(5), entry(4, 'undo', 3), entry(3)] : [entry(2), entry(1)])
  }
  const [goToRow, close] = [vi.fn(), vi.fn()]
  render(
    <QueryClientProvider client={new QueryClient()}>
      <WorkshopContext value={{ revisionId: 1, document, goToRow } as unknown as Workshop}>
        <HistorySheet onClose={close} />
      </WorkshopContext>
    </QueryClientProvider>,
  )
  const link = await screen.findByRole('button', { name: 'row 5' })
  expect(screen.getByText('taken back:')).toBeTruthy()
  expect(screen.queryByText('row 2')).toBeNull()
  await userEvent.click(screen.getByRole('button', { name: 'Earlier ones' }))
  expect(await screen.findByText('row 1')).toBeTruthy()
  expect(paths).toEqual(['', '?before=3'])
  expect(screen.queryByRole('button', { name: 'Earlier ones' })).toBeNull()
  await userEvent.click(link)
  expect(goToRow).toHaveBeenCalledWith('room', 'r.width')
  expect(close).toHaveBeenCalled()
})
