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

const picks = [['Goods', 'Meat'], ['Goods', 'Dairy'], ['Duty', 'Near zero'], ['Outer finish', 'Stainless steel 1.4301'], ['Goods', 'Fish'], ['Handing', 'Right'], ['Duty', 'Chill'], ['Goods', 'General']]
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
await browser.close()
