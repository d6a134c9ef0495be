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

const product = (more: object = {}) => ({
  id: 'm',
  code: 'CR',
  label: 'Cold room',
  revisionId: 2,
  number: 2,
  state: 'draft',
  author: 'ines',
  changedAt: '2026-11-24T08:00:00Z',
  released: 1,
  ...more,
})
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
        'POST /api/products': () =>
          taken ? problem(409, 'There is a product “CR” already.', { pointer: '/code' }) : { productId: 'p', revisionId: 9 },
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
    showPage(<ProductsPage />, {
      answers: {
        'GET /api/products': () => [],
        'POST /api/products/file': () => (good ? json({ revisionId: 5 }) : problem(422, 'This is no model file.')),
      },
    })
    const file = await screen.findByLabelText('Model file')
    await userEvent.upload(file, new File(['{"a":1}'], 'wrong.json', { type: 'application/json' }))
    await waitFor(() => expect(asked('POST', '/api/products/file')).toHaveLength(1))
    expect(address()).toBe('/')
    good = true
    await userEvent.upload(file, new File(['{"a":1}'], 'right.json', { type: 'application/json' }))
    await waitFor(() => expect(address()).toBe('/workshop/5'))
  })

  it('takes in a feature model by its ending', async () => {
    showPage(<ProductsPage />, {
      answers: {
        'GET /api/products': () => [],
        'POST /api/products/file': () => json({ revisionId: 7, unread: ['Line 9: The text has no counterpart.'] }),
      },
    })
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
  const revision = (id: number, number: number, state: string) => ({
    id,
    number,
    state,
    author: 'ines',
    changedAt: '2026-11-24T08:00:00Z',
    releasedBy: state === 'released' ? 'tomas' : null,
    releasedAt: state === 'released' ? '2026-11-24T09:00:00Z' : null,
    configurations: 3,
    head: 1,
  })
  const show = (revisions: object[], { path = '/products/m', rights = undefined as string[] | undefined, answers = {} } = {}) =>
    showPage(<ProductPage />, {
      route: '/products/:productId',
      path,
      ...(rights && { rights }),
      answers: {
        'GET /api/products/m': () => product(),
        'GET /api/products/m/revisions': () => revisions,
        'POST /api/products/m/revisions': () => ({ productId: 'm', revisionId: 3 }),
        ...answers,
      },
    })

  it('is configured on its latest released revision', async () => {
    show([revision(2, 2, 'draft'), revision(1, 1, 'released')])
    expect((await screen.findByRole('link', { name: 'Configure revision 1' })).getAttribute('href')).toBe('/configure/1')
    expect(screen.getByRole('link', { name: 'Model file of revision 2' }).getAttribute('href')).toBe('/api/revisions/2/file')
    expect(screen.queryByRole('button', { name: /Open revision/ })).toBeNull()
    expect(screen.getByRole('heading', { name: 'Cold room' })).toBeTruthy()
  })

  it('says what is to be left of its price; a wrong one keeps what was typed, with its sentence', async () => {
    let stored: string | null = null
    const page = show([revision(1, 1, 'released')], {
      answers: {
        'GET /api/products/m': () => product({ id: 'm', leastMargin: null }),
        'PUT /api/products/m/least-margin': (a: { body: unknown }) => {
          const { percent } = a.body as { percent: string }
          if (percent === '120') return problem(422, '“120” is not a margin.')
          return product({ id: 'm', leastMargin: (stored = percent) })
        },
      },
    })
    const field = await screen.findByRole<HTMLInputElement>('textbox', { name: 'Least margin in percent' })
    await userEvent.type(field, '120{Enter}')
    expect((await screen.findByRole('alert')).textContent).toBe('“120” is not a margin.')
    expect(field.value).toBe('120')
    await userEvent.clear(field)
    await userEvent.type(field, '22{Enter}')
    await waitFor(() => expect(screen.queryByRole('alert')).toBeNull())
    expect([stored, field.value]).toEqual(['22', '22'])
    page.unmount()
    // Who may not see costs sees neither that nor files that carry them.
    show([revision(1, 1, 'released')], { rights: ['read', 'configure'] })
    await screen.findByRole('link', { name: 'Configure revision 1' })
    expect(screen.queryByText('least margin')).toBeNull()
    expect(screen.queryByRole('link', { name: /Model file/ })).toBeNull()
  })

  it('goes straight to configuring where that is meant', async () => {
    show([revision(2, 2, 'draft'), revision(1, 1, 'released')], { path: '/products/m?configure' })
    await waitFor(() => expect(address()).toBe('/configure/1'))
  })

  it('is edited on by opening the next revision', async () => {
    show([revision(2, 2, 'released'), revision(1, 1, 'withdrawn')])
    await userEvent.click(await screen.findByRole('button', { name: 'Open revision 3' }))
    await waitFor(() => expect(address()).toBe('/workshop/3'))
  })

  it('that is not there says so', async () => {
    show([], { answers: { 'GET /api/products/m': () => problem(404, 'There is no such product.') } })
    expect(await screen.findByText('There is no such product.')).toBeTruthy()
  })

  it('names the next step for each role', async () => {
    const review = {
      askedBy: 'ines',
      askedAt: '2026-11-24T10:00:00Z',
      note: 'New floor.',
      outcome: null,
      answeredBy: null,
      answeredAt: null,
      answer: '',
    }
    const next = async (state: string, rights: string[]) => {
      const page = show([revision(2, 2, state), revision(1, 1, 'released')], {
        rights,
        answers: { 'GET /api/revisions/2/review': () => (state === 'in review' ? review : new Response(null, { status: 204 })) },
      })
      const texts = within(await screen.findByRole('region', { name: 'Next' }))
        .getAllByRole('link')
        .map((l) => `${l.textContent} → ${l.getAttribute('href')}`)
      if (state === 'in review') expect(await screen.findByText(/“New floor.”/)).toBeTruthy()
      page.unmount()
      return texts
    }
    expect(await next('draft', ['read', 'edit'])).toEqual(['Go on in the workshop → /workshop/2', 'Ask for its release → /workshop/2?release'])
    expect(await next('in review', ['read', 'edit'])).toEqual(['Look at it → /workshop/2'])
    expect(await next('in review', ['read', 'release'])).toEqual(['Look at it and release it → /workshop/2?release'])
    expect(await next('draft', ['read', 'configure'])).toEqual(['Configure revision 1 → /configure/1'])
  })

  it('tells what changed last and by whom, what was configured with it, and where it is reused', async () => {
    show([revision(2, 2, 'draft')], {
      answers: {
        'GET /api/revisions/2/history': () => [
          {
            sequence: 4,
            person: 'ines',
            madeAt: '2026-11-24T08:00:00Z',
            kind: 'edit',
            undoes: null,
            changes: [
              { rowId: 'w', name: 'width', what: 'highest: 900 → 1200' },
              { rowId: 'h', name: 'height', what: 'added' },
            ],
          },
        ],
        'GET /api/configurations': ({ search }: { search: string }) =>
          search === '?product=m'
            ? [{ id: 'c', name: 'Butcher, Port Ellery', changedAt: '2026-11-24T08:00:00Z', changedBy: 'marit', revisionNumber: 1 }]
            : [],
        'GET /api/products/m/reusers': () => [
          { productId: 'x', code: 'CR', label: 'Cold room', revisionId: 5, number: 1, state: 'draft', reuses: 2 },
        ],
      },
    })
    expect((await screen.findByRole('link', { name: 'width' })).getAttribute('href')).toBe('/workshop/2?row=w')
    expect(screen.getByText('and 1 more')).toBeTruthy()
    expect((await screen.findByRole('link', { name: 'Butcher, Port Ellery' })).getAttribute('href')).toBe('/configurations/c')
    expect((await screen.findByRole('link', { name: 'CR' })).getAttribute('href')).toBe('/workshop/5')
  })
})

