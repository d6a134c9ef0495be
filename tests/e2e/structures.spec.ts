import { expect, test } from '@playwright/test'
import { as } from './people'

// What leaves is built, looked at, compared and taken out, in the real browser on the demo data.

test('a file of items is looked at, its faults are told by cell, and its sound rows are loaded', async ({ browser }) => {
  const page = await as(browser, 'ines')
  await page.goto('/library/items')
  await page.getByRole('button', { name: 'Load a file' }).click()
  await page.getByLabel('File to load').setInputFiles({ name: 'items.csv', mimeType: 'text/csv', buffer: Buffer.from('number,description,unit,cost\nE2E-1,Loaded from a file,m,1.25\nE2E-2,Wrong unit,parsec,1\n') })
  const sheet = page.getByRole('dialog')
  await expect(sheet.getByText('“parsec” is not a unit code; pieces are left empty.')).toBeVisible()
  await expect(sheet.getByRole('button', { name: 'Load all of it' })).toBeDisabled()
  await sheet.getByRole('button', { name: 'Load the one sound row only' }).click()
  await expect(sheet).toBeHidden()
  await page.getByLabel('Search items').fill('loaded from')
  await expect(page.getByLabel('number, row 1', { exact: true })).toHaveValue('E2E-1')
  // Edited in the grid, and one step back.
  await page.getByLabel('cost, row 1', { exact: true }).fill('2.5')
  await page.getByLabel('cost, row 1', { exact: true }).press('Enter')
  await expect(page.getByRole('button', { name: 'Undo' })).toBeEnabled()
  await page.reload()
  await expect(page.getByLabel('cost, row 1', { exact: true })).toHaveValue('2.5')
  await page.getByRole('link', { name: 'E2E-1 and where it is used' }).click()
  await expect(page.getByText('No model names it.')).toBeVisible()
})

test('the full structure is narrowed by a pick and says why a line is not there; the check says what is missing at a site', async ({ browser }) => {
  const page = await as(browser, 'ines')
  // The draft of the door set.
  await page.goto('/workshop/4')
  await page.getByRole('link', { name: 'all lines' }).click()
  await page.getByLabel('Narrow by').selectOption({ label: 'Kind' })
  await page.getByLabel('Value of Kind').selectOption({ label: 'Sliding' })
  await page.getByLabel('Search lines').fill('LATCH')
  await page.getByRole('button', { name: 'LATCH', exact: true }).click()
  await expect(page.getByText('This does not hold: kind = hinged.')).toBeVisible()
  await page.getByLabel('Site').selectOption({ label: 'Tarn Bridge' })
  await page.getByRole('tab', { name: 'Can it be built?' }).click()
  await expect(page.getByText('TRK-S is not kept at Tarn Bridge.')).toBeVisible()
})

test('a configuration is generated for a quantity, says how its numbers come about, and is compared with another one', async ({ browser }) => {
  const page = await as(browser, 'odile')
  await page.goto('/configurations?search=Loading+bay+2')
  await page.getByRole('link', { name: 'Loading bay 2' }).click()
  await page.getByLabel('Quantity to generate for').fill('4')
  await page.getByRole('button', { name: 'Generate structure' }).click()
  await expect(page).toHaveURL(/\/structures\//)
  await page.getByRole('button', { name: 'Why is STR-300 on the bill?' }).click()
  await expect(page.getByRole('list', { name: 'Worked out' })).toContainText('strip_count * strip_length')
  await page.getByRole('tab', { name: 'Cost and time' }).click()
  await expect(page.getByRole('region', { name: 'Lead time' })).toContainText('Punch and plate')
  const download = page.waitForEvent('download')
  await page.getByRole('link', { name: 'B2MML' }).click()
  expect((await download).suggestedFilename()).toBe('SC-Loading bay 2-structure.xml')
  await page.goto('/configurations?search=Loading')
  await page.getByLabel('Compare Loading bay 1, standard').check()
  await page.getByLabel('Compare Loading bay 2').check()
  await page.getByRole('link', { name: 'Compare the two' }).click()
  await expect(page.getByRole('row', { name: /Opening width/ })).toContainText('1500 mm')
})
