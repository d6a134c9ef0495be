import { expect, test } from '@playwright/test'
import { readFile } from 'node:fs/promises'
import { as } from './people'

/** The released revision of the strip curtain. */
const curtain = '/configure/7'

test('a rule is set aside for one configuration: asked for at its clash, signed by someone else, seen on the structure and its files', async ({
  browser,
}) => {
  const desk = await as(browser, 'marit')
  const name = `Reveal ${Date.now()}`

  await test.step('the clash of what is saved leads to a concession', async () => {
    await desk.goto(curtain)
    const pick = (group: string, value: string | RegExp) =>
      desk.getByRole('group', { name: group, exact: true }).getByRole('button', { name: value }).click()
    for (const [field, value] of [
      ['Opening width', '2500'],
      ['Opening height', '2400'],
    ] as const) {
      await desk.getByRole('textbox', { name: field, exact: true }).fill(value)
      await desk.getByRole('textbox', { name: field, exact: true }).press('Enter')
    }
    // What a rule forbids is told with its ways out; it can be wanted all the same.
    await pick('Mounting', /reveal/i)
    await desk.getByRole('button', { name: 'pick it with its clash' }).click()
    await expect(desk.getByRole('alert', { name: /^Clash/ })).toContainText('2.4 m wide')
    await expect(desk.getByText('save it, then a concession can be asked for')).toBeVisible()
    await desk.getByLabel('Name of the configuration').fill(name)
    await desk.getByRole('button', { name: 'Save', exact: true }).click()
    await desk.getByRole('button', { name: 'ask for a concession …' }).click()
  })

  await test.step('what is asked for is tried, and nothing is generated before it is signed', async () => {
    const sheet = desk.getByRole('dialog', { name: 'Ask for a concession' })
    await expect(sheet.getByRole('status')).toContainText('Without these it stands')
    await sheet.getByLabel('why').fill('The frame carries a rail in the middle.')
    await sheet.getByLabel('pieces in all').fill('2')
    await sheet.getByRole('button', { name: 'Ask for it' }).click()
    await expect(desk.getByText('asked for:')).toBeVisible()
    await desk.getByRole('button', { name: 'Show it as it would be' }).click()
    await expect(desk.getByRole('alert', { name: /^Clash/ })).toHaveCount(0)
    await expect(desk.getByRole('button', { name: 'Generate structure' })).toBeEnabled()
    await desk.getByRole('button', { name: 'Generate structure' }).click()
    await expect(desk.getByText('cannot stand together')).toBeVisible()
  })

  await test.step('an approver finds it among what waits, and signs', async () => {
    const approver = await as(browser, 'tomas')
    await approver.goto('/products')
    const waiting = approver.getByRole('region', { name: 'Waiting for you' }).locator('p', { hasText: 'rail in the middle' })
    await waiting.getByRole('link').click()
    await expect(approver.getByText('In the reveal the curtain is at most 2.4 m wide')).toBeVisible()
    await approver.getByRole('button', { name: 'Sign', exact: true }).click()
    await expect(approver.getByText('signed it.')).toBeVisible()
    await expect(approver.getByRole('button', { name: 'Withdraw …' })).toBeVisible()
  })

  await test.step('it is generated, and the structure and its files say under what', async () => {
    await desk.reload()
    await expect(desk.getByText('signed:')).toBeVisible()
    await desk.getByRole('button', { name: 'Generate structure' }).click()
    const under = desk.getByRole('region', { name: 'Concession' })
    await expect(under).toContainText('signed by tomas')
    await expect(under).toContainText('§3')
    const [file] = await Promise.all([desk.waitForEvent('download'), desk.getByRole('link', { name: 'BOM.csv' }).click()])
    expect((await readFile(await file.path())).toString().split('\n')[0]).toContain('Concession')
    const [paper] = await Promise.all([desk.waitForEvent('download', { timeout: 60_000 }), desk.getByRole('link', { name: 'PDF' }).click()])
    expect((await readFile(await paper.path())).length).toBeGreaterThan(10_000)
  })

  await test.step('a copy has none, and what is changed is not covered', async () => {
    await desk.getByRole('link', { name: 'Configuration', exact: true }).click()
    await desk.getByRole('textbox', { name: 'Opening width', exact: true }).fill('2600')
    await desk.getByRole('textbox', { name: 'Opening width', exact: true }).press('Enter')
    await expect(desk.getByText('It is not for what is changed here.')).toBeVisible()
    await expect(desk.getByRole('alert', { name: /^Clash/ })).toBeVisible()
    await desk.getByRole('button', { name: 'Undo', exact: true }).click()
    await expect(desk.getByRole('alert', { name: /^Clash/ })).toHaveCount(0)
    // The second piece uses it up; more is asked for by one click, with the same rule.
    await desk.getByRole('button', { name: 'Generate structure' }).click()
    await desk.getByRole('link', { name: 'Configuration', exact: true }).click()
    await desk.getByRole('button', { name: 'Ask for more …' }).click()
    const more = desk.getByRole('dialog', { name: 'Ask for a concession' })
    await expect(more.getByRole('checkbox', { name: /§3/ })).toBeChecked()
    await expect(more.getByRole('status')).toContainText('Without these it stands')
    await more.getByRole('button', { name: 'Close' }).click()
    await desk.goto('/concessions')
    await desk.getByRole('table', { name: 'By rule' }).getByRole('button', { name: /§3/ }).click()
    await expect(desk.getByRole('link', { name })).toBeVisible()
  })
})
