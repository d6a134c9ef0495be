import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { render, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { MemoryRouter } from 'react-router'
import { beforeAll, beforeEach, describe, expect, it, vi } from 'vitest'
import { asked, type Answers } from '../testing/page'
import { json, problem, server } from '../testing/server'
import { App } from './App'

beforeAll(() => {
  HTMLDialogElement.prototype.showModal ??= function (this: HTMLDialogElement) {
    this.open = true
  }
})

const marit = { name: 'marit', display: 'Marit Solberg', role: 'order desk', rights: ['read', 'configure'] }
let signedIn: boolean

function open(path: string, answers: Answers = {}) {
  server.answer = async (a) => {
    const found = answers[`${a.method} ${a.path}`]
    if (found) {
      const answer = await found(a)
      return answer instanceof Response ? answer : json(answer)
    }
    if (a.path === '/api/session' && a.method === 'POST') {
      signedIn = (a.body as { password: string }).password === 'right'
      return signedIn ? json(marit) : problem(401, 'Name or password is wrong.')
    }
    if (!signedIn) return problem(401, 'Sign in first.')
    if (a.path === '/api/session') return json(marit)
    return json([])
  }
  return render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      <MemoryRouter initialEntries={[path]}>
        <App />
      </MemoryRouter>
    </QueryClientProvider>,
  )
}

async function signIn(password: string) {
  await userEvent.type(await screen.findByLabelText('Name'), 'marit')
  await userEvent.type(screen.getByLabelText('Password'), password)
  await userEvent.click(screen.getByRole('button', { name: 'Sign in' }))
}

beforeEach(() => {
  signedIn = false
})

describe('signing in', () => {
  it('leads to the page that was asked for', async () => {
    open('/configurations')
    await signIn('right')
    expect(await screen.findByRole('heading', { name: 'Configurations' })).toBeTruthy()
    expect(screen.getByText('order desk')).toBeTruthy()
  })

  it('with a wrong password says so and keeps the name', async () => {
    open('/')
    await signIn('wrong')
    expect(await screen.findByText('Name or password is wrong.')).toBeTruthy()
    expect(screen.getByLabelText<HTMLInputElement>('Name').value).toBe('marit')
    expect(screen.getByLabelText('Password').getAttribute('aria-invalid')).toBe('true')
  })

  it('is asked for again where the server no longer knows who it is', async () => {
    open('/configurations', { 'GET /api/products': () => problem(401, 'Sign in first.') })
    await signIn('right')
    await userEvent.click(await screen.findByRole('link', { name: 'Products' }))
    expect(await screen.findByLabelText('Password')).toBeTruthy()
  })

  it('and out again leaves nothing on the page', async () => {
    open('/configurations', {
      'DELETE /api/session': () => {
        signedIn = false
        return json({})
      },
    })
    await signIn('right')
    await userEvent.click(await screen.findByRole('button', { name: 'Sign out' }))
    expect(await screen.findByLabelText('Password')).toBeTruthy()
    expect(screen.queryByRole('heading', { name: 'Configurations' })).toBeNull()
    expect(asked('DELETE', '/api/session')).toHaveLength(1)
  })
})

describe('the frame around the pages', () => {
  beforeEach(() => {
    signedIn = true
  })

  it('says where there is nothing', async () => {
    open('/nowhere')
    expect(await screen.findByText('There is nothing at this address.')).toBeTruthy()
  })

  it('goes to the products first', async () => {
    open('/')
    expect(await screen.findByRole('heading', { name: 'Products' })).toBeTruthy()
  })

  it('shows the keys by a key, but not while something is typed', async () => {
    open('/products')
    await screen.findByText(/No product yet/)
    await userEvent.type(screen.getByRole('searchbox', { name: 'Search products' }), '?')
    expect(screen.queryByRole('dialog', { name: 'Keys of this page', hidden: true })).toBeNull()
    ;(document.activeElement as HTMLElement).blur()
    await userEvent.keyboard('?')
    expect(await screen.findByRole('dialog', { name: 'Keys of this page', hidden: true })).toBeTruthy()
  })

  it('remembers light or dark', async () => {
    open('/products')
    const theme = await screen.findByRole('button', { name: /theme$/ })
    const before = document.documentElement.dataset.theme
    await userEvent.click(theme)
    await waitFor(() => expect(document.documentElement.dataset.theme).not.toBe(before))
    expect(Object.values({ ...localStorage })).toContain(document.documentElement.dataset.theme)
  })
})

describe('a page that meets a fault of its own', () => {
  it('says so, names it, and leads on', async () => {
    signedIn = true
    const silent = vi.spyOn(console, 'error').mockImplementation(() => undefined)
    // A list that is none makes the page fail while it is drawn.
    open('/products', { 'GET /api/products': () => ({ length: 3 }) })
    expect(await screen.findByText('This page met a fault of its own.')).toBeTruthy()
    expect(screen.getByText(/is not a function/)).toBeTruthy()
    expect(screen.getByRole('link', { name: 'To the products' }).getAttribute('href')).toBe('/products')
    expect(silent).toHaveBeenCalled()
    silent.mockRestore()
  })
})
