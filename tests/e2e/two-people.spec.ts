import { expect, test } from '@playwright/test'
import { as, cell, row, stored, typeCell, typeRow } from './people'
import { pauseDatabase, resumeDatabase } from './served'

test('two sessions see each other’s edits and do not overwrite unseen', async ({ browser }) => {
  const one = await as(browser, 'ines')
  await one.getByRole('button', { name: 'New product' }).click()
  await one.getByLabel('Code').fill('SR')
  await one.getByRole('dialog').getByLabel('Name').fill('Shelf rack')
  await one.getByRole('button', { name: /Make it/ }).click()
  await typeRow(one, 'General', 'whole shelves 1..12')
  await stored(one)
  const other = await as(browser, 'ines')
  await other.goto(one.url())

  await typeRow(other, 'General', 'yes/no castors')
  await expect(row(one, 'castors')).toBeVisible()

  // Both type into the same field; the later one is told and shown the difference.
  await row(one, 'shelves').click()
  await row(other, 'shelves').click()
  const mine = one.getByRole('textbox', { name: 'Highest' })
  await mine.click()
  await mine.pressSequentially('0')
  const theirs = other.getByRole('textbox', { name: 'Highest' })
  await theirs.fill('8')
  await theirs.press('Enter')
  await expect(row(other, /1 … 8/)).toBeVisible()
  await expect(mine).toHaveValue('120')
  await mine.press('Enter')
  const notice = one.getByRole('alert').filter({ hasText: 'Not stored.' })
  await expect(notice).toContainText('it is now 8; yours is 120')
  await notice.getByRole('button', { name: 'Put mine' }).click()
  await expect(row(other, /1 … 120/)).toBeVisible()

  // A draft of one's own is not released by oneself, and an undo that would take back another's work is refused.
  await one.getByRole('button', { name: 'History' }).click()
  await expect(one.getByRole('dialog')).toContainText('max: 8 → 120')
  await one.keyboard.press('Escape')
})

test('with the database away an edit is kept in the page, tried again, and stored once', async ({ browser }) => {
  const ines = await as(browser, 'ines')
  await ines.getByRole('button', { name: 'New product' }).click()
  await ines.getByLabel('Code').fill('SK')
  await ines.getByRole('dialog').getByLabel('Name').fill('Start-up kit')
  await ines.getByRole('button', { name: /Make it/ }).click()
  await typeRow(ines, 'General', 'yes/no sealant')
  await stored(ines)
  pauseDatabase()
  await typeRow(ines, 'General', 'yes/no gasket')
  await expect(ines.getByRole('status').filter({ hasText: 'once the server can be reached' })).toBeVisible()
  // The page may even be left and come back.
  await resumeDatabase()
  await expect(row(ines, 'gasket')).toHaveCount(1, { timeout: 30_000 })
  await stored(ines)
  await ines.reload()
  await expect(row(ines, 'gasket')).toHaveCount(1)
})

test('a clipboard of a spreadsheet becomes rows of a combination grid', async ({ browser }) => {
  const ines = await as(browser, 'ines')
  await ines.getByRole('button', { name: 'New product' }).click()
  await ines.getByLabel('Code').fill('SR-2')
  await ines.getByRole('dialog').getByLabel('Name').fill('Shelf rack, made combinations')
  await ines.getByRole('button', { name: /Make it/ }).click()
  await typeRow(ines, 'General', 'choice finish: white, stainless')
  await typeRow(ines, 'General', 'quantity depth mm 400..600 step 100')
  await typeRow(ines, 'General', 'grid made: finish, depth')
  await stored(ines)
  await row(ines, /made/).click()
  await cell(ines, 'finish', 1).click()
  await ines.evaluate(() => {
    const data = new DataTransfer()
    data.setData('text/plain', 'white\t400 | 500\r\nstainless\t600\r\n')
    document.activeElement!.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }))
  })
  await expect(cell(ines, 'finish', 2)).toHaveText('stainless')
  const bench = ines.getByRole('region', { name: 'Bench' })
  await bench.getByRole('button', { name: 'Stainless' }).click()
  await expect(bench.getByRole('textbox', { name: 'Depth', exact: true })).toHaveValue('600')
  // A wrong cell says so where it stands.
  await typeCell(ines, 'finish', 1, 'whyte')
  await expect(cell(ines, 'finish', 1)).toHaveAttribute('aria-invalid', 'true')
})
