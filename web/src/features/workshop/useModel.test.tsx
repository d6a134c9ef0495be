import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { act, renderHook, waitFor } from '@testing-library/react'
import type { ReactNode } from 'react'
import { beforeEach, describe, expect, it } from 'vitest'
import { json, problem, server, Stream, type Asked } from '../../testing/server'
import { set } from './model'
import { afterEdit } from './since'
import { useModel } from './useModel'

/** A server with one field, that stores edits as the real one does: each id once, with a head that counts. */
let head: number, name: string, seen: string[]
const view = () => ({ id: 1, head, findings: [], document: { name, assemblies: [{ id: 'a' }] } })

function store({ body }: Asked) {
  const edit = body as { id: string; steps: { value: string; before: string }[] }
  const repeated = seen.includes(edit.id)
  if (!repeated) {
    if (edit.steps[0]!.before !== name) return problem(409, 'It has changed.', { fault: 'changed', current: name })
    name = edit.steps[0]!.value
    seen.push(edit.id)
    head++
  }
  return json({
    sequence: head,
    repeated,
    from: head - 1,
    changedAt: '2026-11-24T08:00:00Z',
    ...(repeated ? { document: null, findings: null } : { document: { name, assemblies: [{ same: 'a' }] }, findings: [] }),
  })
}

const answer = (asked: Asked) => (asked.path.endsWith('/edits') ? store(asked) : asked.path === '/api/revisions/1' ? json(view()) : json([]))

function open() {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  return renderHook(() => useModel(1), {
    wrapper: ({ children }: { children: ReactNode }) => <QueryClientProvider client={client}>{children}</QueryClientProvider>,
  })
}

const shown = (page: ReturnType<typeof open>) => (page.result.current.revision?.document as unknown as { name: string } | undefined)?.name
const edits = () => server.requests.filter((r) => r.path.endsWith('/edits'))

beforeEach(() => {
  ;[head, name, seen] = [1, 'first', []]
  server.answer = answer
})

describe('edits on their way', () => {
  it('go out one after the other, each under an id of its own', async () => {
    const page = open()
    await waitFor(() => expect(shown(page)).toBe('first'))
    act(() => {
      page.result.current.edit(set('r', 'name', 'second', 'first'))
      page.result.current.edit(set('r', 'name', 'third', 'second'))
    })
    await waitFor(() => expect(shown(page)).toBe('third'))
    expect(new Set(edits().map((e) => (e.body as { id: string }).id)).size).toBe(2)
    expect(page.result.current.stored.state).toBe('stored')
    expect(localStorage.getItem('juniperfall.edits.1')).toBeNull()
  })

  it('are kept while the server cannot be reached, and sent again under the same id', async () => {
    const page = open()
    await waitFor(() => expect(shown(page)).toBe('first'))
    let answers = 0
    // The first time the edit is stored, but its answer is lost.
    server.answer = async (asked) => {
      if (!asked.path.endsWith('/edits')) return answer(asked)
      if (answers++ === 0) {
        store(asked)
        throw new TypeError('lost')
      }
      return store(asked)
    }
    act(() => page.result.current.edit(set('r', 'name', 'second', 'first')))
    await waitFor(() => expect(page.result.current.stored).toEqual({ state: 'waiting', edits: 1 }))
    expect(localStorage.getItem('juniperfall.edits.1')).toContain('second')
    await waitFor(() => expect(page.result.current.stored.state).toBe('stored'))
    expect(edits()).toHaveLength(2)
    expect(seen).toHaveLength(1)
    expect(shown(page)).toBe('second')
  })

  it('outlast the page that made them', async () => {
    localStorage.setItem('juniperfall.edits.1', JSON.stringify([{ id: 'earlier', do: 'edit', steps: [set('r', 'name', 'second', 'first')] }]))
    const page = open()
    await waitFor(() => expect(shown(page)).toBe('second'))
    expect(seen).toEqual(['earlier'])
    expect(localStorage.getItem('juniperfall.edits.1')).toBeNull()
  })

  it('that are refused are told with the value that is there, and do not hold up the next', async () => {
    const page = open()
    await waitFor(() => expect(shown(page)).toBe('first'))
    name = 'of someone else'
    act(() => {
      page.result.current.edit(set('r', 'name', 'mine', 'first'))
      page.result.current.edit(set('r', 'name', 'next', 'of someone else'))
    })
    await waitFor(() => expect(shown(page)).toBe('next'))
    expect(page.result.current.refusals.map((r) => r.problem.current)).toEqual(['of someone else'])
    act(() => page.result.current.dismiss(page.result.current.refusals[0]!))
    expect(page.result.current.refusals).toEqual([])
  })
})

