import { expect, test } from '@playwright/test'
import { createClient } from '@hey-api/openapi-ts'
import Ajv2020 from 'ajv/dist/2020.js'
import addFormats from 'ajv-formats'
import ExcelJS from 'exceljs'
import { execFileSync, spawnSync } from 'node:child_process'
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs'
import { FeatureModel } from 'uvl-parser'
import { as, password } from './people'
import { port } from './served'

// What leaves is read by programs that have nothing to do with ours: a JSON Schema validator, a UVL parser, a spreadsheet reader, a
// PDF reader, and a client that another generator makes of our description.

const root = resolve(import.meta.dirname, '../..')
const demo = readdirSync(join(root, 'demo')).filter((f) => f.endsWith('.json') && !f.includes('configurations'))
const juniperfall = (...args: string[]) =>
  execFileSync(join(root, 'juniperfall'), args, { encoding: 'utf8', maxBuffer: 1 << 28, stdio: ['ignore', 'pipe', 'ignore'] })
const origin = `http://127.0.0.1:${port}`

test('every model file and structure of the demo is valid by the published schemas', () => {
  const ajv = new Ajv2020({ strict: false, allErrors: true })
  addFormats(ajv)
  const schema = (name: string) => ajv.compile(JSON.parse(readFileSync(join(root, 'docs/schema', `${name}.schema.json`), 'utf8')) as object)
  const [model, structure] = [schema('model'), schema('structure')]
  const needed: Record<string, string[]> = { 'cold-room.json': ['--pick', 'cooling.unit=C290-22'] }
  for (const file of demo) {
    const path = join(root, 'demo', file)
    expect(model(JSON.parse(readFileSync(path, 'utf8'))), `${file}: ${ajv.errorsText(model.errors)}`).toBe(true)
    const built = JSON.parse(juniperfall('structure', path, '--format', 'json', '--quantity', '5', ...(needed[file] ?? []))) as { quantity: string }
    expect(structure(built), `the structure of ${file}: ${ajv.errorsText(structure.errors)}`).toBe(true)
    expect(built.quantity).toBe('5')
  }
  // A schema that takes everything would show nothing.
  expect(model({ model: { code: 1 } })).toBe(false)
  expect(structure({})).toBe(false)
})

test('the UVL of every demo model is read by another parser, and reads back here', () => {
  const folder = mkdtempSync(join(tmpdir(), 'juniperfall-uvl-'))
  for (const file of demo) {
    const path = join(folder, file.replace('.json', '.uvl'))
    writeFileSync(path, juniperfall('uvl', join(root, 'demo', file)))
    expect(() => new FeatureModel(path).getFeatureModel(), file).not.toThrow()
    const { status, stdout } = spawnSync(join(root, 'juniperfall'), ['analyze', path, '--limit', '20'], { encoding: 'utf8', maxBuffer: 1 << 28 })
    const answer = JSON.parse(stdout) as { valid: boolean; exact: boolean }
    // What is not finished in time says so.
    expect(answer.valid).toBe(true)
    expect([answer.exact, status]).toEqual(answer.exact ? [true, 0] : [false, 3])
  }
  const wrong = join(folder, 'wrong.uvl')
  writeFileSync(wrong, 'features\n    floor\n')
  expect(() => new FeatureModel(wrong).getFeatureModel()).toThrow()
  rmSync(folder, { recursive: true })
})

async function textOf(pdf: Buffer): Promise<string> {
  const document = await getDocument({ data: new Uint8Array(pdf) }).promise
  const pages = await Promise.all(
    Array.from({ length: document.numPages }, async (_, i) =>
      (await (await document.getPage(i + 1)).getTextContent()).items.map((t) => ('str' in t ? t.str : '')).join(' '),
    ),
  )
  return pages.join(' ').replace(/\s+/g, ' ')
}

