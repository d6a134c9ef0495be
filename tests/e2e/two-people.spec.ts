import { expect, test } from '@playwright/test'
import { as, cell, row, stored, typeCell, typeRow, write } from './people'
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

test('two people see where the other one is, and neither overwrites what the other changed while they typed: in an expression, a grid and a value list', async ({
  browser,
}) => {
  const ines = await as(browser, 'ines')
  await ines.getByRole('button', { name: 'New product' }).click()
  await ines.getByLabel('Code').fill('SR-TWO')
  await ines.getByRole('dialog').getByLabel('Name').fill('Shelf rack for two')
  await ines.getByRole('button', { name: /Make it/ }).click()
  for (const line of ['choice finish: white, stainless', 'quantity depth mm 400..600 step 100', 'rule depth > 400 mm', 'grid made: finish, depth'])
    await typeRow(ines, 'General', line)
  await stored(ines)
  const other = await as(browser, 'ines')
  await other.goto(ines.url())
  const refused = (page: typeof ines) => page.getByRole('alert').filter({ hasText: 'Not stored.' })

  await row(other, /depth > 400/).click()
  await expect(row(ines, /depth > 400/)).toContainText('is here')
  await expect(row(ines, /finish.*choice/)).not.toContainText('is here')
  await row(ines, /depth > 400/).click()
  const [mine, theirs] = [ines, other].map((p) => p.getByRole('textbox', { name: 'Must hold' }))
  await mine!.click()
  await ines.keyboard.press('End')
  await ines.keyboard.type(' and depth < 600 mm')
  await write(theirs!, 'depth > 450 mm')
  await theirs!.press('Enter')
  await stored(other)
  await expect(mine!).toHaveText('depth > 400 mm and depth < 600 mm')
  await ines.keyboard.press('Enter')
  await expect(refused(ines)).toContainText('it is now depth > 450 mm; yours is depth > 400 mm and depth < 600 mm')
  await refused(ines).getByRole('button', { name: 'Keep what is there' }).click()
  await expect(row(ines, /depth > 450/)).toBeVisible()

  for (const page of [ines, other]) await row(page, /made/).click()
  await typeCell(ines, 'finish', 1, 'white')
  await expect(cell(other, 'finish', 1)).toHaveText('white')
  await cell(ines, 'finish', 1).click()
  await ines.keyboard.type('stain')
  await typeCell(other, 'finish', 1, '*')
  await stored(other)
  await ines.keyboard.type('less')
  await ines.keyboard.press('Enter')
  await expect(refused(ines)).toContainText('yours is stainless')
  await refused(ines).getByRole('button', { name: 'Put mine' }).click()
  await expect(cell(other, 'finish', 1)).toHaveText('stainless')

  for (const page of [ines, other]) await page.getByRole('navigation', { name: 'Outline' }).getByRole('button', { name: 'finish' }).click()
  await cell(ines, 'Label', 1).click()
  await ines.keyboard.type('Snow')
  await typeCell(other, 'Label', 1, 'Chalk')
  await stored(other)
  await ines.keyboard.press('Enter')
  await expect(refused(ines)).toContainText('it is now Chalk; yours is Snow')
})

test('a release is asked for with a note, found by the approver, sent back with a reason, asked for again and given', async ({ browser }) => {
  const ines = await as(browser, 'ines')
  await ines.getByRole('button', { name: 'New product' }).click()
  await ines.getByLabel('Code').fill('SR-REL')
  await ines.getByRole('dialog').getByLabel('Name').fill('Shelf rack to release')
  await ines.getByRole('button', { name: /Make it/ }).click()
  await typeRow(ines, 'General', 'whole shelves 1..12')
  await stored(ines)
  const ask = async (note: string) => {
    await ines.getByRole('button', { name: 'Release …' }).click()
    const sheet = ines.getByRole('dialog')
    await sheet.getByRole('textbox', { name: 'What the approver should know' }).fill(note)
    await sheet.getByRole('button', { name: 'Ask for its release' }).click()
    await expect(ines.getByRole('button', { name: 'In review …' })).toBeVisible()
  }
  await ask('First shelves.')
  await expect(ines.getByRole('combobox', { name: /New row/ })).toHaveCount(0)

  const tomas = await as(browser, 'tomas')
  await tomas.getByRole('region', { name: 'Waiting for you' }).getByRole('link', { name: 'SR-REL revision 1' }).click()
  await tomas.getByRole('link', { name: 'Release, or send back …' }).click()
  await tomas.getByRole('dialog').getByRole('textbox').fill('Twelve are too many.')
  await tomas.getByRole('dialog').getByRole('button', { name: 'Send it back' }).click()
  // It is told to who looks at it, and can be edited again.
  await expect(ines.getByText('“Twelve are too many.”')).toBeVisible()
  await typeRow(ines, 'General', 'rule shelves < 9')
  await stored(ines)
  await ask('')
  await tomas.goto('/products')
  await tomas.getByRole('link', { name: 'SR-REL revision 1' }).click()
  await tomas.getByRole('link', { name: 'Release, or send back …' }).click()
  await tomas.getByRole('dialog').getByRole('button', { name: 'Release it' }).click()
  await expect(ines.getByRole('button', { name: 'Edit the next revision' })).toBeVisible()
})

test('at 768 pixels outline and bench fold into drawers, and nothing is cut', async ({ browser }) => {
  const ines = await as(browser, 'ines')
  await ines.setViewportSize({ width: 768, height: 900 })
  await ines.goto('/workshop/2')
  await expect(row(ines, /goods_per_day.*quantity/)).toBeVisible()
  await ines.getByRole('button', { name: 'Bench', exact: true }).click()
  await expect(ines.getByRole('complementary', { name: 'Bench beside the worksheet' }).getByRole('group', { name: 'Duty' })).toBeVisible()
  await ines.keyboard.press('Escape')
  await expect(ines.getByRole('complementary')).toHaveCount(0)
  await ines.getByRole('button', { name: 'Outline', exact: true }).click()
  await ines.getByRole('complementary', { name: 'Outline of the model' }).getByRole('button', { name: 'Door set' }).click()
  await expect(ines.getByRole('textbox', { name: 'Label of the assembly' })).toHaveValue('Door set')
  await ines.getByRole('button', { name: 'All of the title block' }).click()
  await expect(ines.getByText(/^28 of \d+ rows$/)).toBeVisible()
  for (const width of [768, 853]) {
    await ines.setViewportSize({ width, height: 800 })
    for (const path of [
      '/products',
      '/configurations',
      '/library/items',
      '/configure/1',
      '/workshop/2',
      '/workshop/2/health',
      '/workshop/2/cases',
      '/workshop/2/difference',
      '/workshop/2/impact',
      '/workshop/2/review',
      '/items/GSK-D',
    ]) {
      await ines.goto(path)
      await ines.getByRole('heading', { level: 1 }).waitFor()
      expect([path, width, await ines.evaluate(() => document.documentElement.scrollWidth <= innerWidth)]).toEqual([path, width, true])
    }
  }
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
