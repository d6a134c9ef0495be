import { expect, test, type Page } from '@playwright/test'
import { as, row, stored, typeRow } from './people'

// Rows and topics of a worksheet in the hand: dragged, cut, copied and pasted, within a model, between models and between tabs.

async function product(page: Page, code: string, name: string, lines: string[]) {
  await page.goto('/products')
  await page.getByRole('button', { name: 'New product' }).click()
  await page.getByLabel('Code').fill(code)
  await page.getByRole('dialog').getByLabel('Name').fill(name)
  await page.getByRole('button', { name: /Make it/ }).click()
  for (const line of lines) await typeRow(page, 'General', line)
  await stored(page)
}

const rowsOf = (page: Page) =>
  page.locator('[data-row]').evaluateAll((all) => all.map((r) => r.textContent!.match(/finish|depth|bays|shelf|width|cut|hole/)?.[0] ?? '?'))

test('rows and topics are dragged, marked rows move together, and one undo takes it back', async ({ browser }) => {
  const page = await as(browser, 'ines')
  await product(page, 'HAND', 'Shelf rack in the hand', [
    'choice finish: zinc, white',
    'quantity depth mm 400..600 step 100',
    'whole bays 1..8',
    'text width',
    'subassembly shelf',
  ])
  expect(await rowsOf(page)).toEqual(['finish', 'depth', 'bays', 'width', 'shelf'])
  await row(page, 'width').dragTo(row(page, 'depth'), { targetPosition: { x: 200, y: 3 } })
  await expect.poll(() => rowsOf(page)).toEqual(['finish', 'width', 'depth', 'bays', 'shelf'])
  await row(page, 'finish').click({ modifiers: ['ControlOrMeta'] })
  await row(page, 'width').click({ modifiers: ['ControlOrMeta'] })
  await row(page, 'finish').dragTo(row(page, 'bays'), { targetPosition: { x: 200, y: 22 } })
  await expect.poll(() => rowsOf(page)).toEqual(['depth', 'bays', 'finish', 'width', 'shelf'])
  await page.getByRole('button', { name: 'Undo', exact: true }).first().click()
  await expect.poll(() => rowsOf(page)).toEqual(['finish', 'width', 'depth', 'bays', 'shelf'])
  // Over another topic, and over another assembly in the outline.
  await page.getByRole('button', { name: 'Topic', exact: true }).click()
  await page.getByRole('textbox', { name: 'Name of the topic' }).nth(1).fill('Rest')
  await page.keyboard.press('Enter')
  await row(page, 'bays').dragTo(page.getByRole('region', { name: 'Rest' }).getByText('Nothing here yet'))
  await expect(page.getByRole('region', { name: 'Rest' }).locator('[data-row]')).toHaveCount(1)
  await page
    .getByTitle(/Drag the topic/)
    .nth(1)
    .dragTo(page.getByTitle(/Drag the topic/).nth(0))
  await expect.poll(() => rowsOf(page)).toEqual(['bays', 'finish', 'width', 'depth', 'shelf'])
  const outline = page.getByRole('navigation', { name: 'Outline' })
  await row(page, 'depth').dragTo(outline.getByRole('button', { name: 'Shelf', exact: true }))
  await expect.poll(() => rowsOf(page)).toEqual(['bays', 'finish', 'width', 'shelf'])
  await outline.getByRole('button', { name: 'Shelf', exact: true }).click()
  await expect.poll(() => rowsOf(page)).toEqual(['depth'])
})

test('rows are cut and pasted in a model, and copied into another one in another tab with all they need', async ({ browser }) => {
  const page = await as(browser, 'ines')
  await product(page, 'FROM', 'Shelf rack to copy from', [
    'choice finish: zinc, white',
    'quantity depth mm 400..600 step 100',
    'rule depth > 400 mm when finish = white',
    'subassembly shelf',
  ])
  await page.getByRole('navigation', { name: 'Outline' }).getByRole('button', { name: 'Shelf', exact: true }).click()
  await typeRow(page, 'General', 'choice hole of finish')
  await stored(page)
  await page.getByRole('navigation', { name: 'Outline' }).getByRole('button', { name: 'Shelf rack to copy from' }).click()
  // Cut and pasted, by keys: it moves and stays the same row.
  const id = await row(page, /^.*depth.*quantity/).getAttribute('data-row')
  await row(page, /depth.*quantity/).focus()
  await page.keyboard.press('Control+x')
  await row(page, /finish.*choice/).focus()
  await row(page, /shelf/).focus()
  await page.keyboard.press('Control+v')
  await expect(page.locator('[data-row]').last()).toHaveAttribute('data-row', id!)
  await page.keyboard.press('Control+a')
  await page.keyboard.press('Control+c')

  const tab = await page.context().newPage()
  await product(tab, 'INTO', 'Shelf rack to copy into', ['text remark'])
  await row(tab, 'remark').focus()
  await tab.keyboard.press('Control+v')
  await expect(tab.locator('[data-row]')).toHaveCount(5)
  await stored(tab)
  await expect(tab.getByRole('alert')).toHaveCount(0)
  await expect(row(tab, /finish.*choice of finish/)).toBeVisible()
  await tab.getByRole('navigation', { name: 'Outline' }).getByRole('button', { name: 'Shelf', exact: true }).click()
  await expect(row(tab, /hole.*choice of finish/)).toBeVisible()
  // The rule holds there: the bench shows it.
  await tab.getByRole('navigation', { name: 'Outline' }).getByRole('button', { name: 'Shelf rack to copy into' }).click()
  await tab.getByRole('region', { name: 'Bench' }).getByRole('group', { name: 'Finish' }).getByRole('button', { name: 'White' }).click()
  await tab.getByRole('region', { name: 'Bench' }).getByRole('textbox', { name: 'Depth' }).fill('400')
  await tab.keyboard.press('Enter')
  await expect(tab.getByRole('region', { name: 'Bench' }).getByRole('button', { name: /§1 ?depth > 400 mm/ })).toBeVisible()
  // What stands on the clipboard can be read, and typed lines become rows as well.
  await tab.evaluate(() => {
    const data = new DataTransfer()
    data.setData('text/plain', 'whole cut 1..3\nrule cut > 1')
    document.querySelector<HTMLElement>('[data-row]')!.focus()
    document.activeElement!.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }))
  })
  await expect(tab.locator('[data-row]')).toHaveCount(7)
})
