// From the key to the painted result, in Debian's Chromium, against a running ./start with the demo data:
//   node bench/key-to-paint.mjs [http://127.0.0.1:5080]
// Two times for each pick: until the picked value is painted, and until the outcome has followed. Medians and the longest.
import { chromium } from '../tests/e2e/node_modules/@playwright/test/index.mjs'

const base = process.argv[2] ?? 'http://127.0.0.1:5080'
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] })
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
await page.goto(base)
await page.getByLabel('Name').fill('marit')
await page.getByLabel('Password').fill('frost-and-panels')
await page.getByRole('button', { name: 'Sign in' }).click()
await page.getByRole('navigation', { name: 'Places' }).waitFor()
await page.goto(`${base}/configure/1`)
await page.getByText('EUR').first().waitFor()

const picks = [
    ['Goods', 'Meat'],
    ['Goods', 'Dairy'],
    ['Duty', 'Near zero'],
    ['Outer finish', 'Stainless steel 1.4301'],
    ['Goods', 'Fish'],
    ['Handing', 'Right'],
    ['Duty', 'Chill'],
    ['Goods', 'General'],
]
const times = { picked: [], outcome: [] }
for (const [group, value] of picks) {
    const button = page.getByRole('group', { name: group, exact: true }).getByRole('button', { name: value, exact: true })
    if ((await button.count()) === 0) continue
    const [picked, outcome] = await button.evaluate(
        (element) =>
            new Promise((done) => {
                const panel = document.querySelector('[aria-label="Outcome"]')
                const start = performance.now()
                let first = 0
                element.click()
                const look = () => {
                    if (first === 0 && element.getAttribute('aria-pressed') === 'true') first = performance.now() - start
                    if (first > 0 && panel.getAttribute('aria-busy') === 'false') done([first, performance.now() - start])
                    else requestAnimationFrame(look)
                }
                requestAnimationFrame(look)
            }),
    )
    times.picked.push(picked)
    times.outcome.push(outcome)
    console.log(`${group} = ${value}`.padEnd(44), picked.toFixed(0).padStart(6), outcome.toFixed(0).padStart(6))
}
const sorted = (list) => [...list].sort((a, b) => a - b)
console.log('median'.padEnd(44), ...Object.values(times).map((t) => sorted(t)[t.length >> 1].toFixed(0).padStart(6)))
console.log('longest'.padEnd(44), ...Object.values(times).map((t) => sorted(t).at(-1).toFixed(0).padStart(6)))

// A letter typed in an expression, in the entry line and in a cell, while the bench beside it is worked out: until it is painted.
const engineer = await browser.newPage({ viewport: { width: 1280, height: 800 } })
await engineer.context().clearCookies()
await engineer.goto(base)
await engineer.getByLabel('Name').fill('ines')
await engineer.getByLabel('Password').fill('frost-and-panels')
await engineer.getByRole('button', { name: 'Sign in' }).click()
await engineer.getByRole('navigation', { name: 'Places' }).waitFor()
await engineer.addInitScript(() => {
    window.paints = []
    addEventListener(
        'keydown',
        (e) => {
            const start = e.timeStamp
            // The frame after the next one: by then the first has been painted.
            requestAnimationFrame(() => requestAnimationFrame(() => window.paints.push(performance.now() - start)))
        },
        true,
    )
})
const typed = async (name, open) => {
    await engineer.goto(`${base}/workshop/2`)
    await engineer.getByText('EUR').first().waitFor()
    await open()
    await engineer.evaluate(() => (window.paints = []))
    await engineer.keyboard.type(' + width * 2 + height * 3 + length', { delay: 60 })
    await engineer.waitForTimeout(300)
    const list = sorted(await engineer.evaluate(() => window.paints))
    await engineer.keyboard.press('Escape')
    console.log(
        `letters ${name}: median, 95th percentile, longest`.padEnd(60),
        [0.5, 0.95, 0.999].map((q) => list[Math.floor(list.length * q)].toFixed(0)).join(' '),
    )
}
await typed('in an expression', async () => {
    await engineer.locator('[data-row="r.floor_area"]').click()
    await engineer.getByRole('textbox', { name: 'Expression' }).click()
    await engineer.keyboard.press('End')
})
await typed('in the entry line', () =>
    engineer
        .getByRole('combobox', { name: /New row in/ })
        .first()
        .click(),
)
await typed('in a cell', async () => {
    await engineer.getByLabel('Rows shown').selectOption('computed')
    await engineer.locator('[data-place="0,1"]').click()
})
await browser.close()
