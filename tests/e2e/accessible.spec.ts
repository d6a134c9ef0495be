import AxeBuilder from '@axe-core/playwright'
import { expect, test, type Page } from '@playwright/test'
import { as, cell, row } from './people'

const places: { who: string; name: string; path: string; ready: string }[] = [
  { who: 'ines', name: 'products', path: '/products', ready: 'Walk-in cold room' },
  { who: 'ines', name: 'product', path: '/products/cold-room', ready: 'Configurations' },
  { who: 'ines', name: 'workshop', path: '/workshop/2', ready: 'EUR' },
  { who: 'ines', name: 'value list', path: '/workshop/2?list=finishes', ready: 'White coated steel' },
  { who: 'ines', name: 'table of parts', path: '/workshop/2?assembly=room&kind=part', ready: 'EUR' },
  { who: 'ines', name: 'impact', path: '/workshop/2/impact', ready: 'all 14 the same' },
  { who: 'tomas', name: 'review', path: '/workshop/2/review', ready: 'Against the release' },
  { who: 'ines', name: 'item', path: '/items/GSK-D', ready: 'What would a change touch?' },
  { who: 'ines', name: 'what holds when', path: '/products/cold-room/times', ready: 'Rows and values with days' },
  { who: 'ines', name: 'baselines', path: '/baselines', ready: 'Freeze what is released now' },
  { who: 'tomas', name: 'concessions', path: '/concessions', ready: 'By rule' },
  { who: 'marit', name: 'configure', path: '/configure/1', ready: 'EUR' },
  { who: 'marit', name: 'configurations', path: '/configurations', ready: 'Harbour fish market' },
  { who: 'piet', name: 'people', path: '/people', ready: 'Tomas Brandt' },
  { who: 'piet', name: 'what happened', path: '/people/audit', ready: 'signed in' },
]

const wcag = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']

for (const theme of ['light', 'dark'] as const)
  test(`every page passes axe by WCAG 2.2 AA, and has no sideways scrolling at 1280 pixels, ${theme}`, async ({ browser }) => {
    // The rules look at every element of long pages.
    test.setTimeout(600_000)
    for (const place of places) {
      const page = await as(browser, place.who)
      await page.emulateMedia({ colorScheme: theme })
      await page.goto(place.path)
      await expect(page.getByText(place.ready).first()).toBeVisible({ timeout: 30_000 })
      if (place.name === 'workshop') await row(page, 'core.u_value * (outer_wall_area').click()
      // The second theme differs in its colours only.
      const axe = theme === 'light' ? new AxeBuilder({ page }).withTags(wcag) : new AxeBuilder({ page }).withRules(['color-contrast'])
      const result = await axe.analyze()
      expect(
        result.violations.map(
          (v) =>
            `${place.name}: ${v.id} ${v.nodes
              .slice(0, 3)
              .map((n) => n.html.slice(0, 160))
              .join(' | ')}`,
        ),
      ).toEqual([])
      expect(await page.evaluate(() => document.documentElement.scrollWidth <= innerWidth), `${place.name} scrolls sideways`).toBe(true)
      await page.context().close()
    }
  })

test('menus, dialogs, drawers, a cell that is typed and a table that is filtered pass axe too', async ({ browser }) => {
  test.setTimeout(600_000)
  const page = await as(browser, 'ines')
  await page.goto('/workshop/2')
  await expect(page.getByText('EUR').first()).toBeVisible({ timeout: 30_000 })
  const opened: [string, (page: Page) => Promise<unknown>, close?: string][] = [
    ['menu of a row', () => row(page, /goods_per_day.*quantity/).click({ button: 'right' }), 'Escape'],
    [
      'search over everything',
      async () => (await page.keyboard.press('Control+k'), page.getByRole('combobox', { name: 'Open or do' }).fill('door')),
      'Escape',
    ],
    ['keys', () => page.getByRole('button', { name: 'Keys' }).click(), 'Escape'],
    ['history', () => page.getByRole('button', { name: 'History' }).click(), 'Escape'],
    ['release', () => page.getByRole('button', { name: 'Release …' }).click(), 'Escape'],
    ['uses', async () => (await row(page, /goods_per_day.*quantity/).focus(), page.keyboard.press('Shift+F12')), 'Escape'],
    [
      'filtered table',
      async () => (await page.getByLabel('Rows shown').selectOption('operation'), page.getByRole('button', { name: 'Filter', exact: true }).click()),
    ],
    ['cell that is typed', async () => (await cell(page, 'Name', 1).click(), page.keyboard.press('F2')), 'Escape'],
    ['menu of a table', () => cell(page, 'Name', 2).click({ button: 'right' }), 'Escape'],
    [
      'drawers',
      async () => (await page.setViewportSize({ width: 768, height: 900 }), page.getByRole('button', { name: 'Bench', exact: true }).click()),
    ],
  ]
  for (const [name, open, close] of opened) {
    await open(page)
    await page.waitForTimeout(300)
    const { violations } = await new AxeBuilder({ page }).withTags(wcag).analyze()
    expect(
      violations.map(
        (v) =>
          `${name}: ${v.id} ${v.nodes
            .slice(0, 3)
            .map((n) => n.html.slice(0, 160))
            .join(' | ')}`,
      ),
    ).toEqual([])
    if (close) await page.keyboard.press(close)
  }
})
