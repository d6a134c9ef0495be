import { expect, test } from '@playwright/test'
import { as, stored } from './people'

test('an item is exchanged in the drafts of two products: seen before, made as one edit each, taken back by one undo', async ({ browser }) => {
  const page = await as(browser, 'ines')
  await page.goto('/items/LATCH')
  const exchange = page.getByRole('region', { name: 'Exchange it for another item' })

  await test.step('wrong input is told, and nothing is stored by looking', async () => {
    await exchange.getByLabel('the item in its place').fill('LATCH-X')
    await exchange.getByRole('button', { name: 'See what it changes' }).click()
    await expect(exchange.getByRole('alert')).toContainText('There is no item “LATCH-X”')
    await exchange.getByLabel('the item in its place').fill('LATCH-S')
    await exchange.getByRole('button', { name: 'See what it changes' }).click()
    await expect(exchange.getByRole('button', { name: 'Exchange it in 2 products' })).toBeVisible({ timeout: 60_000 })
    // What is saved says what it comes to.
    await exchange
      .getByText(/saved last would come out otherwise/)
      .first()
      .click()
    await expect(exchange.getByRole('listitem').filter({ hasText: /cost/i }).first()).toBeVisible()
  })

  await test.step('it is made in both drafts', async () => {
    await exchange.getByRole('button', { name: 'Exchange it in 2 products' }).click()
    await expect(exchange.getByText('Exchanged in one place.')).toHaveCount(2)
    const drafts = await exchange.getByRole('link', { name: 'Open the draft' }).evaluateAll((links) => links.map((l) => l.getAttribute('href')!))
    for (const draft of drafts) {
      await page.goto(draft)
      const history = async (last: string | RegExp) => {
        await page.getByRole('button', { name: 'History', exact: true }).click()
        await expect(page.getByRole('dialog').getByRole('listitem').first()).toContainText(last)
        await page.keyboard.press('Escape')
      }
      await history('LATCH → LATCH-S')
      await page.getByRole('button', { name: 'Undo', exact: true }).click()
      await stored(page)
      await history('LATCH-S → LATCH')
    }
  })
})
