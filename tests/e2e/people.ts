import { expect, type Browser, type BrowserContextOptions, type Locator, type Page } from '@playwright/test'

export const password = 'frost-and-panels'

/** A browser of one's own for a person, signed in. */
export async function as(browser: Browser, name: string, at: BrowserContextOptions = {}): Promise<Page> {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, acceptDownloads: true, ...at })
  const page = await context.newPage()
  await page.goto('/')
  await page.getByLabel('Name').fill(name)
  await page.getByLabel('Password').fill(password)
  await page.getByRole('button', { name: 'Sign in' }).click()
  await expect(page.getByRole('navigation', { name: 'Places' })).toBeVisible()
  return page
}

/** Types a new row into a topic of the worksheet shown. */
export async function typeRow(page: Page, topic: string, line: string): Promise<void> {
  const field = page.getByRole('combobox', { name: `New row in ${topic}` })
  await field.fill(line)
  await field.press('Enter')
  await expect(field).toHaveValue('')
}

/**
 * Replaces what an expression editor holds. The editor draws itself anew when a check comes back, which can take away a
 * selection made from outside; so this selects as a person does, and looks that it holds just the new text.
 */
export async function write(editor: Locator, text: string): Promise<void> {
  await expect(async () => {
    await editor.click()
    await editor.press('ControlOrMeta+a')
    await editor.page().keyboard.insertText(text)
    await expect(editor).toHaveText(text, { timeout: 2_000 })
  }).toPass()
}

export const stored = (page: Page) => expect(page.getByRole('status').filter({ hasText: /^(all )?stored/ })).toBeVisible()

/** The row of the worksheet that holds a text. */
export const row = (page: Page, text: string | RegExp): Locator => page.locator('[data-row]').filter({ hasText: text })

/** A cell of the table shown, by the name of its column and its row, the first one 1. */
export const cell = (page: Page, column: string, line: number): Locator =>
  page.getByRole('grid').locator(`[aria-rowindex="${line + 1}"] [data-column="${column}"]`)

/** Types over a cell and goes on with Enter. */
export async function typeCell(page: Page, column: string, line: number, text: string): Promise<void> {
  await cell(page, column, line).click()
  await page.keyboard.type(text)
  await page.keyboard.press('Enter')
}
