import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'
import { showPage } from '../testing/page'
import { rank } from './Palette'
import { Shell } from './Shell'

const answers = {
  'GET /api/products': ({ search }: { search: string }) => (search.includes('cold') ? [{ id: 'cr', code: 'CR', label: 'Walk-in cold room' }] : []),
  'GET /api/configurations': () => [],
  'GET /api/items': ({ search }: { search: string }) => (search.includes('cold') ? [{ number: 'COLD-1', description: 'Cold plate' }] : []),
}
const show = (path = '/products') => showPage(<Shell>the page</Shell>, { path, answers })
const address = () => screen.getByRole('status', { name: 'address' }).textContent
const options = () => screen.getAllByRole('option').map((o) => o.textContent)

describe('the search over everything', () => {
  it('opens by Ctrl+K also while one types, finds what can be opened, and goes there by keys', async () => {
    show()
    await screen.findByText('the page')
    await userEvent.keyboard('{Control>}k{/Control}')
    const field = within(screen.getByRole('dialog', { name: 'Open or do' })).getByRole('combobox')
    await userEvent.type(field, 'cold')
    await waitFor(() => expect(options()).toEqual(['itemCOLD-1 Cold plate', 'productCR Walk-in cold room']))
    await userEvent.keyboard('{ArrowDown}{ArrowDown}{Enter}')
    expect(address()).toBe('/products/cr')
    expect(screen.queryByRole('dialog')).toBeNull()
  })

  it('does what can be done from anywhere', async () => {
    show()
    await screen.findByText('the page')
    await userEvent.keyboard('{Control>}k{/Control}')
    await userEvent.keyboard('work cen')
    await waitFor(() => expect(options()).toEqual(['doLibrary: work centres ']))
    await userEvent.keyboard('{Enter}')
    expect(address()).toBe('/library/work-centres')
    await userEvent.keyboard('{Control>}k{/Control}nothing like it')
    expect(await screen.findByText('Nothing is called “nothing like it”.')).toBeTruthy()
  })

  it('puts what begins with it first, then where a word does', () => {
    expect([
      rank('door_set', 'door'),
      rank('Sliding door', 'door'),
      rank('indoor', 'door'),
      rank('Sliding door', 'door sli'),
      rank('wall', 'door'),
    ]).toEqual([3, 2, 1, 2, 0])
  })
})

it('the keys of a page are those of the page', async () => {
  const page = show('/library/items')
  await screen.findByText('the page')
  await userEvent.keyboard('?')
  expect(screen.getAllByRole('region').map((r) => r.getAttribute('aria-label'))).toEqual(['Tables', 'Everywhere'])
  page.unmount()
  show('/workshop/2')
  await screen.findByText('the page')
  await userEvent.keyboard('?')
  expect(screen.getAllByRole('region').map((r) => r.getAttribute('aria-label'))).toEqual([
    'Rows and expressions',
    'Tables',
    'Questions',
    'Everywhere',
  ])
})
