import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { render } from '@testing-library/react'
import type { ReactNode } from 'react'
import { MemoryRouter, Route, Routes, useLocation } from 'react-router'
import { SessionGate } from '../app/SessionGate'
import { json, problem, server, type Asked } from './server'

export type Answers = Record<string, (asked: Asked) => unknown>

const everything = ['read', 'edit', 'editLibrary', 'release', 'configure', 'generate', 'seeCosts']

const Address = () => {
  const { pathname, search } = useLocation()
  return <output aria-label="address">{pathname + search}</output>
}

/**
 * Shows a page at its address as someone with these rights. Requests are answered by “METHOD path”; what is not a
 * Response is sent as JSON.
 */
export function showPage(page: ReactNode, { route = '*', path = '/', rights = everything, answers = {} as Answers } = {}) {
  server.answer = async (asked) => {
    if (asked.path === '/api/session' && asked.method === 'GET') return json({ name: 'ines', display: 'Ines Halloran', role: 'engineer', rights })
    const found = answers[`${asked.method} ${asked.path}`]
    const answer = await found?.(asked)
    return answer instanceof Response ? answer : found ? json(answer) : problem(404, `Nothing is answered to ${asked.method} ${asked.path}.`)
  }
  return render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      <MemoryRouter initialEntries={[path]}>
        <SessionGate>
          <Routes>
            <Route path={route} element={page} />
            <Route path="*" element={null} />
          </Routes>
          <Address />
        </SessionGate>
      </MemoryRouter>
    </QueryClientProvider>,
  )
}

/** The requests of one kind that were made, with their bodies. */
export const asked = (method: string, path: string) => server.requests.filter((r) => r.method === method && r.path === path)
