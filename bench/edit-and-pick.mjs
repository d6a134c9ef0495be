// What an edit and a pick of the demo room take from request to answer, and how many bytes come back: against ./start on a database that may
// be thrown away afterwards. For a comparison with another version, run both in turn on the same machine.
//   node bench/edit-and-pick.mjs [BASE]
import { randomUUID } from 'node:crypto'

const base = process.argv[2] ?? 'http://127.0.0.1:5080'
let cookie
async function call(method, path, body) {
    const began = performance.now()
    const response = await fetch(base + path, {
        method,
        headers: { 'Content-Type': 'application/json', 'X-Juniperfall': '1', ...(cookie && { Cookie: cookie }) },
        body: body && JSON.stringify(body),
    })
    const text = await response.text()
    if (!response.ok) throw new Error(`${method} ${path}: ${text}`)
    cookie ??= response.headers
        .getSetCookie()
        .map((c) => c.split(';')[0])
        .join('; ')
    return { ms: performance.now() - began, bytes: Buffer.byteLength(text), body: JSON.parse(text) }
}
const told = (what, all) => {
    const times = all.map((a) => a.ms).sort((a, b) => a - b)
    console.log(
        `${what.padEnd(24)}${times[times.length >> 1].toFixed(1).padStart(9)} ms median${times.at(-1).toFixed(1).padStart(9)} ms longest${String(Math.max(...all.map((a) => a.bytes))).padStart(9)} bytes at most`,
    )
}

await call('POST', '/api/session', { name: 'ines', password: 'frost-and-panels' })
const [product] = (await call('GET', '/api/products?search=cold room')).body
const path = `/api/revisions/${product.revisionId}`
const revision = await call('GET', path)
console.log(`revision as a whole     ${String(revision.bytes).padStart(45)} bytes`)
const row = revision.body.document.assemblies
    .flatMap((a) => a.topics)
    .flatMap((t) => t.rows)
    .find((r) => r.kind === 'attribute' && r.max)
const edits = []
for (let i = 0; i < 60; i++) {
    const values = [String(row.max), String(row.max - 1)]
    edits.push(
        await call('POST', `${path}/edits`, {
            id: randomUUID(),
            steps: [{ do: 'set', rowId: row.id, field: 'max', before: values[i % 2], value: values[1 - (i % 2)] }],
        }),
    )
}
told('edit', edits)
const first = await call('POST', `${path}/answer`, { picks: [] })
told('first answer, with form', [first])
const choices = (first.body.form ?? first.body).sections.flatMap((s) => s.asked).filter((a) => a.choices.length > 1)
const picks = []
for (let i = 0; i < 40; i++) {
    const some = choices[(i * 7) % choices.length]
    picks.push(
        await call('POST', `${path}/answer`, {
            ...(first.body.formKey && { form: first.body.formKey }),
            picks: [{ path: some.path, value: some.choices[i % some.choices.length].value }],
        }),
    )
}
told('answer to a pick', picks)