test('an order for five with several choices says the same on the screen, in the PDF and in the workbook', async ({ browser }) => {
  const page = await as(browser, 'ines')
  await page.goto('/configurations?search=')
  const configurations = (await (await page.request.get('/api/configurations')).json()) as { id: string; productCode: string; name: string }[]
  const headers = { 'X-Juniperfall': '1' }
  const [id, structureId] = [crypto.randomUUID(), crypto.randomUUID()]
  const room = configurations.find((c) => c.productCode === 'CR' && c.name.startsWith('Pharmacy'))!
  const configuration = (await (await page.request.get(`/api/configurations/${room.id}`)).json()) as {
    revisionId: number
    picks: { path: string; value: string }[]
    site: string | null
    date: string | null
  }
  // Two accessories of six, beside what it has.
  const picks = [
    ...configuration.picks.filter((p) => !p.path.includes('accessories')),
    ...['thermometer', 'bumpers'].map((a) => ({ path: `r.accessories#accessories:${a}`, value: 'yes' })),
  ]
  const saved = await page.request.post('/api/configurations', {
    headers,
    data: { id, name: 'Five rooms', revisionId: configuration.revisionId, picks, site: configuration.site, date: configuration.date },
  })
  expect(saved.ok(), await saved.text()).toBe(true)
  await page.goto(`/configurations/${id}`)
  await expect(page).toHaveTitle(/Five rooms · Configuration · Juniperfall/)
  const made = await page.request.post(`/api/configurations/${id}/structures`, { headers, data: { id: structureId, quantity: '5' } })
  expect(made.ok(), await made.text()).toBe(true)

  await page.goto(`/structures/${structureId}?view=answers`)
  const accessories = page
    .locator('p')
    .filter({ hasText: /^Accessories/ })
    .first()
  await expect(accessories).toContainText('thermometer')
  // A figure of the second door, which is not there, is not told as open.
  await expect(page.getByText('Door 1: Leaf width')).toBeVisible()
  await expect(page.getByText('Door 2: Leaf width')).toHaveCount(0)
  await page.getByRole('tab', { name: 'Bill of materials' }).click()
  for (const column of ['Gross each', 'Gross for 5', 'Cost each EUR', 'Cost for 5'])
    await expect(page.getByRole('columnheader', { name: column })).toBeVisible()
  const file = (await (await page.request.get(`/api/structures/${structureId}/structure.json`)).json()) as {
    order: { cost: string; weight: string }
    answers: { label: string; value: string }[]
    structure: { lines: { item: string; gross: string; orderGross: string; perOrder: boolean }[] }
  }
  const each = file.structure.lines.find((l) => !l.perOrder && Number(l.gross) > 1)!
  expect(Number(each.orderGross)).toBeCloseTo(Number(each.gross) * 5, 9)
  const chosen = file.answers.find((a) => a.value.toLowerCase().includes('thermometer'))!
  const line = page
    .getByRole('row')
    .filter({ has: page.getByRole('button', { name: each.item, exact: true }) })
    .first()
  await expect(line).toContainText(
    Number(each.orderGross)
      .toFixed(2)
      .replace(/\.?0+$/, '')
      .replace(/\B(?=(\d{3})+(\.|$))/g, '\u202f')
      .slice(0, 3),
  )

  const pdf = await textOf(await (await page.request.get(`/api/structures/${structureId}/structure.pdf`)).body())
  expect(pdf).toContain('For the order')
  expect(pdf).toContain('the order of 5')
  expect(pdf).toContain(chosen.value)
  expect(pdf).toContain('Used for the order')

  const book = new ExcelJS.Workbook()
  await book.xlsx.load((await (await page.request.get(`/api/structures/${structureId}/structure.xlsx`)).body()) as unknown as ArrayBuffer)
  expect(book.worksheets.map((s) => s.name)).toEqual(['BOM', 'Routing', 'Consumption', 'Load', 'Totals', 'Answers'])
  const bom = book.getWorksheet('BOM')!
  const rows = bom.getSheetValues().filter(Array.isArray)
  expect(rows.slice(0, 4).map((r) => [r[1], r[2]])).toEqual(
    expect.arrayContaining([
      ['Configuration', 'Five rooms'],
      ['Quantity', 5],
    ]),
  )
  const head = rows.find((r) => r[1] === 'Level')!
  const [item, gross, order] = ['Item', 'Gross per piece', 'Gross for the order'].map((c) => head.indexOf(c))
  const found = rows.find((r) => r[item!] === each.item && r[1] === 1)!
  expect([found[gross!], found[order!]]).toEqual([Number(each.gross), Number(each.orderGross)])
  const answers = book.getWorksheet('Answers')!.getSheetValues().filter(Array.isArray)
  expect(answers.some((r) => r.includes(chosen.value))).toBe(true)
  const totals = book.getWorksheet('Totals')!.getSheetValues().filter(Array.isArray)
  expect(totals.find((r) => r[1] === 'Cost EUR')![3]).toBeCloseTo(Number(file.order.cost), 6)
  expect(bom.getColumn(item!).width!).toBeGreaterThan(5)
})

test('a client that another generator makes of our description signs in, configures and downloads', async () => {
  const folder = mkdtempSync(join(import.meta.dirname, 'generated-'))
  try {
    await createClient({
      input: `${origin}/api/openapi.json`,
      output: { path: folder },
      plugins: ['@hey-api/client-fetch', '@hey-api/sdk', '@hey-api/typescript'],
      logs: { level: 'silent' },
    })
    const sdk = (await import(join(folder, 'sdk.gen.ts'))) as Record<
      string,
      (options: object) => Promise<{ data?: unknown; error?: unknown; response: Response }>
    >
    const { client } = (await import(join(folder, 'client.gen.ts'))) as { client: { setConfig: (config: object) => void } }
    client.setConfig({ baseUrl: origin, headers: { 'X-Juniperfall': '1' } })
    const wrong = await sdk.signIn!({ body: { name: 'odile', password: 'wrong' } })
    expect((wrong.error as { detail: string }).detail).toBeTruthy()
    const signedIn = await sdk.signIn!({ body: { name: 'odile', password } })
    expect(signedIn.data).toMatchObject({ name: 'odile' })
    client.setConfig({
      baseUrl: origin,
      headers: {
        'X-Juniperfall': '1',
        Cookie: signedIn.response.headers
          .getSetCookie()
          .map((c) => c.split(';')[0])
          .join('; '),
      },
    })
    const list = (await sdk.configurations!({ query: { search: 'Loading bay 2' } })).data as { id: string; revisionId: number }[]
    const answer = (await sdk.answer!({ path: { id: list[0]!.revisionId }, body: { picks: [] } })).data as { valid: boolean; sections: unknown[] }
    expect(answer.valid).toBe(true)
    const id = crypto.randomUUID()
    expect((await sdk.generate!({ path: { id: list[0]!.id }, body: { id, quantity: '3' } })).response.status).toBe(200)
    const csv = await sdk.exportStructure!({ path: { id, table: 'bom', format: 'csv' }, parseAs: 'text' })
    expect(csv.data).toContain('Gross for the order')
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
})
