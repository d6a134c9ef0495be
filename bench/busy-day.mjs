// A busy day: people who configure the demo room, a pick every two seconds each, beside one person with heavy questions and one who loads
// 50,000 items. Starts the application on data of its own, and tells how long answers take as ratios to one person on an idle server.
//   node bench/busy-day.mjs [SECONDS a step, 30] [NUMBERS of people, 10,25,50,100,200]
import { execFileSync, spawn } from 'node:child_process'
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'

const root = resolve(import.meta.dirname, '..')
const seconds = Number(process.argv[2] ?? 30)
const steps = (process.argv[3] ?? '10,25,50,100,200').split(',').map(Number)
const port = 5095
const base = `http://127.0.0.1:${port}`
const data = mkdtempSync(join(tmpdir(), 'juniperfall-busy-'))
const wait = (ms) => new Promise((done) => setTimeout(done, ms))

// Caches give up what was idle for a minute, so that what comes back can be seen.
const server = spawn(join(root, 'start'), ['--port', String(port), '--data', data], {
    cwd: root,
    stdio: 'ignore',
    detached: true,
    env: { ...process.env, CacheMinutes: '1' },
})
process.on('exit', () => {
    try {
        process.kill(server.pid, 'SIGTERM')
    } catch {
        // It has ended already.
    }
})
while (
    !(await fetch(`${base}/health`).then(
        (r) => r.ok,
        () => false,
    ))
)
    await wait(500)
