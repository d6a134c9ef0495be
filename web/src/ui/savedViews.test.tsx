import { screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'
import { asked, showPage } from '../testing/page'
import { problem } from '../testing/server'
import { ListTable } from './ListTable'

type Thing = { id: string; name: string }
const things: Thing[] = Array.from({ length: 12 }, (_, i) => ({ id: `t${i}`, name: i % 3 === 0 ? `Curtain ${i}` : `Room ${i}` }))

const view = {
  id: 'v1',
  place: 'things',
  name: 'Curtains',
  state: JSON.stringify({ sorting: null, filters: { name: 'curtain' } }),
  person: 'tomas',
  isForAll: true,
  isOwn: false,
}

const show = (more = {}) =>
  showPage(
    <ListTable<Thing>
      label="Things"
      place="things"
      rows={things}
      keyOf={(x) => x.id}
      columns={[{ key: 'name', name: 'name', text: (x) => x.name, cell: (x) => x.name }]}
    />,
    { answers: { 'GET /api/views': () => [view, { ...view, id: 'v2', name: 'Broken', state: 'no JSON' }], ...more } },
  )

const shown = () => screen.getAllByRole('row').length - 1

describe('Saved views of a list', () => {
  it('narrow it as it was narrowed; one that cannot be read narrows nothing', async () => {
    show()
    await userEvent.click(await screen.findByRole('button', { name: 'Curtains' }))
    // The row of filters counts as one.
    expect(shown()).toBe(4 + 1)
    expect(screen.getAllByText('(tomas)')).toHaveLength(2)
    // What somebody else saved is theirs to forget.
    expect(screen.queryByRole('button', { name: /^Forget/ })).toBeNull()
    await userEvent.click(screen.getByRole('button', { name: 'Broken' }))
    expect(shown()).toBe(12)
  })

  it('are kept under a name, for all where that is wished; a refusal is told', async () => {
    let refuses = true
    let kept: string | null = null
    server(
      () => (refuses ? problem(422, 'A view needs a name of 1 to 200 characters.') : view),
      (id) => (kept = id),
    )
    await userEvent.click(await screen.findByRole('button', { name: 'Filter' }))
    expect(screen.queryByRole('button', { name: 'Keep this view …' })).toBeNull()
    await userEvent.type(screen.getByRole('textbox', { name: /name/ }), 'room 1')
    await userEvent.click(screen.getByRole('button', { name: 'Keep this view …' }))
    await userEvent.type(screen.getByRole('textbox', { name: 'name of the view' }), 'Rooms')
    await userEvent.click(screen.getByRole('checkbox', { name: 'for all' }))
    await userEvent.click(screen.getByRole('button', { name: 'Keep' }))
    expect((await screen.findByRole('alert')).textContent).toContain('needs a name')
    refuses = false
    await userEvent.click(screen.getByRole('button', { name: 'Keep' }))
    await expect.poll(() => screen.queryByRole('textbox', { name: 'name of the view' })).toBeNull()
    expect(kept).not.toBeNull()
    const sent = asked('PUT', `/api/views/${kept}`).at(-1)!.body as { state: string; forAll: boolean; name: string; place: string }
    expect(sent).toMatchObject({ name: 'Rooms', forAll: true, place: 'things' })
    expect(JSON.parse(sent.state)).toEqual({ sorting: null, filters: { name: 'room 1' } })
  })
})

/** The id of a view is made by the page: whatever it is, it is answered. */
function server(answer: () => unknown, seen: (id: string) => void) {
  const answers = new Proxy({} as Record<string, () => unknown>, {
    get: (_, key: string) => {
      if (key === 'GET /api/views') return () => []
      const id = /^PUT \/api\/views\/(.+)$/.exec(key)?.[1]
      if (id) seen(id)
      return id ? answer : undefined
    },
  })
  return showPage(
    <ListTable<Thing>
      label="Things"
      place="things"
      rows={things}
      keyOf={(x) => x.id}
      columns={[{ key: 'name', name: 'name', text: (x) => x.name, cell: (x) => x.name }]}
    />,
    { answers },
  )
}
