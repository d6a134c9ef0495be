import { expect, test } from '@playwright/test'
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { as } from './people'

test('an administrator adds somebody, who chooses a password through the letter, works, and is stopped while a page is open', async ({ browser }) => {
  const piet = await as(browser, 'piet')
  await piet.getByRole('link', { name: 'People' }).click()
  await piet.getByRole('button', { name: 'Add somebody' }).click()
  const sheet = piet.getByRole('dialog', { name: 'Add somebody' })
  await sheet.getByLabel('Sign-in name').fill('rosa')
  await sheet.getByLabel('Name', { exact: true }).fill('Rosa Lind')
  await sheet.getByLabel('Mail').fill('rosa@juniperfall.example')
  await sheet.getByRole('radio', { name: /^planner/ }).check()
  await sheet.getByRole('button', { name: 'Add and send a link' }).click()
  await expect(piet.getByRole('row', { name: /Rosa Lind rosa planner .* has no password yet/ })).toBeVisible()

  const mail = join(process.env.JUNIPERFALL_E2E_DATA!, 'mail')
  const letter = readdirSync(mail)
    .map((f) => readFileSync(join(mail, f), 'utf8'))
    .find((text) => text.includes('rosa@juniperfall.example'))!
  const link = /http:\S+/.exec(letter.replaceAll('=\r\n', ''))![0]
  const rosa = await (await browser.newContext()).newPage()
  await rosa.goto(link)
  await rosa.getByLabel('New password').fill('drizzle lantern oxbow')
  await rosa.getByLabel('The same again').fill('drizzle lantern oxbow')
  await rosa.getByRole('button', { name: 'Keep it' }).click()
  await rosa.getByRole('link', { name: 'Sign in' }).click()
  await rosa.getByLabel('Name').fill('rosa')
  await rosa.getByLabel('Password').fill('drizzle lantern oxbow')
  await rosa.getByRole('button', { name: 'Sign in' }).click()
  await expect(rosa.getByRole('navigation', { name: 'Places' })).toContainText('planner')
  await expect(rosa.getByRole('link', { name: 'People' })).toHaveCount(0)

  await piet.getByRole('button', { name: 'Change Rosa Lind' }).click()
  await piet.getByRole('button', { name: 'Stop from signing in' }).click()
  await expect(piet.getByRole('row', { name: /Rosa Lind .* may not sign in/ })).toBeVisible()
  await rosa.getByRole('link', { name: 'Configurations' }).click()
  await expect(rosa.getByRole('button', { name: 'Sign in' })).toBeVisible()

  await piet.getByRole('link', { name: 'What happened' }).click()
  await expect(piet.getByText('stopped rosa from signing in')).toBeVisible()
  await expect(piet.getByText('chose a password through a link')).toBeVisible()
})
