// How pages bear 20,000 rows, in Debian's Chromium: until the first rows are painted, and the longest frame while the page is scrolled
// through; against ./start on a database that may be thrown away afterwards (rm -rf .run/data):
//   node bench/long-tables.mjs [http://127.0.0.1:5080] [rows]
import { chromium } from '../tests/e2e/node_modules/@playwright/test/index.mjs'

const base = process.argv[2] ?? 'http://127.0.0.1:5080'
const count = Number(process.argv[3] ?? 20_000)

async function person(name) {
    const signedIn = await fetch(`${base}/api/session`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json', 'X-Juniperfall': '1' },
        body: JSON.stringify({ name, password: 'frost-and-panels' }),
    })
    const headers = {
        Cookie: signedIn.headers
            .getSetCookie()
            .map((c) => c.split(';')[0])
            .join('; '),
        'X-Juniperfall': '1',
        'Content-Type': 'application/json',
    }
    return async (path, body, raw) => {
        const answer = await fetch(
            base + path,
            body === undefined ? { headers } : { method: 'POST', headers, body: raw ? body : JSON.stringify(body) },
        )
        if (!answer.ok) throw new Error(`${path}: ${answer.status} ${(await answer.text()).slice(0, 300)}`)
        return answer.json()
    }
}

const [ines, tomas, marit] = [await person('ines'), await person('tomas'), await person('marit')]
const code = `LONG${Date.now() % 100_000}`
const parts = Array.from({ length: count }, (_, i) => ({
    kind: 'part',
    id: `p${i}`,
    item: 'GSK-D',
    quantity: i % 3 === 0 ? '1.5 m' : `n * ${(i % 9) + 1} * 0.1 m`,
    appliesWhen: i % 5 === 0 ? 'lined' : '',
}))
const model = {
    model: {
        format: 'juniperfall-model/1',
        language: '1',
        id: code,
        code,
        label: { en: 'Long structure' },
        root: 'a',
        assemblies: [
            {
                id: 'a',
                name: 'a',
                label: { en: 'Long structure' },
                topics: [
                    {
                        id: 't',
                        label: { en: 'All' },
                        rows: [
                            {
                                kind: 'attribute',
                                id: 'n',
                                name: 'n',
                                label: { en: 'Number' },
                                attributeKind: 'whole',
                                min: '1',
                                max: '9',
                                step: '1',
                                suggestion: '2',
                            },
                            { kind: 'attribute', id: 'lined', name: 'lined', label: { en: 'Lined' }, attributeKind: 'yesNo', suggestion: 'yes' },
                            ...parts,
                            { kind: 'operation', id: 'o', name: 'build', label: { en: 'Build' }, sequence: 10, workCentre: 'PACK', run: '5 min' },
                        ],
                    },
                ],
            },
        ],
        lists: [],
    },
    library: {},
}
const made = await ines('/api/products/file', JSON.stringify(model), true)
const revision = (await ines(`/api/products/${made.productId}/revisions`)).at(-1)
await tomas(`/api/revisions/${revision.id}/release`, { head: revision.head ?? 0 })
const [left, right, structure] = [crypto.randomUUID(), crypto.randomUUID(), crypto.randomUUID()]
for (const [id, n] of [
    [left, '2'],
    [right, '3'],
])
    await marit('/api/configurations', { id, name: `${code} ${n}`, revisionId: revision.id, picks: [{ path: 'n', value: n }] })
await marit(`/api/configurations/${left}/structures`, { id: structure, quantity: '1' })

const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] })
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
await page.goto(base)
await page.getByLabel('Name').fill('ines')
await page.getByLabel('Password').fill('frost-and-panels')
await page.getByRole('button', { name: 'Sign in' }).click()
await page.getByRole('navigation', { name: 'Places' }).waitFor()

for (const [what, path, row] of [
    ['result page, bill of materials', `/structures/${structure}`, 'tr:has-text("GSK-D")'],
    ['full structure', `/workshop/${revision.id}/structure`, '[role=row]:has-text("GSK-D")'],
    ['comparison, all rows', `/compare?left=${left}&right=${right}&all=yes`, 'tr:has-text("GSK-D")'],
    ['library, items', '/library/items', 'tr:has(input)'],
    ['item and where it is used', '/items/GSK-D', 'text=GSK-D'],
]) {
    const start = performance.now()
    await page.goto(base + path)
    await page.locator(row).first().waitFor({ timeout: 180_000 })
    const first = performance.now() - start
    const [longest, frames, nodes] = await page.evaluate(async () => {
        const all = [...document.querySelectorAll('*')].filter(
            (e) => e.scrollHeight > e.clientHeight + 100 && /auto|scroll/.test(getComputedStyle(e).overflowY),
        )
        const scroller = all.sort((a, b) => b.scrollHeight - a.scrollHeight)[0] ?? document.scrollingElement
        const times = []
        await new Promise((done) => {
            let last = performance.now()
            let step = 0
            const go = (now) => {
                times.push(now - last)
                last = now
                if (++step > 90) return done()
                scroller.scrollTop += 700
                requestAnimationFrame(go)
            }
            requestAnimationFrame(go)
        })
        return [Math.max(...times.slice(1)), times.length, document.querySelectorAll('*').length]
    })
    console.log(
        `${what.padEnd(34)} first rows ${(first / 1000).toFixed(2).padStart(6)} s   longest frame ${longest.toFixed(0).padStart(5)} ms of ${frames}   ${nodes} elements`,
    )
}
await browser.close()
