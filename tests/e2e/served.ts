import { execFileSync, spawn } from 'node:child_process'
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'

const root = resolve(import.meta.dirname, '../..')
export const port = process.env.JUNIPERFALL_E2E_PORT ?? '5090'
const folderFile = 'JUNIPERFALL_E2E_DATA'

const wait = (ms: number) => new Promise((done) => setTimeout(done, ms))

async function reachable(): Promise<boolean> {
  try {
    return (await fetch(`http://127.0.0.1:${port}/health`)).ok
  } catch {
    return false
  }
}

/** Runs ./start on the data of this test run and waits until it serves. */
export async function start(): Promise<void> {
  const started = spawn(join(root, 'start'), ['--port', port, '--data', process.env[folderFile]!], {
    cwd: root,
    detached: true,
    stdio: ['ignore', 'ignore', 'inherit'],
  })
  started.unref()
  for (let i = 0; i < 600; i++) {
    if (await reachable()) return
    if (started.exitCode !== null) throw new Error(`./start ended with ${started.exitCode}`)
    await wait(500)
  }
  throw new Error('./start did not come up')
}

const pidIn = (file: string): number | undefined => (existsSync(file) ? Number(readFileSync(file, 'utf8').split('\n')[0]) : undefined)
const database = () => {
  const data = process.env[folderFile]!
  const elsewhere = join(data, 'elsewhere')
  return existsSync(elsewhere) ? readFileSync(elsewhere, 'utf8').trim() : join(data, 'postgres')
}

function kill(pid: number | undefined, signal: string): void {
  if (pid === undefined) return
  try {
    execFileSync('kill', [`-${signal}`, String(pid)])
  } catch {
    // It has ended already.
  }
}

/** Kills server, database and ./start itself without warning, as a power cut would. */
export async function crash(): Promise<void> {
  const data = process.env[folderFile]!
  for (const pid of [pidIn(join(data, 'start.pid')), pidIn(join(data, 'server.pid')), pidIn(join(database(), 'data/postmaster.pid'))])
    kill(pid, 'KILL')
  while (await reachable()) await wait(100)
  await wait(500)
}

/** Kills the server alone; ./start starts it again. */
export const killServer = () => kill(pidIn(join(process.env[folderFile]!, 'server.pid')), 'KILL')

/** Kills the database alone. */
export const killDatabase = () => kill(pidIn(join(database(), 'data/postmaster.pid')), 'KILL')

/** Stops the database in its tracks, and lets it go on. */
export const pauseDatabase = () => kill(pidIn(join(database(), 'data/postmaster.pid')), 'INT')

export async function resumeDatabase(): Promise<void> {
  execFileSync('bash', ['-c', `source ${root}/scripts/needs.sh; source ${root}/scripts/postgres.sh; resume_postgres ${process.env[folderFile]!}`])
}

export default async function setup(): Promise<() => Promise<void>> {
  const folder = mkdtempSync(join(tmpdir(), 'juniperfall-e2e-'))
  process.env[folderFile] = folder
  await start()
  return async () => {
    kill(pidIn(join(folder, 'start.pid')), 'TERM')
    for (let i = 0; i < 100 && (await reachable()); i++) await wait(100)
    await wait(1500)
    rmSync(folder, { recursive: true, force: true })
  }
}
