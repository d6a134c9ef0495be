import { expect, test, type Page } from '@playwright/test'
import { as, row, stored } from './people'

/** Types a line as a person does, key by key. */
async function type(page: Page, line: string, delay: number) {
  const field = page.getByRole('combobox', { name: 'New row in General' })
  await field.pressSequentially(line, { delay })
  await field.press('Enter')
}

const line = (page: Page) => page.getByRole('combobox', { name: 'New row in General' })
const told = (page: Page) => page.getByRole('alert').filter({ hasText: /./ }).first()

for (const delay of [10, 60])
  test(`a newcomer builds a small product by typing, wrong tries included, at ${delay} ms a key`, async ({ browser }) => {
    const ines = await as(browser, 'ines')
    await ines.getByRole('button', { name: 'New product' }).click()
    await ines.getByLabel('Code').fill(`CHEST-${delay}`)
    await ines.getByRole('dialog').getByLabel('Name').fill('Chest freezer')
    await ines.getByRole('button', { name: /Make it/ }).click()

    await test.step('names of several words, conditions and units are taken as they are typed', async () => {
      await type(ines, 'choice colour: white, light grey, blue', delay)
      await type(ines, 'choice lid: none, glass, foamed', delay)
      await type(ines, 'yes/no heated lid when lid <> none', delay)
      await expect(row(ines, 'heated lid')).toContainText('yes or no')
      await row(ines, 'heated lid').click()
      const condition = ines.getByRole('textbox', { name: /Applies when/ })
      await expect(condition).toHaveText('lid <> none')
      // A value of that name is told apart by its quotes.
      await ines.getByRole('button', { name: "write 'none'" }).click()
      await expect(condition).toHaveText("lid <> 'none'")
      await condition.blur()
      await type(ines, 'quantity clear width 600 mm..1800 mm step 50 = 900', delay)
      await expect(row(ines, 'clear width')).toContainText('600 … 1800 mm, steps of 50')
      await type(ines, 'several extras: basket, lamp', delay)
      await stored(ines)
    })

    await test.step('what is not understood stays in the line and leads on by one step', async () => {
      await type(ines, 'whole baskets', delay)
      await expect(told(ines)).toContainText('low..high')
      await expect(line(ines)).toHaveValue('whole baskets')
      await ines.getByRole('button', { name: '1..12' }).click()
      await line(ines).press('Enter')
      await expect(row(ines, 'baskets')).toContainText('whole number 1 … 12')
      await type(ines, 'depth = 600 mm', delay)
      await expect(told(ines)).toContainText('The first word says')
      await ines.getByRole('button', { name: 'compute it' }).click()
      await line(ines).press('Enter')
      await expect(row(ines, 'depth')).toContainText('600 mm')
      await type(ines, 'yes/no colour', delay)
      await expect(told(ines)).toContainText('There is “colour” here already.')
      await line(ines).press('Alt+Enter')
      await expect(line(ines)).toHaveValue('yes/no colour_2')
      await line(ines).press('Escape')
      await line(ines).press('Escape')
      await expect(line(ines)).toHaveValue('')
    })

    await test.step('a rule that is nearly right is mended by a click', async () => {
      await type(ines, 'rule extras = basket', delay)
      await row(ines, 'extras = basket').click()
      await ines.getByRole('button', { name: 'write has' }).click()
      await ines.keyboard.press('Enter')
      await expect(row(ines, 'extras has basket').getByLabel(/faults/)).toHaveCount(0)
    })

    await test.step('lines pasted together become rows, and what is wrong among them is kept', async () => {
      await line(ines).focus()
      await ines.evaluate(async () => {
        const data = new DataTransfer()
        data.setData(
          'text',
          "requires 'heated lid' then lid = glass\nlimit 'clear width' <= 1500 mm\nsubassembly lid unit 0..1\nprice base = 340 EUR\noperation 10 foam at PRESS 15 min + 3 min * baskets\n",
        )
        document.activeElement!.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }))
      })
      await expect(row(ines, '§2')).toContainText('requires')
      await expect(row(ines, 'lid unit').first()).toBeVisible()
      await expect(row(ines, 'foam')).toContainText('set-up 15 min, run 3 min * baskets')
      await stored(ines)
      await ines.reload()
      await expect(row(ines, 'lid unit').first()).toBeVisible()
    })

    await test.step('an item and a work centre that are not there yet are made from the line that names them', async () => {
      await type(ines, `part FT-FRAME-${delay} × 2`, delay)
      await ines.getByRole('button', { name: `make item FT-FRAME-${delay}` }).click()
      await ines.keyboard.type('Foot frame')
      await ines.keyboard.press('Enter')
      await expect(row(ines, 'FT-FRAME').getByLabel(/faults/)).toHaveCount(0)
      await ines.getByRole('button', { name: 'make work centre PRESS' }).or(row(ines, 'foam')).first().waitFor()
      if (await ines.getByRole('button', { name: 'make work centre PRESS' }).isVisible()) {
        await ines.getByRole('button', { name: 'make work centre PRESS' }).click()
        await ines.keyboard.type('Foaming press')
        await ines.keyboard.press('Enter')
      }
      await expect(row(ines, 'foam').getByLabel(/faults/)).toHaveCount(0)
    })

    await test.step('an attribute that a rule names and nobody has made is made from there', async () => {
      await type(ines, 'rule wall > 60 mm', delay)
      await row(ines, /wall > 60/).click()
      await ines.getByRole('button', { name: 'make attribute wall' }).click()
      await expect(line(ines)).toHaveValue('quantity wall mm ')
      await line(ines).pressSequentially('40..120 step 20', { delay })
      await line(ines).press('Enter')
      await expect(row(ines, /wall > 60/).getByLabel(/faults/)).toHaveCount(0)
      await row(ines, /wall > 60/).click()
    })

    await test.step('half a line outlasts a reload', async () => {
      await line(ines).pressSequentially('yes/no alarm wi', { delay: 5 })
      await ines.reload()
      await expect(line(ines)).toHaveValue('yes/no alarm wi')
    })
  })
