// How long 100,000 items take to be looked through and stored, and how long a search in them takes: against ./start on a
// database that may be thrown away afterwards (rm -rf .run/data).
const base = process.argv[2] ?? 'http://127.0.0.1:5080'
const signedIn = await fetch(`${base}/api/session`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json', 'X-Juniperfall': '1' },
    body: JSON.stringify({ name: 'piet', password: 'frost-and-panels' }),
})
const headers = {
    Cookie: signedIn.headers
        .getSetCookie()
        .map((c) => c.split(';')[0])
        .join('; '),
    'X-Juniperfall': '1',
    'Content-Type': 'application/octet-stream',
}
const rows = Array.from(
    { length: 100_000 },
    (_, i) =>
        `LOAD-${String(i).padStart(6, '0')},Generated part ${(i * 7919) % 100_003},${i % 3 === 0 ? 'm' : ''},bought,${(i % 997) / 10},${(i % 83) / 100},Raw`,
)
const file = ['number,description,unit,kind,cost,weight kg,store HAL', ...rows].join('\n')
async function timed(what, run) {
    const start = performance.now()
    const result = await run()
    console.log(`${what.padEnd(44)} ${((performance.now() - start) / 1000).toFixed(2).padStart(8)} s   ${result}`)
}
for (const mode of ['check', 'all', 'all'])
    await timed(`100,000 items, ${mode}`, async () => {
        const done = await (await fetch(`${base}/api/library/items/load?mode=${mode}`, { method: 'POST', headers, body: file })).json()
        return `${done.added} new, ${done.changed} changed, ${done.same} the same`
    })
const times = []
for (const search of ['load-0421', 'part 77', 'gasket', '99999', 'generated part 5', 'door leaf', 'zzz', 'a', '', 'unit']) {
    await fetch(`${base}/api/items?search=${search}`, { headers })
    const start = performance.now()
    await (await fetch(`${base}/api/items?search=${encodeURIComponent(search)}`, { headers })).text()
    times.push(performance.now() - start)
    console.log(`search “${search}”`.padEnd(44), `${times.at(-1).toFixed(1).padStart(8)} ms`)
}
console.log(
    'longest search'.padEnd(44),
    `${Math.max(...times)
        .toFixed(1)
        .padStart(8)} ms`,
)
