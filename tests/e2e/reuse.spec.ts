import { expect, test } from '@playwright/test'
import { as, password, row, stored, typeRow, write } from './people'

test('another product fills a place at a revision that stays until a later one is taken', async ({ browser, request }) => {
  test.setTimeout(180_000)
  const ines = await as(browser, 'ines')
  await ines.getByRole('button', { name: 'New product' }).click()
  await ines.getByLabel('Code').fill('AX')
  await ines.getByRole('dialog').getByLabel('Name').fill('Annex')
  await ines.getByRole('button', { name: /Make it/ }).click()
  for (const line of ['quantity load W 500..9000 step 500', 'choice duty: chill, freezer, blast', 'subassembly cooling'])
    await typeRow(ines, 'General', line)
  await stored(ines)

  const outline = ines.getByRole('navigation', { name: 'Outline' })
  const bench = ines.getByRole('region', { name: 'Bench' })
  await test.step('it is filled by a product that has a released revision', async () => {
    await row(ines, 'own item').click()
    await ines.getByLabel('Filled by').selectOption({ label: 'another product …' })
    const sheet = ines.getByRole('dialog', { name: 'Fill it by another product' })
    await sheet.getByLabel('Search the products').fill('cooling')
    await expect(sheet.getByRole('listitem')).toHaveCount(1)
    await sheet.getByRole('button', { name: /Cooling set/ }).click()
    await expect(row(ines, 'filled by CS revision 1')).toBeVisible()
    await expect(outline.getByRole('button', { name: /CS 1/ })).toBeVisible()
    await expect(bench.getByRole('group', { name: 'Refrigerant' })).toBeVisible()
  })

  await test.step('its inputs are given from here, choices by their codes', async () => {
    for (const [label, name, given] of [
      ['Capacity needed', 'needed', 'load'],
      ['Duty', 'duty', 'duty'],
    ] as const) {
      await ines.getByRole('button', { name: `Give ${label} from here` }).click()
      const field = ines.getByRole('textbox', { name, exact: true })
      await write(field, given)
      await field.blur()
    }
    await expect(ines.getByText('“duty” has no “blast”, so that cannot be had together with cooling.').first()).toBeVisible()
    await stored(ines)
    // What the set is not made for cannot be had, and says so.
    await bench.getByRole('button', { name: /blast, ruled out: why/i }).click()
    await expect(bench.getByRole('region', { name: /Why Duty: blast/i })).toContainText('“Duty” of Cooling is one of')
  })

  await test.step('its worksheet is there to read, not to edit', async () => {
    await outline.getByRole('button', { name: /CS 1/ }).click()
    await expect(ines.getByText('as it was released in revision 1, and is edited there')).toBeVisible()
    await row(ines, 'quantity 3 … 40 m').click()
    await expect(ines.getByLabel('Highest')).toBeDisabled()
    await expect(ines.getByRole('combobox', { name: /New row in/ })).toHaveCount(0)
  })

  await test.step('a later revision is taken, once it is released, and let go by undo', async () => {
    const headers = { 'X-Juniperfall': '1' }
    await request.post('/api/session', { headers, data: { name: 'tomas', password } })
    const latest = (await (await request.get('/api/products/cooling-set')).json()) as { revisionId: number }
    const { head } = (await (await request.get(`/api/revisions/${latest.revisionId}`)).json()) as { head: number }
    expect((await request.post(`/api/revisions/${latest.revisionId}/release`, { headers, data: { head } })).ok()).toBe(true)
    await ines.reload()
    await ines.getByRole('button', { name: 'take revision 2' }).click()
    await expect(outline.getByRole('button', { name: /CS 2/ })).toBeVisible()
    await stored(ines)
    await ines.getByRole('button', { name: 'Undo', exact: true }).click()
    await expect(outline.getByRole('button', { name: /CS 1/ })).toBeVisible()
    await ines.goto('/products/cooling-set')
    await expect(ines.getByText('Annex, revision 1 draft')).toBeVisible()
  })
})
