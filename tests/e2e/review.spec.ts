import { expect, test, type Page } from '@playwright/test'
import { as, row, stored, typeRow } from './people'

// Proof before release: what an edit breaks and changes of what is saved, the review on one page with a remark on a row, and moving on after the release.

const call = (page: Page, method: string, path: string, body: object = {}) =>
  page.evaluate(
    async ([method, path, body]) => {
      const answer = await fetch(path, {
        method,
        headers: { 'X-Juniperfall': '1', 'Content-Type': 'application/json' },
        body: method === 'GET' ? undefined : JSON.stringify(body),
      })
      return answer.status === 204 ? null : await answer.json()
    },
    [method, path, body] as const,
  )

test('a tightened rule is seen to break what is saved, reviewed with a remark, mended, released, and what is saved moves on', async ({ browser }) => {
  const ines = await as(browser, 'ines')
  await ines.getByRole('button', { name: 'New product' }).click()
  await ines.getByLabel('Code').fill('SR-IMP')
  await ines.getByRole('dialog').getByLabel('Name').fill('Shelf rack under review')
  await ines.getByRole('button', { name: /Make it/ }).click()
  await typeRow(ines, 'General', 'whole shelves 1..12 = 4')
  await typeRow(ines, 'General', 'rule shelves < 10')
  await typeRow(ines, 'General', 'part SCRW-K × 4 * shelves')
  await stored(ines)
  const first = Number(/workshop\/(\d+)/.exec(ines.url())![1])
  const tomas = await as(browser, 'tomas')
  const release = async (id: number) => {
    const { head } = await call(tomas, 'GET', `/api/revisions/${id}`)
    await call(tomas, 'POST', `/api/revisions/${id}/release`, { head })
  }
  await release(first)
  const { document, productId } = await call(ines, 'GET', `/api/revisions/${first}`)
  const shelves: string = document.assemblies[0].topics[0].rows[0].id
  for (const [name, value] of [
    ['Low rack', '3'],
    ['Usual rack', '4'],
    ['High rack', '8'],
  ])
    await call(ines, 'POST', '/api/configurations', {
      id: crypto.randomUUID(),
      name,
      revisionId: first,
      picks: [{ path: shelves, value }],
    })

  // The next draft: both edits are seen beside the model, then one by one with what does it.
  const { revisionId: next } = await call(ines, 'POST', `/api/products/${productId}/revisions`)
  await ines.goto(`/workshop/${next}`)
  await expect(ines.getByRole('link', { name: 'all 3 the same' })).toBeVisible()
  const retype = async (what: string, text: string, line: string | null = what) => {
    if (line !== null) await row(ines, line).click()
    await ines.locator('.cm-content').filter({ hasText: what }).first().click()
    await ines.keyboard.press('ControlOrMeta+a')
    await ines.keyboard.type(text)
    await ines.keyboard.press('Enter')
    await stored(ines)
  }
  await retype('shelves < 10', 'shelves < 6')
  await retype('4 * shelves', '5 * shelves', 'SCRW-K')
  const touched = ines.getByRole('link', { name: '1 break, 2 change' })
  await touched.click()
  const byWhat = ines.getByRole('region', { name: 'By what' })
  await expect(byWhat.getByText('shelves < 10 → shelves < 6')).toBeVisible()
  await expect(byWhat.getByText('4 * shelves → 5 * shelves')).toBeVisible()
  const list = ines.getByRole('region', { name: 'What is touched' })
  await list.getByRole('button', { name: /High rack/ }).click()
  await list.getByRole('button', { name: 'Try it here' }).click()
  await expect(ines.getByText('Clash 1: these cannot stand together')).toBeVisible()

  // Asked for, it is read on one page, and comes back with a remark on the rule.
  await ines.getByRole('button', { name: 'Release …' }).click()
  await ines.getByRole('dialog').getByRole('button', { name: 'Ask for its release' }).click()
  await tomas.goto('/products')
  await tomas.getByRole('region', { name: 'Waiting for you' }).getByRole('link', { name: 'SR-IMP revision 2' }).click()
  const inShort = tomas.getByRole('region', { name: 'In short' })
  await expect(inShort.getByText('2 parts of the model')).toBeVisible()
  await expect(inShort.getByText('1 break, 2 change')).toBeVisible()
  await tomas.getByRole('region', { name: 'What it changes' }).getByRole('link', { name: '§1' }).click()
  await tomas.getByRole('textbox', { name: 'A remark on this row' }).fill('Racks of eight are sold.')
  await tomas.getByRole('button', { name: 'Remark', exact: true }).click()
  await expect(tomas.getByText('Racks of eight are sold.')).toBeVisible()
  await tomas.goto(`/workshop/${next}/review`)
  await tomas.getByRole('link', { name: 'Release, or send back …' }).click()
  await tomas.getByRole('dialog').getByRole('textbox').fill('See the remark.')
  await tomas.getByRole('dialog').getByRole('button', { name: 'Send it back' }).click()

  await ines.goto('/products')
  const waiting = ines.getByRole('region', { name: 'Waiting for you' })
  await expect(waiting.getByText('has come back: See the remark.')).toBeVisible()
  await waiting.getByText('1 remark is open').locator('..').getByRole('link').click()
  await ines.getByRole('button', { name: 'Answer' }).click()
  await ines.getByRole('textbox', { name: 'Your answer' }).fill('Up to nine again.')
  await ines.getByRole('textbox', { name: 'Your answer' }).press('ControlOrMeta+Enter')
  await expect(ines.getByText('Up to nine again.')).toBeVisible()
  await ines.getByRole('region', { name: 'Remarks' }).getByRole('link', { name: '§1' }).click()
  await retype('shelves < 6', 'shelves < 10', null)
  await expect(ines.getByRole('link', { name: '3 change' })).toBeVisible()
  await ines.getByRole('button', { name: 'Release …' }).click()
  await ines.getByRole('dialog').getByRole('button', { name: 'Ask for its release' }).click()

  // With a remark open it is not released; closed, it is, and what is saved moves on.
  await tomas.goto(`/workshop/${next}/review`)
  await tomas.getByRole('link', { name: 'Release, or send back …' }).click()
  await tomas.getByRole('dialog').getByRole('button', { name: 'Release it' }).click()
  await expect(tomas.getByRole('alert')).toContainText('A remark is open')
  await tomas.goto(`/workshop/${next}/review`)
  await tomas.getByRole('button', { name: 'Close' }).click()
  await expect(tomas.getByText('none open')).toBeVisible()
  await tomas.getByRole('link', { name: 'Release, or send back …' }).click()
  await tomas.getByRole('dialog').getByRole('textbox').fill('A fifth screw a shelf.')
  await tomas.getByRole('dialog').getByRole('button', { name: 'Release it' }).click()
  await expect(tomas.getByRole('dialog')).toHaveCount(0)

  await ines.goto(`/products/${productId}`)
  await expect(ines.getByText('A fifth screw a shelf.')).toBeVisible()
  await ines.getByRole('link', { name: 'Move saved' }).first().click()
  await ines.getByRole('button', { name: 'Move the 3 that change, too' }).click()
  await expect(ines.getByRole('status').filter({ hasText: '3 are moved to this revision.' })).toBeVisible()

  // The first one is withdrawn: nothing new is saved on it.
  await tomas.goto(`/products/${productId}`)
  await tomas.getByRole('button', { name: 'Withdraw' }).last().click()
  await tomas.getByRole('textbox', { name: 'Why it is withdrawn' }).fill('Four screws are too few.')
  await tomas.getByRole('dialog').getByRole('button', { name: 'Withdraw' }).click()
  await expect(tomas.getByText(/withdrawn by tomas.*Four screws are too few\./)).toBeVisible()
})
