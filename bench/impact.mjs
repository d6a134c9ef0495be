// Measures what a draft's edits cost where much is saved: 5,000 configurations of the demo room, made of the demo's by moving its numbers.
//   ./start --port 5085 --data /tmp/impact   and then   node bench/impact.mjs http://127.0.0.1:5085 [how many]
// Tells how long the impact of one edit takes, the test cases of the room after an edit, and what answers take meanwhile against before.
const base = process.argv[2] ?? 'http://127.0.0.1:5085'
const many = Number(process.argv[3] ?? 5_000)
const headers = { 'X-Juniperfall': '1', 'Content-Type': 'application/json' }

async function signIn(name) {
    const made = await fetch(`${base}/api/session`, {
        method: 'POST',
        headers,
        body: JSON.stringify({ name, password: 'frost-and-panels' }),
    })
    return {
        ...headers,
        Cookie: made.headers
            .getSetCookie()
            .map((c) => c.split(';')[0])
            .join('; '),
    }
}

const engineer = await signIn('ines')
const desk = await signIn('marit')
/** More than a person sends is refused for a second; then it is sent again. */
async function send(path, init) {
    for (;;) {
        const answer = await fetch(base + path, init)
        if (answer.status === 429) await wait(1_000)
        else if (answer.ok) return answer.json()
        else throw new Error(`${path}: ${answer.status} ${await answer.text()}`)
    }
}
const wait = (ms) => new Promise((done) => setTimeout(done, ms))
const get = (path, as = engineer) => send(path, { headers: as })
const post = (path, body, as = engineer) => send(path, { method: 'POST', headers: as, body: JSON.stringify(body) })
const draft = 2
let seed = 7
const random = () => (seed = (seed * 48271) % 2147483647) / 2147483647

const there = (await finished(`/api/revisions/${draft}/impact?counts=true`, 300)).view.all
const demo = (await get('/api/configurations?product=cold-room')).slice(0, 14)
const saved = await Promise.all(demo.map((c) => get(`/api/configurations/${c.id}`)))
for (let i = there; i < many; i += 10)
    await Promise.all(
        Array.from({ length: 10 }, (_, k) => {
            const one = saved[(i + k) % saved.length]
            const picks = one.picks
                .filter((p) => !p.filledIn)
                .map((p) =>
                    /length|width|height/.test(p.path) && Number(p.value) > 2_000
                        ? { ...p, value: String(Number(p.value) + 50 * Math.floor(random() * 9 - 4)) }
                        : p,
                )
            return post('/api/configurations', {
                id: crypto.randomUUID(),
                name: `${one.name} ${i + k}`,
                revisionId: one.revisionId,
                picks,
                site: one.site,
                date: one.date,
            })
        }),
    )

const median = (times) => times.toSorted((a, b) => a - b)[Math.floor(times.length / 2)]
const at = (times, share) => times.toSorted((a, b) => a - b)[Math.min(times.length - 1, Math.floor(times.length * share))]
const cores = (await get(`/api/revisions/${draft}`)).document.lists.find((l) => l.id === 'cores')
let rate = Number(cores.values.find((v) => v.id === 'cores:80').properties['cores.rate'])
async function edit() {
    const next = rate === 148 ? 149 : 148
    await post(`/api/revisions/${draft}/edits`, {
        id: crypto.randomUUID(),
        steps: [{ do: 'set', rowId: 'cores:80', field: 'properties/cores.rate', value: String(next), before: String(rate) }],
    })
    rate = next
}

async function finished(path, every) {
    const began = performance.now()
    for (;;) {
        const view = await get(path)
        if (!view.running) return { ms: performance.now() - began, view }
        await wait(every)
    }
}

/** Answers of the order desk on the released room, one after the other, each with another length. */
async function answers(during) {
    const times = []
    let n = 0
    const isOver = during ? () => during.over : () => times.length >= 60
    while (!isOver()) {
        const began = performance.now()
        await post(
            '/api/revisions/1/answer',
            {
                form: null,
                picks: [
                    { path: 'length', value: String(2400 + 50 * (n++ % 60)) },
                    { path: 'goods', value: n % 2 ? 'dairy' : 'meat' },
                ],
            },
            desk,
        )
        times.push(performance.now() - began)
        await wait(50)
    }
    return times
}

const first = await finished(`/api/revisions/${draft}/impact?counts=true`, 300)
console.log(`first time, what came out before included: ${(first.ms / 1000).toFixed(1)} s`, first.view.counts)
await answers()
const alone = await answers()
const running = { over: false }
const meanwhile = answers(running)
await edit()
const impact = await finished(`/api/revisions/${draft}/impact?counts=true`, 300)
running.over = true
const beside = await meanwhile
console.log(`impact of one edit on ${impact.view.all}: ${(impact.ms / 1000).toFixed(1)} s, with its second of quiet`, impact.view.counts)
console.log(
    `answers alone ${median(alone).toFixed(1)} ms at the median, ${at(alone, 0.95).toFixed(1)} p95; meanwhile ${median(beside).toFixed(1)}, ${at(beside, 0.95).toFixed(1)}`,
)

const cases = []
for (let i = 0; i < 20; i++) {
    await edit()
    cases.push((await finished(`/api/revisions/${draft}/cases?counts=true`, 10)).ms)
}
console.log(`test cases after an edit: ${median(cases).toFixed(0)} ms at the median, ${at(cases, 0.95).toFixed(0)} p95`)