describe('a list', () => {
  const rows = () =>
    screen
      .getAllByRole('row')
      .slice(1)
      .map((r) => within(r).queryAllByRole('cell')[0]?.textContent)

  it('is sorted by the heads of its columns and filtered by what stands in them', async () => {
    showPage(<ProductsPage />, {
      answers: {
        'GET /api/products': () => [
          product({ id: 'a', code: 'B-2', released: null }),
          product({ id: 'b', code: 'A-10', released: 1 }),
          product({ id: 'c', code: 'A-9', released: 3 }),
          ...Array.from({ length: 7 }, (_, i) => product({ id: `z${i}`, code: `Z-${i}`, released: null })),
        ],
      },
    })
    await userEvent.click(await screen.findByRole('button', { name: 'Code' }))
    expect(rows().slice(0, 4)).toEqual(['A-9', 'A-10', 'B-2', 'Z-0'])
    await userEvent.click(screen.getByRole('button', { name: 'Released' }))
    await userEvent.click(screen.getByRole('button', { name: 'Released' }))
    expect(rows().slice(0, 3)).toEqual(['A-9', 'A-10', 'B-2'])
    expect(screen.getByRole('columnheader', { name: 'Released' }).getAttribute('aria-sort')).toBe('descending')
    await userEvent.click(screen.getByRole('button', { name: 'Filter' }))
    await userEvent.type(screen.getByRole('textbox', { name: 'Only those whose Code has' }), 'a-')
    expect(screen.getByText('2 of 10')).toBeTruthy()
    await userEvent.click(screen.getByRole('button', { name: 'Show all' }))
    expect(screen.getAllByRole('row')).toHaveLength(11)
  })

  it('tells those who release what waits for it', async () => {
    const entry = { kind: 'release', revisionId: 2, productCode: 'CR', productLabel: 'Cold room', number: 2, by: 'ines', at: '2026-11-24T10:00:00Z' }
    let waiting = [
      { ...entry, text: 'New floor.', count: 1 },
      { ...entry, revisionId: 4, productCode: 'CS', kind: 'answered', text: 'By the drawing.', count: 2 },
    ]
    const answers = { 'GET /api/products': () => [product()], 'GET /api/waiting': () => waiting }
    const page = showPage(<ProductsPage />, { answers, rights: ['read', 'release'] })
    expect((await screen.findByRole('link', { name: 'CR revision 2' })).getAttribute('href')).toBe('/workshop/2/review')
    expect(screen.getByText(/2 of your remarks are answered/).textContent).toContain('By the drawing.')
    waiting = []
    page.unmount()
    showPage(<ProductsPage />, { answers, rights: ['read', 'edit'] })
    await screen.findByRole('link', { name: 'Cold room' })
    expect(screen.queryByText('Waiting for you')).toBeNull()
  })
})