describe('edits of others', () => {
  it('are read when the server tells of them', async () => {
    const page = open()
    await waitFor(() => expect(shown(page)).toBe('first'))
    ;[head, name] = [2, 'of someone else']
    act(() => Stream.opened[0]!.tell('changed', '2'))
    await waitFor(() => expect(shown(page)).toBe('of someone else'))
    const before = server.requests.length
    // One's own edit, of which the answer is here already.
    act(() => Stream.opened[0]!.tell('changed', '2'))
    expect(server.requests).toHaveLength(before)
    page.unmount()
    expect(Stream.opened[0]!.closed).toBe(true)
  })

  it('do not take back what is newer where their answer comes late', async () => {
    const page = open()
    await waitFor(() => expect(shown(page)).toBe('first'))
    let late: (response: Response) => void = () => undefined
    server.answer = (asked) => {
      if (asked.path !== '/api/revisions/1') return answer(asked)
      const old = json(view())
      return new Promise((done) => (late = () => done(old)))
    }
    act(() => Stream.opened[0]!.tell('changed', '0'))
    await waitFor(() => expect(server.requests.filter((r) => r.path === '/api/revisions/1')).toHaveLength(2))
    act(() => page.result.current.edit(set('r', 'name', 'second', 'first')))
    await waitFor(() => expect(shown(page)).toBe('second'))
    await act(async () => {
      late(json({}))
      await new Promise((done) => setTimeout(done, 20))
    })
    expect(shown(page)).toBe('second')
  })
})

describe('what an edit changed', () => {
  it('is put into what is shown, which otherwise stays as it is', async () => {
    const page = open()
    await waitFor(() => expect(shown(page)).toBe('first'))
    const assembly = page.result.current.revision!.document.assemblies[0]
    act(() => page.result.current.edit(set('r', 'name', 'second', 'first')))
    await waitFor(() => expect(shown(page)).toBe('second'))
    expect(page.result.current.revision!.document.assemblies[0]).toBe(assembly)
    expect(server.requests.filter((r) => r.path === '/api/revisions/1')).toHaveLength(1)
  })

  it('is read again where an edit of someone else came before it', async () => {
    const page = open()
    await waitFor(() => expect(shown(page)).toBe('first'))
    head = 7
    act(() => page.result.current.edit(set('r', 'name', 'second', 'first')))
    await waitFor(() => expect(page.result.current.revision!.head).toBe(8))
    expect(shown(page)).toBe('second')
    expect(server.requests.filter((r) => r.path === '/api/revisions/1')).toHaveLength(2)
  })
})

describe('a document told as what is the same', () => {
  const before = { id: 'm', assemblies: [{ id: 'a', topics: [{ id: 't', rows: [{ id: 'r' }, { id: 's', instances: [{ id: 'r' }] }] }] }] } as never

  it('is put together again at any depth', () => {
    const told = { id: 'm', label: null, assemblies: [{ id: 'a', topics: [{ id: 't', rows: [{ same: 's' }, { id: 'n' }, { same: 'r' }] }] }] }
    expect(afterEdit(before, told)).toEqual({
      id: 'm',
      label: null,
      assemblies: [{ id: 'a', topics: [{ id: 't', rows: [{ id: 's', instances: [{ id: 'r' }] }, { id: 'n' }, { id: 'r' }] }] }],
    })
  })

  it('is none where a part is not known', () => expect(afterEdit(before, { assemblies: [{ same: 'b' }] })).toBeNull())
})
