import { expect, test, type Page } from '@playwright/test'
import { as } from './people'

const steps = process.env.JUNIPERFALL_LONG === '1' ? 150 : 15

/** The same walk each time. */
function random(seed: number): (below: number) => number {
  let state = seed
  return (below) => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return Math.floor((state / 2 ** 32) * below)
  }
}

const settled = (page: Page) => expect(page.getByRole('region', { name: 'Outcome' })).toHaveAttribute('aria-busy', 'false')

test('a walk over the order desk: whatever is picked, the page holds together and every “no” has a way out', async ({ browser }) => {
  test.setTimeout(900_000)
  const page = await as(browser, 'marit')
  const faults: string[] = []
  page.on('pageerror', (e) => faults.push(e.message))
  page.on('response', (r) => r.status() >= 400 && faults.push(`${r.status()} ${r.url()}`))
  await page.goto('/configure/1')
  await page.getByRole('group', { name: 'Duty', exact: true }).waitFor()
  const pick = random(7)
  let undone = 0
  for (let step = 0; step < steps; step++) {
    const groups = page.getByRole('group').filter({ has: page.getByRole('button') })
    const group = groups.nth(pick(await groups.count()))
    const buttons = group.getByRole('button')
    const button = buttons.nth(pick(await buttons.count()))
    const label = (await button.getAttribute('aria-label')) ?? ''
    await button.click()
    if (label.includes('ruled out')) {
      // What is ruled out says why; where there is a way to it, taking the way leads there.
      const reason = page.getByRole('region', { name: /^Why / })
      await expect(reason.getByText('Looking for')).toHaveCount(0)
      await expect(reason).toContainText(/you picked|rule|condition|bound|only/)
      const way = reason.getByRole('list', { name: 'Ways out' }).getByRole('button').first()
      if (await way.count()) {
        await way.click()
        await settled(page)
        await expect(page.getByText(/^Clash \d/)).toHaveCount(0)
      } else await reason.getByRole('button', { name: 'Close the reason' }).click()
    } else {
      await settled(page)
      // Only what can be had is offered, so that no clash comes of it.
      await expect(page.getByText(/^Clash \d/)).toHaveCount(0)
    }
    if (step % 5 === 4) {
      await page.getByRole('button', { name: 'Undo' }).click()
      await settled(page)
      undone++
    }
  }
  expect(undone).toBeGreaterThan(0)
  expect(faults).toEqual([])
  // The page reloaded shows the very same answers.
  const pressed = () => page.locator('[aria-pressed=true]').allTextContents()
  const before = await pressed()
  await page.reload()
  await page.getByRole('group', { name: 'Duty', exact: true }).waitFor()
  await settled(page)
  expect(await pressed()).toEqual(before)
})
