import { expect, test, type Page } from '@playwright/test'
import { as, cell, stored, typeCell, typeRow } from './people'

// Every key of a table, in each of the places where tables stand: one grid piece carries them all.

type Table = {
  /** A column of texts that can be typed over, and the one after it. */
  column: string
  next: string
  /** Texts that its cells can be. */
  texts: [string, string]
  /** What a row is called. */
  one: string
  newRows: boolean
  moves: boolean
}

const text = (page: Page, column: string, line: number) => cell(page, column, line).innerText()

/** Goes through every key, and leaves the table as it was. */
async function everyKey(page: Page, { column, next, texts: [a, b], one, newRows, moves }: Table) {
  const at = (line: number, of = column) => cell(page, of, line)
  const first = [await text(page, column, 1), await text(page, column, 2)]
  const rows = Number(await page.getByRole('grid').getAttribute('aria-rowcount'))
  const press = (keys: string) => page.keyboard.press(keys)
  const undo = async (times: number) => {
    for (let i = 0; i < times; i++) await press('Control+z')
  }

  await test.step('typing replaces, Enter keeps and goes down, Esc gives back', async () => {
    await typeCell(page, column, 1, a)
    await expect(at(1)).toHaveText(a)
    await expect(at(2)).toBeFocused()
    await page.keyboard.type('half a wo')
    await press('Escape')
    await expect(at(2)).toHaveText(first[1]!)
    await expect(at(2)).toBeFocused()
  })

  await test.step('undo and redo are those of the table', async () => {
    await press('Control+z')
    await expect(at(1)).toHaveText(first[0]!)
    await press('Control+y')
    await expect(at(1)).toHaveText(a)
    await press('Control+z')
    await expect(at(1)).toHaveText(first[0]!)
  })

  await test.step('F2 and a double click edit what stands there, Tab goes on', async () => {
    await at(1).click()
    await press('F2')
    await expect(page.getByRole('textbox', { name: `${column}, row 1` })).toHaveValue(first[0]!)
    await press('Escape')
    await at(1).dblclick()
    await expect(page.getByRole('textbox', { name: `${column}, row 1` })).toHaveValue(first[0]!)
    await press('Control+a')
    await page.keyboard.type(b)
    await press('Tab')
    await expect(at(1)).toHaveText(b)
    await expect(at(1, next)).toBeFocused()
    await press('Shift+Tab')
    await expect(at(1)).toBeFocused()
    await undo(1)
    await expect(at(1)).toHaveText(first[0]!)
  })

  await test.step('copy, paste, cut, fill and clear', async () => {
    await typeCell(page, column, 1, a)
    await expect(at(1)).toHaveText(a)
    await at(1).click()
    await press('Control+c')
    await at(2).click()
    await press('Control+v')
    await expect(at(2)).toHaveText(a)
    await press('Control+z')
    await expect(at(2)).toHaveText(first[1]!)
    await at(1).click()
    await press('Shift+ArrowDown')
    await press('Control+d')
    await expect(at(2)).toHaveText(a)
    await undo(2)
    await expect(at(1)).toHaveText(first[0]!)
    await expect(at(2)).toHaveText(first[1]!)
    await at(1).click()
    await press('Control+x')
    await expect(at(1)).toHaveText('')
    await press('Control+v')
    await expect(at(1)).toHaveText(first[0]!)
    await press('Delete')
    await expect(at(1)).toHaveText('')
    // One after the other: after the first and after the last it reads the same.
    for (const text of [first[0]!, '', first[0]!]) {
      await press('Control+z')
      await expect(at(1)).toHaveText(text)
    }
  })

  await test.step('the corner is drawn over other rows', async () => {
    await at(1).click()
    const corner = (await page.locator('[data-corner]').boundingBox())!
    const below = (await at(2).boundingBox())!
    await page.mouse.move(corner.x + 3, corner.y + 3)
    await page.mouse.down()
    await page.mouse.move(below.x + 10, below.y + 10, { steps: 4 })
    await page.mouse.up()
    await expect(at(2)).toHaveText(first[0]!)
    await press('Control+z')
    await expect(at(2)).toHaveText(first[1]!)
  })

  await test.step('columns are drawn wider and to another place, remembered, and put back', async () => {
    const edge = page.locator(`[data-head="1"] [data-edge]`)
    const width = (await page.locator('[data-head="1"]').boundingBox())!.width
    const box = (await edge.boundingBox())!
    await page.mouse.move(box.x + 4, box.y + 10)
    await page.mouse.down()
    await page.mouse.move(box.x + 64, box.y + 10, { steps: 4 })
    await page.mouse.up()
    await expect.poll(async () => Math.round((await page.locator('[data-head="1"]').boundingBox())!.width - width)).toBeGreaterThan(50)
    await edge.dblclick()
    await expect.poll(async () => Math.round((await page.locator('[data-head="1"]').boundingBox())!.width - width)).toBe(0)
  })

  await test.step('sorting and filters change what is seen and nothing else', async () => {
    await at(1).click()
    await page.getByRole('button', { name: 'Filter', exact: true }).click()
    const field = page.getByRole('textbox', { name: `Only rows whose ${column} has` })
    await field.fill(`=${first[1]!}`)
    await expect(at(1)).toHaveText(first[1]!)
    await page.getByRole('button', { name: 'Show all' }).click()
    await expect(at(1)).toHaveText(first[0]!)
    await at(1).click({ button: 'right' })
    await page.getByRole('menuitem', { name: `Sort down by “${column}”` }).click()
    await expect(page.locator('[aria-sort="descending"]')).toHaveCount(1)
    await at(1).click({ button: 'right' })
    await page.getByRole('menuitem', { name: 'As it was before sorting' }).click()
    await expect(at(1)).toHaveText(first[0]!)
  })

  await test.step('rows are marked, moved, and reached to the last one', async () => {
    await page.getByRole('rowheader', { name: '1', exact: true }).click()
    await expect(page.locator('[aria-rowindex="2"] [aria-selected="true"]').first()).toBeVisible()
    if (moves) {
      await press('Alt+ArrowDown')
      await expect(at(2)).toHaveText(first[0]!)
      await press('Control+z')
      await expect(at(1)).toHaveText(first[0]!)
    }
    await at(1).click()
    await press('Control+ArrowDown')
    await expect(page.locator(`[aria-rowindex="${rows}"] [data-column="${column}"]`)).toBeFocused()
    await press('Control+Home')
  })

  if (newRows)
    await test.step('what is typed in the last line is a row, and is deleted again', async () => {
      await typeCell(page, column, rows - 1, b)
      await expect(page.getByRole('grid')).toHaveAttribute('aria-rowcount', String(rows + 1))
      await page.getByRole('rowheader', { name: String(rows - 1), exact: true }).click({ button: 'right' })
      await page.getByRole('menuitem', { name: `Delete ${one}` }).click()
      await expect(page.getByRole('grid')).toHaveAttribute('aria-rowcount', String(rows))
    })
}

