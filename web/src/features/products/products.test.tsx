import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeAll, describe, expect, it } from 'vitest'
import { asked, showPage } from '../../testing/page'
import { json, problem } from '../../testing/server'
import { ProductPage } from './ProductPage'
import { ProductsPage } from './ProductsPage'

beforeAll(() => {
  HTMLDialogElement.prototype.showModal ??= function (this: HTMLDialogElement) {
    this.open = true
  }
})

const product = (more: object = {}) => ({ id: 'm', code: 'CR', label: 'Cold room', revisionId: 2, number: 2, state: 'draft', author: 'ines', changedAt: '2026-11-24T08:00:00Z', released: 1, ...more })
const address = () => screen.getByLabelText('address').textContent

describe('the list of products', () => {
  it('offers what each person may do with each product', async () => {
    const list = [product(), product({ id: 'k', code: 'SK', label: 'Start-up kit', released: null })]
    const page = showPage(<ProductsPage />, { answers: { 'GET /api/products': () => list } })
    const [, room, kit] = await screen.findAllByRole('row')
    expect(within(room!).getByRole('link', { name: 'Configure' }).getAttribute('href')).toBe('/products/m?configure')
    expect(within(kit!).queryByRole('link', { name: 'Configure' })).toBeNull()
    expect(within(kit!).getByText('–')).toBeTruthy()
    page.unmount()
    showPage(<ProductsPage />, { rights: ['read'], answers: { 'GET /api/products': () => list } })
    await screen.findByRole('link', { name: 'Cold room' })
    expect(screen.queryByRole('button', { name: 'New product' })).toBeNull()
    expect(screen.queryByRole('link', { name: 'Configure' })).toBeNull()
  })

  it('a new product opens its workshop; what is wrong with its code is told at the code', async () => {
    let taken = true
    showPage(<ProductsPage />, {
      answers: {
        'GET /api/products': () => [],
        'POST /api/products': () => (taken ? problem(409, 'There is a product “CR” already.', { pointer: '/code' }) : { productId: 'p', revisionId: 9 }),
      },
    })
    await screen.findByText(/No product yet/)
    await userEvent.click(screen.getByRole('button', { name: 'New product' }))
    await userEvent.type(screen.getByRole('textbox', { name: /^Code/, hidden: true }), 'CR')
    await userEvent.type(screen.getByRole('textbox', { name: /^Name/, hidden: true }), 'Cold room{Enter}')
    const fault = await screen.findByText('There is a product “CR” already.')
    expect(fault.parentElement!.textContent).toContain('Code')
    expect(screen.getByRole('textbox', { name: /^Code/, hidden: true }).getAttribute('aria-invalid')).toBe('true')
    taken = false
    await userEvent.click(screen.getByRole('button', { name: 'Make it and open the workshop', hidden: true }))
    await waitFor(() => expect(address()).toBe('/workshop/9'))
    // Tried twice, made once: the id is the same.
    const ids = asked('POST', '/api/products').map((r) => (r.body as { id: string }).id)
    expect(ids[0]).toBe(ids[1])
  })

  it('takes in a model file, and tells by its name what is wrong with one', async () => {
    let good = false
    showPage(<ProductsPage />, { answers: { 'GET /api/products': () => [], 'POST /api/products/file': () => (good ? json({ revisionId: 5 }) : problem(422, 'This is no model file.')) } })
    const file = await screen.findByLabelText('Model file')
    await userEvent.upload(file, new File(['{"a":1}'], 'wrong.json', { type: 'application/json' }))
    await waitFor(() => expect(asked('POST', '/api/products/file')).toHaveLength(1))
    expect(address()).toBe('/')
    good = true
    await userEvent.upload(file, new File(['{"a":1}'], 'right.json', { type: 'application/json' }))
    await waitFor(() => expect(address()).toBe('/workshop/5'))
  })

  it('takes in a feature model by its ending', async () => {
    showPage(<ProductsPage />, { answers: { 'GET /api/products': () => [], 'POST /api/products/file': () => json({ revisionId: 7, unread: ['Line 9: The text has no counterpart.'] }) } })
    await userEvent.upload(await screen.findByLabelText('Model file'), new File(['"features"'], 'rack.uvl'))
    await waitFor(() => expect(address()).toBe('/workshop/7'))
    expect(asked('POST', '/api/products/file')[0]!.search).toBe('?format=uvl')
  })

  it('says that nothing was found, and that it is cut', async () => {
    const page = showPage(<ProductsPage />, { path: '/?search=zz', answers: { 'GET /api/products': () => [] } })
    expect(await screen.findByText('No product has “zz” in its code or name.')).toBeTruthy()
    page.unmount()
    showPage(<ProductsPage />, { answers: { 'GET /api/products': () => Array.from({ length: 500 }, (_, i) => product({ id: `p${i}` })) } })
    expect(await screen.findByText('The first 500 by code are shown. Search to find others.')).toBeTruthy()
  })
})

describe('a product', () => {
  const revision = (id: number, number: number, state: string) => ({ id, number, state, author: 'ines', changedAt: '2026-11-24T08:00:00Z', releasedBy: state === 'released' ? 'tomas' : null, releasedAt: state === 'released' ? '2026-11-24T09:00:00Z' : null, configurations: 3 })
  const show = (revisions: object[], path = '/products/m') =>
    showPage(<ProductPage />, {
      route: '/products/:productId',
      path,
      answers: { 'GET /api/products/m': () => product(), 'GET /api/products/m/revisions': () => revisions, 'POST /api/products/m/revisions': () => ({ productId: 'm', revisionId: 3 }) },
    })

  it('is configured on its latest released revision', async () => {
    show([revision(2, 2, 'draft'), revision(1, 1, 'released')])
    expect((await screen.findByRole('link', { name: 'Configure revision 1' })).getAttribute('href')).toBe('/configure/1')
    expect(screen.getByRole('link', { name: 'Model file of revision 2' }).getAttribute('href')).toBe('/api/revisions/2/file')
    expect(screen.queryByRole('button', { name: /Open revision/ })).toBeNull()
    expect(screen.getByRole('heading', { name: 'Cold room' })).toBeTruthy()
  })

  it('goes straight to configuring where that is meant', async () => {
    show([revision(2, 2, 'draft'), revision(1, 1, 'released')], '/products/m?configure')
    await waitFor(() => expect(address()).toBe('/configure/1'))
  })

  it('is edited on by opening the next revision', async () => {
    show([revision(2, 2, 'released'), revision(1, 1, 'withdrawn')])
    await userEvent.click(await screen.findByRole('button', { name: 'Open revision 3' }))
    await waitFor(() => expect(address()).toBe('/workshop/3'))
  })

  it('that is not there says so', async () => {
    show([])
    expect(await screen.findByText('There is no such product.')).toBeTruthy()
  })
})
