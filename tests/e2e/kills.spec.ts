import { expect, test } from '@playwright/test'
import { randomUUID } from 'node:crypto'
import { crash, killDatabase, killServer, port, resumeDatabase, start } from './served'
import { password } from './people'

// Server, database, or both are killed at moments of their own while edits, saves and loads go on. Whoever sent something
// sends the same again until it is answered, as the page does. In the end all that was answered is there, once.

const base = `http://127.0.0.1:${port}`
const kills = process.env.JUNIPERFALL_LONG ? 20 : 3
const wait = (ms: number) => new Promise((done) => setTimeout(done, ms))

async function signIn(name: string): Promise<string> {
  for (;;) {
    const response = await fetch(`${base}/api/session`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', 'X-Juniperfall': '1' },
      body: JSON.stringify({ name, password }),
    }).catch(() => null)
    if (response?.ok)
      return response.headers
        .getSetCookie()
        .map((c) => c.split(';')[0])
        .join('; ')
    await wait(300)
  }
}

/** Sends until it is answered. */
async function insist(
  cookie: string,
  method: string,
  path: string,
  body: unknown,
  type = 'application/json',
): Promise<{ status: number; body: Record<string, unknown> }> {
  for (let tries = 0; ; tries++) {
    const response = await fetch(base + path, {
      method,
      headers: { 'Content-Type': type, 'X-Juniperfall': '1', Cookie: cookie },
      body: typeof body === 'string' ? body : JSON.stringify(body),
      signal: AbortSignal.timeout(20_000),
    }).catch(() => null)
    const text = await response?.text().catch(() => null)
    if (response && text != null && response.status < 500 && response.status !== 429)
      return { status: response.status, body: JSON.parse(text) as Record<string, unknown> }
    expect(tries, `${method} ${path} was not answered`).toBeLessThan(400)
    await wait(250)
  }
}

const get = async (cookie: string, path: string) => (await (await fetch(base + path, { headers: { Cookie: cookie } })).json()) as never

test(`nothing is lost and nothing is there twice after ${kills} kills under edits, saves and loads`, async () => {
  test.setTimeout(20 * 60_000)
  const [engineer, desk, librarian] = [await signIn('ines'), await signIn('marit'), await signIn('piet')]
  const made = (await insist(engineer, 'POST', '/api/products', { id: randomUUID(), code: `KILL-${Date.now() % 100_000}`, label: 'Under fire' }))
    .body as { revisionId: number }
  const revision = (await get(engineer, `/api/revisions/${made.revisionId}`)) as { document: { assemblies: { topics: { id: string }[] }[] } }
  const topic = revision.document.assemblies[0]!.topics[0]!.id
  let goesOn = true
  const [edits, saves, loads]: [string[], string[], string[]] = [[], [], []]

  async function edit() {
    for (let i = 0; goesOn; i++) {
      const id = randomUUID()
      const row = { kind: 'computed', id: `f${id.slice(0, 8)}`, name: `figure ${id.slice(0, 8)}`, expression: '1 + 1' }
      const { status } = await insist(engineer, 'POST', `/api/revisions/${made.revisionId}/edits`, {
        id,
        steps: [{ do: 'add', parentId: topic, collection: 'rows', afterId: null, row }],
      })
      expect(status).toBe(200)
      edits.push(row.id)
    }
  }
  async function save() {
    while (goesOn) {
      const id = randomUUID()
      const { status } = await insist(desk, 'POST', '/api/configurations', { id, name: `Killed ${id}`, revisionId: 1, picks: [] })
      expect(status).toBe(200)
      saves.push(id)
      await wait(50)
    }
  }
  async function load() {
    for (let i = 0; goesOn; i++) {
      const name = `K${Date.now()}`
      const rows = Array.from({ length: 200 }, (_, k) => `${name}-${k},Part,m,bought,1,1`)
      const { body } = await insist(
        librarian,
        'POST',
        '/api/library/items/load?mode=all',
        ['number,description,unit,kind,cost,weight kg', ...rows].join('\n'),
        'application/octet-stream',
      )
      expect(body.stored).toBe(true)
      loads.push(name)
    }
  }

  /** What is found out in the background is under way all the time; whatever of it is lost is found out again. */
  async function background() {
    while (goesOn) {
      for (const what of ['impact', 'cases', 'health'])
        await fetch(`${base}/api/revisions/2/${what}`, { headers: { Cookie: engineer }, signal: AbortSignal.timeout(20_000) }).catch(() => null)
      await wait(400)
    }
  }

  const working = Promise.all([edit(), save(), load(), background()])
  for (let i = 0; i < kills; i++) {
    await wait(1_500 + ((i * 7919) % 1_700))
    if (i % 3 === 0) killServer()
    else if (i % 3 === 1) {
      killDatabase()
      await wait(300)
      await resumeDatabase()
    } else {
      await crash()
      await start()
    }
    // Each is back at work before the next one.
    const before = [edits.length, saves.length, loads.length]
    await expect(() => expect([edits, saves, loads].every((done, k) => done.length > before[k]!)).toBe(true)).toPass({ timeout: 120_000 })
  }
  goesOn = false
  await working

  const after = (await get(engineer, `/api/revisions/${made.revisionId}`)) as {
    head: number
    document: { assemblies: { topics: { rows: { id: string }[] }[] }[] }
  }
  const rows = after.document.assemblies
    .flatMap((a) => a.topics)
    .flatMap((t) => t.rows)
    .map((r) => r.id)
  expect([...rows].sort()).toEqual([...edits].sort())
  expect(after.head).toBe(edits.length)
  for (const id of saves) expect(((await get(desk, `/api/configurations/${id}`)) as { version: number }).version).toBe(1)
  for (const name of loads) expect(((await get(librarian, `/api/library/items?search=${name}-`)) as { found: number }).found).toBe(200)
  expect(edits.length + saves.length + loads.length).toBeGreaterThan(kills * 5)
  await expect(async () => {
    const impact = (await get(engineer, '/api/revisions/2/impact?counts=true')) as {
      all: number
      done: number
      running: boolean
      troubles: string[]
    }
    expect(impact).toMatchObject({ running: false, troubles: [] })
    expect(impact.done).toBe(impact.all)
    expect(impact.all).toBeGreaterThanOrEqual(saves.length)
  }).toPass({ timeout: 240_000 })
})
