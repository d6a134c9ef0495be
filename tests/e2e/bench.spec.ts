import { expect, test } from '@playwright/test'
import { as, password, row } from './people'

test('an open figure says how far it goes, and a name in an expression what it is', async ({ browser }) => {
  const ines = await as(browser, 'ines')
  await ines.goto('/workshop/1')
  const bench = ines.getByRole('region', { name: 'Bench' })
  await bench.getByRole('group', { name: 'Duty', exact: true }).getByRole('button', { name: 'Freezer', exact: true }).click()
  await ines.getByRole('tab', { name: 'Figures' }).click()
  await ines.getByRole('button', { name: 'Outer length', exact: true }).click()
  await ines.getByRole('button', { name: 'How far can it really go?' }).click()
  // From 1200 to 12000 mm inside, and twice a panel of 100 to 150 mm: a freezer rules 80 mm out. As suggested it is 3600 mm long.
  await expect(ines.getByText('Exactly 1400 – 12300 mm')).toBeVisible()
  await expect(ines.getByRole('row', { name: /Outer length/ })).toContainText('3800 – 3900 mm')
  await row(ines, /^.*wall_area/)
    .first()
    .click()
  const expression = ines.getByRole('textbox', { name: 'Expression' })
  await expect(expression).toContainText('height')
  const word = await expression.evaluate((element) => {
    const range = document.createRange()
    const walk = document.createTreeWalker(element, NodeFilter.SHOW_TEXT)
    while (walk.nextNode()) {
      const at = walk.currentNode.textContent!.indexOf('height')
      if (at < 0) continue
      range.setStart(walk.currentNode, at + 2)
      range.setEnd(walk.currentNode, at + 4)
      const box = range.getBoundingClientRect()
      return { x: box.x + box.width / 2, y: box.y + box.height / 2 }
    }
    throw new Error('The word is not there.')
  })
  await ines.mouse.move(word.x - 30, word.y)
  await ines.mouse.move(word.x, word.y)
  await expect(ines.locator('.cm-tooltip-hover')).toContainText('attribute, Inner height')
})

test('a configuration is for a site and a day: what does not hold there says so, and the structure is made for them', async ({ browser }) => {
  const marit = await as(browser, 'marit')
  await marit.goto('/configurations')
  await marit.getByRole('link', { name: /Harbour fish market/ }).click()
  const [site, day] = [marit.getByLabel('Site', { exact: true }), marit.getByLabel('Day', { exact: true })]
  await expect(site).toHaveValue('HAL')
  await expect(day).toHaveValue('2027-02-15')
  const delivery = marit.getByRole('group', { name: 'Delivery', exact: true })
  await delivery.getByRole('button', { name: 'Collected', exact: true }).click()
  await site.selectOption('Tarn Bridge')
  // The pick stays; what stands against it is told where it was made, and nothing is generated meanwhile.
  await expect(marit.getByRole('alert').filter({ hasText: '“Collected” is to be had only at Haldwyn.' })).toBeVisible()
  await expect(marit.getByText('1 cannot be had')).toBeVisible()
  await marit.getByRole('button', { name: 'Save changes' }).click()
  await expect(marit.getByText('is to be had only at Haldwyn').nth(1)).toBeVisible()
  await marit.getByRole('button', { name: 'Undo' }).click()
  await expect(site).toHaveValue('HAL')
  await day.fill('2027-12-31')
  await marit.getByRole('button', { name: 'Save changes' }).click()
  await expect(marit.getByRole('button', { name: 'Saved' })).toBeVisible()
  await marit.reload()
  await expect(day).toHaveValue('2027-12-31')
  await marit.getByRole('button', { name: 'Generate structure' }).click()
  await expect(marit.getByRole('banner').or(marit.locator('header')).first()).toContainText('Haldwyn')
  await expect(marit.locator('header').first()).toContainText('2027-12-31')
})

test('the order desk works on a tablet: 768 pixels wide, with fingers', async ({ browser }) => {
  const context = await browser.newContext({ viewport: { width: 768, height: 1024 }, hasTouch: true, isMobile: true })
  const page = await context.newPage()
  await page.goto('/')
  await page.getByLabel('Name').fill('marit')
  await page.getByLabel('Password').fill(password)
  await page.getByRole('button', { name: 'Sign in' }).tap()
  await expect(page.getByRole('navigation', { name: 'Places' })).toBeVisible()
  await page.goto('/configure/1')
  const freezer = page.getByRole('group', { name: 'Duty', exact: true }).getByRole('button', { name: 'Freezer', exact: true })
  await freezer.tap()
  await expect(freezer).toHaveAttribute('aria-pressed', 'true')
  expect((await freezer.boundingBox())!.height).toBeGreaterThanOrEqual(40)
  // What is ruled out tells why, and the way to it is one tap.
  await page.getByRole('button', { name: '80 mm, ruled out: why?' }).tap()
  await expect(page.getByRole('region', { name: 'Why Panel core: 80 mm' })).toContainText('Duty = Freezer')
  // The outcome stands below the last question, not on top of it.
  const outcome = page.getByRole('region', { name: 'Outcome' })
  await outcome.scrollIntoViewIfNeeded()
  const [last, top] = [await page.getByRole('group', { name: 'Crane on site' }).boundingBox(), await outcome.boundingBox()]
  expect(top!.y).toBeGreaterThanOrEqual(last!.y + last!.height)
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(768)
})
