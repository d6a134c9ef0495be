import { expect, test } from '@playwright/test'
import { as, row, stored, typeRow } from './people'

// What worked still works: test cases kept from the bench, red beside the edit that breaks them, and in the way of a release.

test('a case is kept from the bench, turns red with a lowered limit, is accepted with a reason; the rest is proposed', async ({ browser }) => {
  const page = await as(browser, 'ines')
  await page.getByRole('button', { name: 'New product' }).click()
  await page.getByLabel('Code').fill('SR-CASE')
  await page.getByRole('dialog').getByLabel('Name').fill('Shelf rack with cases')
  await page.getByRole('button', { name: /Make it/ }).click()
  await typeRow(page, 'General', 'whole shelves 1..12 = 4')
  await typeRow(page, 'General', 'part SCRW-K × 4 * shelves')
  await stored(page)
  await expect(page.getByRole('link', { name: 'none yet' })).toBeVisible()

  await page.getByRole('button', { name: 'keep as test case' }).click()
  const sheet = page.getByRole('dialog')
  await sheet.getByLabel('Name').fill('Four shelves')
  await expect(sheet.getByRole('checkbox', { name: /Quantity of/ })).toBeChecked()
  await sheet.getByRole('button', { name: 'Keep test case' }).click()
  await expect(page.getByRole('link', { name: '1 of 1 pass' })).toBeVisible()

  // The quantity is changed: beside the edit the case turns red, and the release says so.
  await row(page, 'SCRW-K').click()
  const quantity = page.locator('.cm-content').filter({ hasText: '4 * shelves' }).first()
  await quantity.click()
  await page.keyboard.press('End')
  await page.keyboard.type(' + 1')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('link', { name: '1 of 1 fail' })).toBeVisible()
  await page.getByRole('button', { name: 'Release …' }).click()
  await expect(page.getByText('1 of 1 test cases do not pass: “Four shelves”.')).toBeVisible()
  await page.keyboard.press('Escape')

  await page.getByRole('link', { name: '1 of 1 fail' }).click()
  await expect(page.getByText(/Quantity of .*: 16 is expected, 17 came out\./)).toBeVisible()
  await page.getByRole('button', { name: /Four shelves/ }).click()
  for (const what of [/^Quantity of/, /^Cost of the order/, /^Weight of the order/]) {
    const line = page.getByRole('row', { name: what })
    await line.getByRole('button', { name: 'accept' }).click()
    await page.getByLabel('Why it is right as it comes out now').fill('One more kit for the wall.')
    await page.getByRole('button', { name: 'Accept what came out' }).click()
    await expect(line.getByText('“One more kit for the wall.”')).toBeVisible()
  }
  await expect(page.getByText('1 of 1 pass')).toBeVisible()

  // What no case reaches is proposed; made by a click, taken back by another.
  await page.getByRole('button', { name: 'Find out' }).click()
  await expect(page.getByText('Nothing more can be reached.')).toBeVisible()
  await page.getByRole('button', { name: 'Try it on the bench' }).click()
  await expect(page.getByRole('region', { name: 'Bench' })).toBeVisible()
})

test('a saved configuration is kept as a test case of the draft by one click from its page', async ({ browser }) => {
  const page = await as(browser, 'ines')
  await page.goto('/configurations?search=Counter+opening')
  await page.getByRole('link', { name: 'Counter opening' }).click()
  await page.getByRole('button', { name: 'As a test case …' }).click()
  const sheet = page.getByRole('dialog')
  await sheet.getByLabel('Name').fill('The counter opening as it was sold')
  await sheet.getByRole('button', { name: 'Keep test case' }).click()
  await expect(sheet).toHaveCount(0)
  await page.goto('/workshop/8/cases')
  await expect(page.getByText('The counter opening as it was sold')).toBeVisible()
  await page.goto('/workshop/8')
  await page.getByRole('button', { name: 'Undo', exact: true }).click()
  await stored(page)
})
