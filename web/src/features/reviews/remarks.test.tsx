import { screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'
import { showPage } from '../../testing/page'
import { problem, server } from '../../testing/server'
import { Remarks } from './Remarks'

const remark = {
  id: 'm1',
  rowId: 'area',
  rowName: 'area',
  assemblyId: 'r',
  text: 'Inner or outer?',
  person: 'tomas',
  madeAt: '2026-11-24T10:00:00Z',
  closedBy: null,
  closedAt: null,
  answers: [{ id: 'a1', text: 'Inner.', person: 'ines', madeAt: '2026-11-24T11:00:00Z' }],
}
const closed = {
  ...remark,
  id: 'm2',
  rowId: 'gone',
  rowName: 'old area',
  assemblyId: null,
  text: 'Is it used?',
  closedBy: 'ines',
  closedAt: '2026-11-25T10:00:00Z',
  answers: [],
}

function show(rowId: string | null, rights = ['read', 'remark'], more = {}) {
  const answers = { 'GET /api/revisions/2/remarks': () => [remark, closed], ...more }
  return showPage(<Remarks revisionId={2} rowId={rowId} />, { answers, rights })
}

describe('Remarks', () => {
  it('are shown with their answers and the way to their rows, those that are closed folded away', async () => {
    show(null)
    expect((await screen.findByRole('link', { name: 'area' })).getAttribute('href')).toBe('/workshop/2?row=area')
    expect(screen.getByText(/Inner\./)).toBeTruthy()
    await userEvent.click(screen.getByText('1 closed'))
    expect(screen.getByText('old area, which is gone')).toBeTruthy()
    expect(screen.getByRole('button', { name: 'Open again' })).toBeTruthy()
  })

  it('of one row are those on it alone; what was typed stays where it could not be stored', async () => {
    let refuses = true
    show('area', ['read', 'remark'], {
      'POST /api/revisions/2/remarks': () => (refuses ? problem(503, 'The database cannot be reached.') : new Response(null, { status: 204 })),
    })
    await screen.findByText(/Inner or outer/)
    expect(screen.queryByText('1 closed')).toBeNull()
    const field = screen.getByRole<HTMLTextAreaElement>('textbox', { name: 'A remark on this row' })
    await userEvent.type(field, 'Say which.{Control>}{Enter}{/Control}')
    expect((await screen.findByRole('alert')).textContent).toContain('cannot be reached')
    expect(field.value).toBe('Say which.')
    refuses = false
    await userEvent.click(screen.getByRole('button', { name: 'Remark' }))
    await expect.poll(() => field.value).toBe('')
    expect(server.requests.filter((r) => r.method === 'POST').at(-1)?.body).toMatchObject({ rowId: 'area', text: 'Say which.' })
  })

  it('are answered and closed by who may, and only read by others', async () => {
    const stored = () => new Response(null, { status: 204 })
    const page = show('area', ['read', 'remark'], {
      'POST /api/revisions/2/remarks/m1/answers': stored,
      'PUT /api/revisions/2/remarks/m1/closed': stored,
    })
    const one = (await screen.findByText(/Inner or outer/)).closest('li')!
    await userEvent.click(within(one).getByRole('button', { name: 'Answer' }))
    await userEvent.type(within(one).getByRole('textbox', { name: 'Your answer' }), 'By the drawing.{Control>}{Enter}{/Control}')
    await expect.poll(() => within(one).queryByRole('textbox')).toBeNull()
    await userEvent.click(within(one).getByRole('button', { name: 'Close' }))
    expect(server.requests.find((r) => r.path.endsWith('/closed'))?.body).toEqual({ close: true })
    page.unmount()
    show('area', ['read'])
    await screen.findByText(/Inner or outer/)
    expect(screen.queryByRole('button', { name: 'Close' })).toBeNull()
    expect(screen.queryByRole('textbox')).toBeNull()
  })
})