test('every key works in the tables of a worksheet, in a value list and in a combination grid', async ({ browser }) => {
  const page = await as(browser, 'ines')
  await page.getByRole('button', { name: 'New product' }).click()
  await page.getByLabel('Code').fill('TAB')
  await page.getByRole('dialog').getByLabel('Name').fill('Shelf rack in tables')
  await page.getByRole('button', { name: /Make it/ }).click()
  for (const line of [
    'choice finish: zinc, white, blue',
    'quantity depth mm 400..600 step 100',
    'grid made: finish, depth',
    'rule depth > 300 mm',
    'rule depth < 700 mm',
    'operation cut 20 PUNCH 5 min',
  ])
    await typeRow(page, 'General', line)
  await stored(page)

  await page.getByLabel('Rows shown').selectOption('statement')
  await everyKey(page, {
    column: 'Must hold',
    next: 'Applies when',
    texts: ['depth > 350 mm', 'depth > 250 mm'],
    one: 'row',
    newRows: true,
    moves: false,
  })
  await page.getByLabel('Rows shown').selectOption({ index: 0 })

  await page.getByRole('navigation', { name: 'Outline' }).getByRole('button', { name: 'finish' }).click()
  await everyKey(page, { column: 'Code', next: 'Label', texts: ['zincked', 'plain'], one: 'value', newRows: true, moves: true })

  await page.getByRole('navigation', { name: 'Outline' }).getByRole('button', { name: 'Shelf rack in tables' }).click()
  await page.locator('[data-row]').filter({ hasText: /made/ }).click()
  await typeCell(page, 'finish', 1, 'white')
  await expect(page.getByRole('grid')).toHaveAttribute('aria-rowcount', '3')
  await typeCell(page, 'finish', 2, 'blue')
  await expect(page.getByRole('grid')).toHaveAttribute('aria-rowcount', '4')
  await everyKey(page, { column: 'finish', next: 'depth', texts: ['zinc', 'blue | zinc'], one: 'row', newRows: true, moves: true })
})

test('every key works in the library, over more rows than are loaded at once', async ({ browser }) => {
  const page = await as(browser, 'ines')
  await page.goto('/library/items')
  await everyKey(page, { column: 'description', next: 'unit', texts: ['Alarm, another one', 'Alarm'], one: 'item', newRows: false, moves: false })
  // The last line is far out of sight; the button leads there. The new item takes its place by its number.
  const rows = await page.getByRole('grid').getAttribute('aria-rowcount')
  await page.getByRole('button', { name: 'New item' }).click()
  await page.keyboard.type('AA-NEW')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('grid')).toHaveAttribute('aria-rowcount', String(Number(rows) + 1))
  await page.getByLabel('Search items').fill('AA-NEW')
  await expect(cell(page, 'number', 1)).toHaveText('AA-NEW')
  await cell(page, 'number', 1).click()
  await page.keyboard.press('Control+Delete')
  await expect(page.getByRole('grid')).toHaveAttribute('aria-rowcount', '2')
})
