// Takes the pictures of docs/screenshots from a server that holds the demo data and nothing else:
//   ./start --port 5085 --data /tmp/pictures   and then   node tests/e2e/pictures.mjs http://127.0.0.1:5085
import { chromium } from '@playwright/test'

const base = process.argv[2] ?? 'http://127.0.0.1:5080'
const only = process.argv.slice(3)
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] })

async function as(name, colorScheme = 'light') {
    const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, colorScheme })
    const page = await context.newPage()
    await page.goto(base)
    await page.getByLabel('Name').fill(name)
    await page.getByLabel('Password').fill('frost-and-panels')
    await page.getByRole('button', { name: 'Sign in' }).click()
    await page.getByRole('navigation', { name: 'Places' }).waitFor()
    return page
}

const settled = async (page, ms = 1_500) => {
    await page.waitForLoadState('networkidle', { timeout: 8_000 }).catch(() => undefined)
    await page.waitForTimeout(ms)
}

/** By name of the picture: whose page, where, and what is done before it is taken. */
const pictures = {
    workshop: [
        'ines',
        '/workshop/2',
        async (page) => {
            await settled(page, 6_000)
            const line = page.getByRole('combobox', { name: /New row in/ }).first()
            await line.pressSequentially('quantity aisle 600..1200 step 50 = 900 when goods = meat')
            await line.press('Enter')
        },
    ],
    'workshop-dark': ['ines', '/workshop/2?row=r.floor_area', async (page) => settled(page, 5_000), 'dark'],
    products: ['tomas', '/products'],
    product: ['ines', '/products/cold-room', async (page) => settled(page, 4_000)],
    configurations: ['marit', '/configurations'],
    library: [
        'ines',
        '/library/items',
        async (page) => {
            await page.locator('[data-place="2,5"]').click()
            for (let i = 0; i < 3; i++) await page.keyboard.press('Shift+ArrowDown')
            await page.getByRole('button', { name: 'Filter', exact: true }).click()
            await page.getByRole('textbox', { name: 'Only rows whose cost has' }).fill('>20')
        },
    ],
    grid: [
        'ines',
        '/workshop/4',
        async (page) => {
            await page
                .locator('[data-row]')
                .filter({ hasText: /rows over|items where/ })
                .first()
                .click()
            await settled(page, 3_000)
        },
    ],
    configure: [
        'marit',
        '/configure/1',
        async (page) => {
            await settled(page, 2_000)
            await page.getByRole('button', { name: 'Deep freezer' }).first().click()
            await settled(page, 1_500)
            await page.getByRole('button', { name: '2 ruled out' }).first().click()
            await settled(page, 1_500)
        },
    ],
    health: ['ines', '/workshop/2/health', async (page) => settled(page, 9_000)],
    cases: [
        'ines',
        '/workshop/6/cases',
        async (page) => {
            await settled(page, 5_000)
            await page.getByRole('button', { name: 'Find out' }).click()
            await page.getByRole('button', { name: /As suggested/ }).click()
            await settled(page, 5_000)
        },
    ],
    'full-structure': ['ines', '/workshop/6/structure'],
    people: ['piet', '/people'],
    'what-if': [
        'marit',
        '/configurations?search=Harbour',
        async (page) => {
            await page.getByRole('link', { name: /Harbour fish market/ }).click()
            await settled(page, 2_000)
            await page.getByRole('button', { name: 'What if …' }).click()
            const then = page.getByRole('region', { name: 'What if', exact: true })
            await then.getByRole('group', { name: 'Panel core' }).getByRole('button', { name: '150 mm' }).click()
            await page.getByRole('region', { name: 'What differs' }).waitFor({ timeout: 30_000 })
            await then.getByRole('button', { name: 'What does Panel core cost?' }).click()
            await settled(page, 4_000)
        },
    ],
    comparison: [
        'marit',
        '/configurations?search=marit',
        async (page) => {
            const boxes = page.getByRole('checkbox', { name: /Compare Pharmacy|Compare Dairy/ })
            for (let i = 0; i < 2; i++) await boxes.nth(i).check()
            await page.getByRole('link', { name: 'Compare the two' }).click()
            await settled(page, 4_000)
        },
    ],
    'result-bom': ['odile', '/configurations?search=Loading+bay+2', async (page) => result(page)],
    concession: [
        'marit',
        '/configurations?search=Reveal,+old',
        async (page) => {
            await page.getByRole('link', { name: 'Reveal, old goods hall' }).click()
            await page.getByText('set aside until').waitFor()
            await settled(page, 2_000)
        },
    ],
    'result-cost': [
        'odile',
        '/configurations?search=Loading+bay+2',
        async (page) => {
            await result(page)
            await page.getByRole('tab', { name: 'Price, cost and time' }).click()
        },
    ],
    // These two change the draft, and come last.
    impact: ['ines', '/workshop/2', async (page) => impact(page, '/workshop/2/impact')],
    review: [
        'ines',
        '/workshop/2',
        async (page) => {
            await page.goto(`${base}/workshop/2/review`)
            await page.getByRole('textbox', { name: 'A remark on the revision as a whole' }).fill('The sheet says 90 m²: which is it?')
            await page.getByRole('button', { name: 'Remark', exact: true }).click()
            await settled(page, 15_000)
        },
    ],
}

/** A limit lowered by mistake, and a dearer core: what that does to what is saved. */
async function impact(page, address) {
    const set = (rowId, field, value, before) => ({ do: 'set', rowId, field, value, before })
    for (const step of [set('rule2', 'upper', '30 m2', '90 m2'), set('cores:80', 'properties/cores.rate', '160', '148')])
        await page.evaluate(
            (step) =>
                fetch('/api/revisions/2/edits', {
                    method: 'POST',
                    headers: { 'X-Juniperfall': '1', 'Content-Type': 'application/json' },
                    body: JSON.stringify({ id: crypto.randomUUID(), steps: [step] }),
                }),
            step,
        )
    await page.goto(base + address)
    await page.getByText('rate: 148 → 160').waitFor({ timeout: 60_000 })
    await page.getByRole('button', { name: /Fish smokery, white/ }).click()
}

/** The structure of a configuration, generated where there is none yet. */
async function result(page) {
    await page.getByRole('link', { name: 'Loading bay 2' }).click()
    await page.getByLabel('Quantity to generate for').fill('4')
    await page.getByRole('button', { name: 'Generate structure' }).click()
    await page.waitForURL(/structures/)
    await settled(page, 1_500)
}

for (const [name, [person, path, act, scheme]] of Object.entries(pictures)) {
    if (only.length > 0 && !only.includes(name)) continue
    const page = await as(person, scheme)
    await page.goto(base + path)
    await page.getByRole('heading', { level: 1 }).waitFor()
    await settled(page)
    await act?.(page)
    await settled(page)
    await page.screenshot({ path: new URL(`../../docs/screenshots/${name}.png`, import.meta.url).pathname })
    console.log(name)
    await page.context().close()
}
await browser.close()
