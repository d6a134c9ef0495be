import { readFileSync } from 'node:fs'
import { expect, test } from '@playwright/test'
import { as, row, stored, typeRow, write } from './people'
import { crash, start } from './served'

test('from nothing to a bill of materials and a routing', async ({ browser }) => {
  test.setTimeout(600_000)
  const ines = await as(browser, 'ines')

  await test.step('a new product', async () => {
    await ines.getByRole('button', { name: 'New product' }).click()
    await ines.getByLabel('Code').fill('cr')
    await ines.getByRole('dialog').getByLabel('Name').fill('Strip curtain')
    await ines.getByRole('button', { name: /Make it/ }).click()
    await expect(ines.getByText('There is a product “cr” already.')).toBeVisible()
    await ines.getByLabel('Code').fill('SCX')
    await ines.getByRole('button', { name: /Make it/ }).click()
    await expect(ines.getByRole('heading', { name: 'Strip curtain' })).toBeVisible()
  })
  const address = ines.url()

  await test.step('attributes, computed ones and rules are typed', async () => {
    for (const line of [
      'quantity width mm 600..3000 step 50',
      'choice strip: standard, polar, ribbed',
      'yes/no freezer',
      'whole layers 1..2',
      'compute pitch = if layers = 2 then 140 mm else 160 mm',
      'compute strips = ceil(width / pitch)',
      'requires freezer then strip = polar',
      'excludes strip = ribbed with layers = 2',
      'limit strips <= 15',
    ])
      await typeRow(ines, 'General', line)
    await stored(ines)
    await expect(row(ines, 'freezer requires strip = polar')).toContainText('§1')
  })

  await test.step('a faulty expression stays as typed, is marked, and is mended by the suggestion', async () => {
    await row(ines, /^.*strips.*ceil/).click()
    const editor = ines.getByRole('textbox', { name: 'Expression' })
    await write(editor, 'ceil(widht / pitch)')
    await expect(ines.getByRole('alert').filter({ hasText: 'widht' }).first()).toBeVisible()
    await editor.press('Escape')
    await editor.press('Escape')
    await write(editor, 'ceil(widht / pitch)')
    await editor.blur()
    await expect(row(ines, 'ceil(widht / pitch)')).toBeVisible()
    await ines.reload()
    await expect(row(ines, 'ceil(widht / pitch)').getByLabel('1 faults')).toBeVisible()
    const again = ines.getByRole('textbox', { name: 'Expression' })
    await ines.getByRole('button', { name: 'write width' }).click()
    await expect(again).toHaveText('ceil(width / pitch)')
    await again.blur()
    await expect(row(ines, 'ceil(width / pitch)')).toBeVisible()
    await expect(row(ines, 'ceil(width / pitch)').getByLabel('1 faults')).toHaveCount(0)
    await row(ines, 'ceil(width / pitch)').click()
  })

  await test.step('a phantom with parts of its own, parts and operations', async () => {
    for (const line of [
      'phantom mounting',
      'part CURT-1 × width * 2.1 m * layers',
      'part SCRW-K × strips * layers',
      'operation 10 cut at SAW 4 min + strips * 2 min',
      'operation 20 pack at PACK 1 min + 6 min',
    ])
      await typeRow(ines, 'General', line)
    await ines.getByRole('navigation', { name: 'Outline' }).getByRole('button', { name: 'Mounting' }).click()
    await typeRow(ines, 'General', 'part RAIL-M × 2 m')
    await typeRow(ines, 'General', 'part SEAL-1 × 0.5 m')
    await stored(ines)
    await ines.getByRole('navigation', { name: 'Outline' }).getByRole('button', { name: 'Strip curtain' }).click()
    await row(ines, 'RAIL-M').or(row(ines, 'CURT-1')).first().waitFor()
  })

  const bench = ines.getByRole('region', { name: 'Bench' })
  await test.step('a clash on the bench, its reason, and a way out', async () => {
    await bench.getByRole('group', { name: 'Freezer' }).getByRole('button', { name: 'yes' }).click()
    // What the pick rules out has a reason.
    const ruledOut = bench.getByRole('button', { name: 'Standard, ruled out: why?' })
    await ruledOut.click()
    const why = bench.getByRole('region', { name: 'Why Strip: Standard' })
    await expect(why).toContainText('Freezer = yes')
    await expect(why).toContainText('§1')
    await why.getByRole('button', { name: /Freezer: yes → no/ }).click()
    await expect(bench.getByRole('group', { name: 'Strip' }).getByRole('button', { name: 'Standard' })).toHaveAttribute('aria-pressed', 'true')
    // A rule that is written afterwards makes picks clash.
    await bench.getByRole('textbox', { name: 'Width', exact: true }).fill('2000')
    await bench.getByRole('textbox', { name: 'Width', exact: true }).press('Enter')
    await typeRow(ines, 'General', 'rule if strip = standard then width <= 1500 mm')
    const clash = bench.getByRole('alert', { name: 'Clash 1' })
    await expect(clash).toContainText('Strip = Standard')
    await expect(clash).toContainText('Width = 2000 mm')
    await expect(clash).toContainText('§4')
    await clash
      .getByRole('list', { name: 'Ways out' })
      .getByRole('button', { name: /Strip: Standard →/ })
      .click()
    await expect(clash).toHaveCount(0)
    await ines.getByRole('button', { name: 'Undo on the bench' }).click()
    await expect(clash).toBeVisible()
    await ines.getByRole('button', { name: 'Redo on the bench' }).click()
    await expect(clash).toHaveCount(0)
  })

  await test.step('undo and redo of edits, also after a reload', async () => {
    await expect(row(ines, 'then width <= 1500 mm')).toBeVisible()
    await ines.reload()
    await row(ines, 'CURT-1').first().waitFor()
    await ines.getByRole('button', { name: 'Undo', exact: true }).click()
    await expect(row(ines, 'then width <= 1500 mm')).toHaveCount(0)
    await ines.getByRole('button', { name: 'Redo', exact: true }).click()
    await expect(row(ines, 'then width <= 1500 mm')).toBeVisible()
  })

  await test.step('what is in use is not deleted, and says where', async () => {
    await row(ines, /width.*quantity/).click()
    await ines.getByRole('button', { name: 'Delete', exact: true }).click()
    await expect(ines.getByRole('alert').filter({ hasText: 'Not stored.' })).toContainText('In use by')
    await ines.getByRole('alert').filter({ hasText: 'Not stored.' }).getByRole('button', { name: 'Close' }).click()
    await row(ines, /width.*quantity/).click()
  })

  await test.step('server and database are killed; every edit is there afterwards', async () => {
    await stored(ines)
    const before = await ines.locator('[data-row]').allInnerTexts()
    await crash()
    // What is edited meanwhile is kept by the page.
    await typeRow(ines, 'General', 'text remark')
    await expect(ines.getByRole('status').filter({ hasText: 'once the server can be reached' })).toBeVisible()
    await start()
    await expect(row(ines, 'remark')).toBeVisible({ timeout: 30_000 })
    await ines.reload()
    await expect(row(ines, 'remark')).toHaveCount(1)
    const after = await ines.locator('[data-row]').allInnerTexts()
    expect(after.length).toBe(before.length + 1)
  })

  await test.step('released by an approver, not by the author', async () => {
    await ines.getByRole('button', { name: 'Release …' }).click()
    await expect(ines.getByRole('dialog')).toContainText('at least one complete configuration exists')
    await expect(ines.getByRole('dialog').getByRole('button', { name: 'Release it' })).toHaveCount(0)
    const tomas = await as(browser, 'tomas')
    await tomas.goto(address)
    await tomas.getByRole('button', { name: 'Release …' }).click()
    await tomas.getByRole('dialog').getByRole('button', { name: 'Release it' }).click()
    await expect(tomas.getByText('1 released')).toBeVisible()
    await tomas.context().close()
  })

  const marit = await as(browser, 'marit')
  await test.step('the order desk configures one and generates its structure', async () => {
    await marit.getByLabel('Search products').fill('curtain')
    await marit.getByRole('row', { name: /SCX/ }).getByRole('link', { name: 'Configure' }).click()
    await marit.getByRole('textbox', { name: 'Width', exact: true }).fill('1,5')
    await marit.getByRole('textbox', { name: 'Width', exact: true }).press('Enter')
    await expect(marit.getByRole('alert').filter({ hasText: 'You typed' })).toContainText('Decimals are written with a point: 1.5, not 1,5.')
    await marit.getByRole('textbox', { name: 'Width', exact: true }).fill('1400')
    await marit.getByRole('textbox', { name: 'Width', exact: true }).press('Enter')
    await marit.getByRole('group', { name: 'Strip' }).getByRole('button', { name: 'Polar' }).click()
    await marit.getByRole('group', { name: 'Freezer' }).getByRole('button', { name: 'yes' }).click()
    await marit.getByRole('textbox', { name: 'Layers', exact: true }).fill('2')
    await marit.getByRole('textbox', { name: 'Layers', exact: true }).press('Enter')
    await expect(marit.getByText('ready to build')).toBeVisible()
    await marit.getByLabel('Name of the configuration').fill('Harbour freezer curtain')
    await marit.getByRole('button', { name: 'Save', exact: true }).click()
    await expect(marit.getByRole('button', { name: 'Saved' })).toBeVisible()
    await marit.getByRole('button', { name: 'Generate structure' }).click()
    // The bench has a bill of the same name until the page of what was generated is there.
    await expect(marit).toHaveURL(/\/structures\//)
  })

  await test.step('quantities and times are right, and say why', async () => {
    // 1400 mm at a pitch of 140 mm: ten strips, two layers of them.
    const bom = marit.getByRole('table', { name: 'Bill of materials of SCX' })
    await expect(bom.getByRole('row', { name: /CURT-1/ })).toContainText('5.88')
    await expect(bom.getByRole('row', { name: /SCRW-K/ })).toContainText('20')
    await expect(bom.getByRole('row', { name: /RAIL-M/ })).toContainText('2')
    await expect(bom.getByRole('row', { name: /SEAL-1/ })).toContainText('0.5')
    await expect(bom.locator('tbody tr')).toHaveCount(4)
    await bom.getByRole('button', { name: 'SCRW-K', exact: true }).click()
    await expect(bom).toContainText('strips * layers')
    await marit.getByRole('tab', { name: 'Routing' }).click()
    const cut = marit.getByRole('row', { name: /Cut/ })
    await expect(cut.getByRole('cell').nth(3)).toHaveText('4')
    await expect(cut.getByRole('cell').nth(4)).toHaveText('20')
  })

  await test.step('exported as tables', async () => {
    const [csv] = await Promise.all([marit.waitForEvent('download'), marit.getByRole('link', { name: 'BOM.csv' }).click()])
    const text = readFileSync(await csv.path(), 'utf8')
    expect(text).toContain('CURT-1')
    expect(text.split('\r\n').filter(Boolean)).toHaveLength(5)
    const [xlsx] = await Promise.all([marit.waitForEvent('download'), marit.getByRole('link', { name: 'Workbook' }).click()])
    expect(
      readFileSync(await xlsx.path())
        .subarray(0, 2)
        .toString(),
    ).toBe('PK')
  })

  await test.step('found again, and moved to the next revision, which says what changes', async () => {
    await ines.goto(address)
    await ines.getByRole('button', { name: 'Edit the next revision' }).click()
    await expect(ines.getByText('2 draft')).toBeVisible()
    const next = ines.url()
    await row(ines, 'SCRW-K').click()
    const quantity = ines.getByRole('textbox', { name: 'Quantity' })
    await write(quantity, '3')
    await quantity.blur()
    await expect(row(ines, 'SCRW-K × 3')).toBeVisible()
    const tomas = await as(browser, 'tomas')
    await tomas.goto(next)
    await tomas.getByRole('button', { name: 'Release …' }).click()
    await tomas.getByRole('dialog').getByRole('button', { name: 'Release it' }).click()
    await expect(tomas.getByText('2 released')).toBeVisible()
    await marit.getByRole('link', { name: 'Configurations' }).click()
    await marit.getByLabel('Search configurations').fill('harbour freezer')
    await marit.getByRole('link', { name: 'Harbour freezer curtain' }).click()
    await marit.getByRole('button', { name: 'See what moving there changes' }).click()
    await expect(marit.getByRole('dialog')).toContainText('SCRW-K × 3')
    await marit.getByRole('button', { name: 'Move it to revision 2' }).click()
    await expect(marit.getByText('2 released')).toBeVisible()
  })
})
