import AxeBuilder from '@axe-core/playwright'
import { expect, test } from '@playwright/test'
import { as, row } from './people'

const places: { who: string; name: string; path: string; ready: string }[] = [
  { who: 'ines', name: 'products', path: '/products', ready: 'Walk-in cold room' },
  { who: 'ines', name: 'product', path: '/products/cold-room', ready: 'Configurations' },
  { who: 'ines', name: 'workshop', path: '/workshop/2', ready: 'EUR' },
  { who: 'ines', name: 'value list', path: '/workshop/2?list=finishes', ready: 'White coated steel' },
  { who: 'ines', name: 'table of parts', path: '/workshop/2?assembly=room&kind=part', ready: 'EUR' },
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
      if (place.name === 'workshop') await row(page, 'core.u_value * (wall_area').click()
      // The second theme differs in its colours only.
      const axe = theme === 'light' ? new AxeBuilder({ page }).withTags(wcag) : new AxeBuilder({ page }).withRules(['color-contrast'])
      const result = await axe.analyze()
      expect(result.violations.map((v) => `${place.name}: ${v.id} ${v.nodes.slice(0, 3).map((n) => n.html.slice(0, 160)).join(' | ')}`)).toEqual([])
      expect(await page.evaluate(() => document.documentElement.scrollWidth <= innerWidth), `${place.name} scrolls sideways`).toBe(true)
      await page.context().close()
    }
  })