const memory = () =>
    Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${readFileSync(join(data, 'server.pid'), 'utf8').trim()}/status`, 'utf8'))[1]) / 1024

async function call(method, path, body, cookie, type = 'application/json', signal = undefined) {
    const began = performance.now()
    const response = await fetch(base + path, {
        method,
        signal,
        headers: { 'Content-Type': type, 'X-Juniperfall': '1', ...(cookie && { Cookie: cookie }) },
        body: body === undefined ? undefined : typeof body === 'string' ? body : JSON.stringify(body),
    })
    const text = await response.text()
    return {
        status: response.status,
        text,
        ms: performance.now() - began,
        cookie: response.headers
            .getSetCookie()
            .map((c) => c.split(';')[0])
            .join('; '),
    }
}

const signIn = async (name, password) => (await call('POST', '/api/session', { name, password })).cookie

// People of their own: what is fair is fair between people.
const administrator = await signIn('piet', 'frost-and-panels')
const most = Math.max(...steps) + 1
const password = 'drizzle lantern oxbow'
const people = []
for (let i = 0; i < most; i++) {
    const mail = `load${i}@juniperfall.example`
    await call('POST', '/api/people', { name: `load${i}`, display: `Load ${i}`, role: 'order desk', mail }, administrator)
}
for (const letter of readdirSync(join(data, 'mail'))) {
    const text = readFileSync(join(data, 'mail', letter), 'utf8').replaceAll('=\r\n', '')
    const [, name] = /<(load\d+)@/.exec(text)
    await call('POST', '/api/password', { token: /#([\w-]+)/.exec(text)[1], password })
    people.push({ name, cookie: await signIn(name, password) })
}
const products = JSON.parse((await call('GET', '/api/products?search=cold room', undefined, administrator)).text)
const revisions = JSON.parse((await call('GET', `/api/products/${products[0].id}/revisions`, undefined, administrator)).text)
const revision = revisions.find((r) => r.state === 'released').id
console.log(`${people.length} people, revision ${revision}; ${data}`)

/** One who picks: a value that can be had of a question at random, over and over from the start. */
async function configure(person, until, every, told, seed) {
    let state = seed
    const random = (n) => ((state = (state * 1103515245 + 12345) & 0x7fffffff) >> 8) % n
    await wait(random(every))
    let [form, picks, asked] = [null, [], []]
    while (Date.now() < until) {
        if (asked.length > 0) {
            const can = asked.filter((a) => a.choices.length > 0)
            const some = can[random(can.length)]
            picks =
                picks.length > 11
                    ? []
                    : [...picks.filter((p) => p.path !== some.path), { path: some.path, value: some.choices[random(some.choices.length)] }]
        }
        const answer = await call('POST', `/api/revisions/${revision}/answer`, { picks, form: form?.key ?? null }, person.cookie).catch((e) => ({
            status: 0,
            text: String(e),
            ms: 0,
        }))
        told.push(answer)
        if (answer.status === 200) {
            const body = JSON.parse(answer.text)
            form = body.form ?? form
            const questions = form.sections.flatMap((s) => s.asked)
            asked = questions.map((q, i) => ({
                path: q.path,
                choices: q.choices.flatMap((c, k) => (body.asked[i].cannot?.includes(k) ? [] : [c.value])),
            }))
            if (!body.form) answer.isState = true
        }
        await wait(Math.max(0, every - answer.ms))
    }
}

/** One with heavy questions, several at once. */
async function ponder(cookie, until, told) {
    const ask = async (i) => {
        const goals = ['#cost', '#weight', '#leadTime', '#price']
        // What is not through at the end is given up, as by closing the page.
        const signal = AbortSignal.timeout(until - Date.now())
        while (!signal.aborted) {
            const done = await call(
                'POST',
                `/api/revisions/${revision}/best`,
                { goal: goals[i % 4], highest: i % 2 === 0, picks: [] },
                cookie,
                'application/json',
                signal,
            ).catch((e) => ({ status: 0, ms: 0, text: String(e) }))
            if (!signal.aborted) told.push(done)
            if (done.status !== 200) await wait(500)
        }
    }
    await Promise.all(Array.from({ length: 8 }, (_, i) => ask(i)))
}

async function load(cookie, told) {
    const rows = Array.from(
        { length: 50_000 },
        (_, i) => `BUSY-${String(i).padStart(6, '0')},Generated part ${(i * 7919) % 100_003},m,bought,${(i % 997) / 10},${(i % 83) / 100},Raw`,
    )
    const file = ['number,description,unit,kind,cost,weight kg,store HAL', ...rows].join('\n')
    told.push(
        await call('POST', '/api/library/items/load?mode=all', file, cookie, 'application/octet-stream').catch((e) => ({
            status: 0,
            ms: 0,
            text: String(e),
        })),
    )
}

const at = (sorted, share) => sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? NaN
const line = (name, told, idle) => {
    const [good, bad] = [told.filter((t) => t.status === 200), told.filter((t) => t.status !== 200)]
    const times = good.map((t) => t.ms).sort((a, b) => a - b)
    const ratios = [0.5, 0.95, 0.99].map((s) => `${(at(times, s) / idle).toFixed(1)}`.padStart(7)).join('')
    const bytes = good.filter((t) => t.isState).map((t) => Buffer.byteLength(t.text))
    console.log(
        `${name.padEnd(26)}${String(good.length).padStart(7)}${ratios}${String(bad.length).padStart(8)}${(bytes.length > 0 ? (Math.max(...bytes) / 1000).toFixed(1) : '').padStart(10)}${memory().toFixed(0).padStart(9)}  ${[...new Set(bad.map((b) => b.status))].join(' ')}`,
    )
    for (const text of new Set(bad.map((b) => b.text))) console.log(`    refused: ${text.slice(0, 200)}`)
    return times
}

const idleTold = []
await configure(people[0], Date.now() + 10_000, 300, [], 1)
await configure(people[0], Date.now() + 15_000, 300, idleTold, 2)
const idle = at(
    idleTold
        .filter((t) => t.status === 200)
        .map((t) => t.ms)
        .sort((a, b) => a - b),
    0.5,
)
console.log(`one person on an idle server: ${idle.toFixed(0)} ms at the median; all times below are multiples of it`)
console.log('people                    answers    p50    p95    p99 refused  most kB memory MB')
line('1, idle', idleTold, idle)
const before = memory()
for (const number of steps) {
    const [told, heavy, loads, until] = [[], [], [], Date.now() + seconds * 1000]
    await Promise.all([
        ...people.slice(0, number).map((p, i) => configure(p, until, 2_000, told, 77 + i)),
        ponder(people.at(-1).cookie, until, heavy),
        load(administrator, loads),
    ])
    line(String(number), told, idle)
    line('  heavy questions', heavy, idle)
    line('  loads of 50,000 items', loads, idle)
}
const during = memory()
await wait(150_000)
console.log(
    `memory: ${before.toFixed(0)} MB before, ${during.toFixed(0)} MB at the end of the load, ${memory().toFixed(0)} MB two and a half minutes after it`,
)
process.kill(server.pid, 'SIGTERM')
await wait(5_000)
try {
    rmSync(data, { recursive: true, force: true })
} catch {
    execFileSync('rm', ['-rf', data])
}
process.exit(0)
