import { expect, test, type Page } from '@playwright/test'
import { as } from './people'

/** Everything is done with a finger, on the screen that stands at the counter. */
const counter = { viewport: { width: 1024, height: 768 }, hasTouch: true }

const group = (page: Page, name: string) => page.getByRole('group', { name, exact: true })
const settled = (page: Page) => expect(page.getByRole('region', { name: 'Outcome' })).toHaveAttribute('aria-busy', 'false')

async function typed(page: Page, field: string, value: string, within: Page | ReturnType<Page['getByRole']> = page) {
  const box = within.getByRole('textbox', { name: field, exact: true }).first()
  await box.tap()
  await box.fill(value)
  await box.press('Enter')
}

test('a room for a butcher, with the customer on the phone; then a planner takes it over for another site', async ({ browser }) => {
  const desk = await as(browser, 'marit', counter)
  await desk.goto('/configure/1')

  await test.step('what the customer says is answered as it comes', async () => {
    await group(desk, 'Duty').getByRole('button', { name: 'Freezer', exact: true }).tap()
    await group(desk, 'Goods').getByRole('button', { name: 'Meat', exact: true }).tap()
    for (const [field, value] of [
      ['Inner length', '4200'],
      ['Inner width', '2700'],
      ['Inner height', '2500'],
    ] as const)
      await typed(desk, field, value)
    await group(desk, 'Inner finish')
      .getByRole('button', { name: /^Stainless/ })
      .tap()
    await group(desk, 'Delivery').getByRole('button', { name: 'Delivered and assembled' }).tap()
    await desk.getByLabel('Customer class').first().selectOption({ label: 'Trade partner' })
    await desk.getByRole('button', { name: 'Door 2', exact: true }).tap()
    const second = desk.getByRole('region', { name: 'Door 2: Door' })
    await second.getByRole('group', { name: 'In the wall' }).getByRole('button', { name: 'Short wall' }).tap()
    await second.getByRole('group', { name: 'Kind' }).getByRole('button', { name: 'Sliding' }).tap()
    await settled(desk)
  })

  await test.step('the cheapest at this size: three taps, nothing of what was said is moved', async () => {
    await desk.getByRole('button', { name: 'Fill in what is open …' }).tap()
    await desk.getByRole('button', { name: 'Find it' }).tap()
    const take = desk.getByRole('button', { name: /^Take/ })
    await expect(take).toBeEnabled({ timeout: 60_000 })
    await expect(desk.getByRole('status').filter({ hasText: 'EUR' }).first()).toBeVisible()
    await take.tap()
    await expect(desk.getByText('ready to build')).toBeVisible()
    await expect(desk.getByRole('textbox', { name: 'Inner length', exact: true })).toHaveValue('4200')
    await expect(group(desk, 'Duty').getByRole('button', { name: 'Freezer', exact: true })).toHaveAttribute('aria-pressed', 'true')
    // The price is the customer's; what it costs is not for the order desk.
    await expect(desk.getByRole('button', { name: /^Trade partner [\d\s]+\.\d\d EUR$/ })).toBeVisible()
    await expect(desk.getByText('Cost', { exact: true })).toHaveCount(0)
  })

  await test.step('why no sliding door of 1.8 m there: a reason and a way out', async () => {
    const second = desk.getByRole('region', { name: 'Door 2: Door' })
    await typed(desk, 'Clear width', '1800', second)
    const why = desk.getByRole('region', { name: 'Why Clear width: 1800 mm' })
    await expect(why).toContainText('must fit into it')
    await expect(why.getByRole('list', { name: 'Ways out' }).getByRole('button').first()).toBeVisible()
    await why.getByRole('button', { name: 'Close the reason' }).tap()
  })

  await test.step('what the second door costs: one tap', async () => {
    await desk.getByRole('button', { name: 'What does Door 2 cost?' }).tap()
    const cost = desk.getByRole('region', { name: 'What Door 2 costs' })
    await expect(cost.getByRole('cell', { name: /^− [\d\s]+\.\d\d EUR$/ }).first()).toBeVisible()
    await cost.getByRole('button', { name: 'Close what it costs' }).tap()
  })

  await test.step('what another finish costs, with what changes along', async () => {
    await desk.getByRole('button', { name: 'What does Inner finish cost?' }).tap()
    const cost = desk.getByRole('region', { name: 'What Inner finish costs' })
    await expect(cost.getByRole('row', { name: /White coated steel/ })).toContainText(/− [\d\s]+\.\d\d EUR/)
    await expect(cost.getByRole('row')).toHaveCount(3)
    await cost.getByRole('button', { name: 'Close what it costs' }).tap()
  })

  await test.step('saved, kept as a variant of it, found by what was answered', async () => {
    const name = desk.getByLabel('Name of the configuration')
    await name.fill('Quay Lane butcher, freezer')
    await desk.getByRole('button', { name: 'Save', exact: true }).tap()
    await expect(desk.getByRole('button', { name: 'Saved' })).toBeVisible()
    await expect(desk).toHaveURL(/\/configurations\//)
  })

  await test.step('what if chill: both beside one another, with what differs', async () => {
    await desk.getByRole('button', { name: 'What if …' }).tap()
    const then = desk.getByRole('region', { name: 'What if', exact: true })
    const chill = then.getByRole('group', { name: 'Duty' }).getByRole('button', { name: /^Chill/ })
    await chill.tap()
    await expect(chill).toHaveAttribute('aria-pressed', 'true')
    const differs = desk.getByRole('region', { name: 'What differs' })
    await expect(differs.getByRole('row', { name: /Duty/ })).toContainText('Chill')
    await expect(desk.getByRole('region', { name: 'As it is' }).getByText(/EUR$/).first()).toBeVisible()
    await then.getByRole('button', { name: 'Leave it as it is' }).tap()
    await expect(group(desk, 'Duty').getByRole('button', { name: 'Freezer', exact: true })).toHaveAttribute('aria-pressed', 'true')
    await expect(desk.getByRole('button', { name: 'Saved' })).toBeVisible()
  })

  await test.step('a copy starts from it, under a name of its own, and the two are compared', async () => {
    await desk.goto('/configurations')
    await desk.getByLabel('Search configurations').fill('butcher freezer sliding')
    await desk.getByRole('button', { name: 'Copy Quay Lane butcher, freezer' }).tap()
    await expect(desk.getByLabel('Name of the configuration')).toHaveValue('Copy of Quay Lane butcher, freezer')
    await group(desk, 'Outer finish').getByRole('button', { name: /^Grey/ }).tap()
    await desk.getByRole('button', { name: 'Save', exact: true }).tap()
    await expect(desk.getByRole('button', { name: 'Saved' })).toBeVisible()
    await desk.goto('/configurations?search=butcher%20freezer%20sliding')
    for (const name of ['Copy of Quay Lane butcher, freezer', 'Quay Lane butcher, freezer'])
      await desk.getByRole('checkbox', { name: `Compare ${name}`, exact: true }).tap()
    await desk.getByRole('link', { name: 'Compare the two' }).tap()
    await expect(desk.getByRole('row', { name: /Outer finish/ })).toContainText('Grey coated steel')
    expect(await desk.evaluate(() => document.documentElement.scrollWidth <= window.innerWidth)).toBe(true)
  })

  await test.step('the planner generates five for another site, and sees what to buy by when', async () => {
    const planner = await as(browser, 'odile')
    await planner.goto('/configurations?search=Quay%20Lane%20butcher')
    await planner.getByRole('link', { name: 'Quay Lane butcher, freezer', exact: true }).click()
    await planner.getByLabel('Site', { exact: true }).selectOption({ label: 'Haldwyn' })
    await planner.getByLabel('Quantity to generate for').fill('5')
    await planner.getByRole('button', { name: 'Generate structure' }).click()
    await expect(planner).toHaveURL(/\/structures\//)
    await expect(planner.locator('header').first()).toContainText('Haldwyn')
    await planner.getByRole('tab', { name: 'Price, cost and time' }).click()
    await planner.getByLabel(/^Ready on/).fill('2027-03-26')
    const used = planner.getByRole('table', { name: 'Used for the order' })
    await expect(used.getByRole('row', { name: /FOAM-PO/ })).toContainText(/Mar 2027|Feb 2027/)
    await expect(planner.getByRole('table', { name: 'Load of the work centres' }).getByRole('row', { name: /FOAM/ })).toBeVisible()
    // The configuration itself is still for any site.
    await planner.goBack()
    await planner.reload()
    await expect(planner.getByRole('heading', { name: 'Quay Lane butcher, freezer' })).toBeVisible()
  })
})
