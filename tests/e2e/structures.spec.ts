import { expect, test } from '@playwright/test'
import { as, cell, row, stored, typeCell, typeRow } from './people'

// What leaves is built, looked at, compared and taken out, in the real browser on the demo data.

test('a file of items is looked at, its faults are told by cell, and its sound rows are loaded', async ({ browser }) => {
  const page = await as(browser, 'ines')
  await page.goto('/library/items')
  await page.getByRole('button', { name: 'Load a file' }).click()
  await page.getByLabel('File to load').setInputFiles({
    name: 'items.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from('number,description,unit,cost\nE2E-1,Loaded from a file,m,1.25\nE2E-2,Wrong unit,parsec,1\n'),
  })
  const sheet = page.getByRole('dialog')
  await expect(sheet.getByText('“parsec” is not a unit code; pieces are left empty.')).toBeVisible()
  await expect(sheet.getByRole('button', { name: 'Load all of it' })).toBeDisabled()
  await sheet.getByRole('button', { name: 'Load the one sound row only' }).click()
  await expect(sheet).toBeHidden()
  await page.getByLabel('Search items').fill('loaded from')
  await expect(cell(page, 'number', 1)).toHaveText('E2E-1')
  // Edited in the grid, and one step back.
  await typeCell(page, 'cost', 1, '2.5')
  await expect(page.getByRole('button', { name: 'Undo' })).toBeEnabled()
  await page.reload()
  await expect(cell(page, 'cost', 1)).toHaveText('2.5')
  await page.getByRole('link', { name: 'E2E-1 and where it is used' }).click()
  await expect(page.getByText('No model names it.')).toBeVisible()
})

test('the full structure is narrowed by a pick and says why a line is not there; the check says what is missing at a site', async ({ browser }) => {
  const page = await as(browser, 'ines')
  // The draft of the door set.
  await page.goto('/workshop/6')
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
  await page.getByRole('tab', { name: 'Price, cost and time' }).click()
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

test('a part that is missed while trying out is added from the register, and the picks stay', async ({ browser }) => {
  const page = await as(browser, 'ines')
  await page.goto('/workshop/6')
  await page.getByRole('group', { name: 'Kind' }).getByRole('button', { name: 'Sliding' }).click()
  await page.getByRole('button', { name: /Something is missing/ }).click()
  const sheet = page.getByRole('dialog')
  await sheet.getByLabel('Number or words of its description').fill('sealant, cart')
  await sheet.getByRole('button', { name: /SEALNT/ }).click()
  await sheet.getByLabel('Quantity').fill('2')
  await sheet.getByLabel('Applies when').fill('kind = sliding')
  await sheet.getByRole('button', { name: 'Add it' }).click()
  const bom = page.getByRole('table', { name: 'Bill of materials of DS' })
  await expect(bom.getByRole('row', { name: /SEALNT/ })).toContainText('2')
  await expect(page.getByRole('group', { name: 'Kind' }).getByRole('button', { name: 'Sliding' })).toHaveAttribute('aria-pressed', 'true')
  // One step, undone in one.
  await page.getByRole('button', { name: 'Undo', exact: true }).first().click()
  await expect(bom.getByRole('row', { name: /SEALNT/ })).toHaveCount(0)
})

test('a price is written on the worksheet, seen to come about on the bench, and asked for by the order desk for a customer class', async ({
  browser,
}) => {
  const page = await as(browser, 'ines')
  // The draft of the strip curtain: 2.52 m2 at 102 EUR/m2 come to 258 EUR.
  await page.goto('/workshop/8')
  await page.getByRole('tab', { name: 'Price and cost' }).click()
  const price = page.getByRole('region', { name: 'Price' }).filter({ hasText: 'List price' })
  await expect(price).toContainText('258.00 EUR each')
  await typeRow(page, 'Price', 'price frozen store = 31 EUR + width * 12 EUR/m when mount = face')
  await stored(page)
  await expect(price).toContainText('303.00 EUR each')
  await price.getByRole('button', { name: 'Frozen store' }).click()
  await expect(price.getByRole('list', { name: 'Worked out' })).toContainText('45.4 EUR')
  // What is no money is told under the row.
  await typeRow(page, 'Price', 'price wrong = width * 2')
  await row(page, 'width * 2').click()
  await expect(
    page
      .getByRole('alert')
      .filter({ hasText: /an amount of money/ })
      .first(),
  ).toBeVisible()
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Undo', exact: true }).first().click()
  await page.getByRole('button', { name: 'Undo', exact: true }).first().click()
  await expect(price).toContainText('258.00 EUR each')

  const desk = await as(browser, 'marit')
  await desk.goto('/configurations?search=Loading+bay+2')
  await desk.getByRole('link', { name: 'Loading bay 2' }).click()
  await desk.getByLabel('Customer class').first().selectOption({ label: 'Group company' })
  await desk.getByRole('tab', { name: 'Price and cost' }).click()
  await expect(desk.getByRole('region', { name: 'Price' })).toContainText('Group company pays 22 % less')
  // The choice outlives a reload before it is saved, and is saved with the configuration.
  await desk.reload()
  await expect(desk.getByLabel('Customer class').first()).toHaveValue('GROUP')
  await desk.getByRole('button', { name: 'Save changes' }).click()
  await expect(desk.getByRole('button', { name: 'Saved' })).toBeVisible()
  await desk.getByLabel('Customer class').first().selectOption('TRADE')
  await desk.getByRole('button', { name: 'Save changes' }).click()
  await expect(desk.getByRole('button', { name: 'Saved' })).toBeVisible()
})

test('cells of the library are filled by drawing over them, and what someone else has changed meanwhile is not overwritten', async ({ browser }) => {
  const [ines, piet] = [await as(browser, 'ines'), await as(browser, 'piet')]
  for (const page of [ines, piet]) await page.goto('/library/customer-classes')
  await cell(ines, 'discount %', 1).click()
  const [from, to] = [await ines.getByTitle('Draw over other rows to fill them').boundingBox(), await cell(ines, 'discount %', 3).boundingBox()]
  await ines.mouse.move(from!.x + 4, from!.y + 4)
  await ines.mouse.down()
  await ines.mouse.move(to!.x + 20, to!.y + 8, { steps: 5 })
  await ines.mouse.up()
  await expect(cell(ines, 'discount %', 3)).toHaveText('22')
  await expect(ines.getByRole('button', { name: 'Undo' })).toBeEnabled()
  // The other page still shows what was there before.
  await typeCell(piet, 'discount %', 3, '13')
  await expect(piet.getByRole('alert').filter({ hasText: 'Someone has changed this to “22” since you saw it' })).toBeVisible()
  await expect(cell(piet, 'discount %', 3)).toHaveText('22')
  await ines.getByRole('button', { name: 'Undo' }).click()
  await expect(cell(ines, 'discount %', 3)).toHaveText('12.5')
})
