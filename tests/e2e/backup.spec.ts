import { expect, test } from '@playwright/test'
import { execFileSync, spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import { as, password, row, stored, typeRow } from './people'

const root = resolve(import.meta.dirname, '../..')

test('a backup taken while somebody edits is restored, served, and worked on', async ({ browser }) => {
  const folder = mkdtempSync(join(tmpdir(), 'juniperfall-restored-'))
  const file = join(folder, 'backup')
  const [data, port] = [join(folder, 'data'), '5096']
  const ines = await as(browser, 'ines')
  await ines.getByRole('button', { name: 'New product' }).click()
  await ines.getByLabel('Code').fill('BACK')
  await ines.getByLabel('Name', { exact: true }).fill('Backed up')
  await ines.getByRole('button', { name: 'Make it and open the workshop' }).click()
  await typeRow(ines, 'General', 'yes/no before')
  await stored(ines)
  const editing = typeRow(ines, 'General', 'yes/no meanwhile')
  execFileSync(join(root, 'scripts/backup.sh'), [process.env.JUNIPERFALL_E2E_DATA!, file])
  await editing
  execFileSync(join(root, 'scripts/restore.sh'), [file, data])
  const refused = spawn(join(root, 'scripts/restore.sh'), [file, data])
  expect(await new Promise((done) => refused.on('exit', done))).toBe(1)
  const served = spawn(join(root, 'start'), ['--port', port, '--data', data], { cwd: root, stdio: 'ignore', detached: true })
  try {
    await expect(async () => expect((await fetch(`http://127.0.0.1:${port}/health`)).ok).toBe(true)).toPass({ timeout: 120_000 })
    const page = await (await browser.newContext({ baseURL: `http://127.0.0.1:${port}` })).newPage()
    await page.goto('/')
    await page.getByLabel('Name').fill('ines')
    await page.getByLabel('Password').fill(password)
    await page.getByRole('button', { name: 'Sign in' }).click()
    await page.getByRole('row', { name: /BACK/ }).getByRole('link', { name: 'Workshop' }).click()
    await expect(row(page, 'before')).toBeVisible()
    await typeRow(page, 'General', 'yes/no after')
    await stored(page)
  } finally {
    process.kill(served.pid!, 'SIGTERM')
    await new Promise((done) => served.on('exit', done))
    rmSync(folder, { recursive: true, force: true })
  }
})
