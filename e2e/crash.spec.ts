import { expect, test } from '@playwright/test'
import { execFileSync } from 'node:child_process'
import { statSync } from 'node:fs'
import { join } from 'node:path'
import { App } from './lib/app'

const app = new App(['--no-demo'])
test.describe.configure({ mode: 'serial' })
test.afterAll(() => app.end())

const pause = (ms: number) => new Promise((r) => setTimeout(r, ms))
const alive = (pid: number) => {
  try {
    process.kill(pid, 0)
    return true
  } catch {
    return false
  }
}

/** How often something is killed; more with KILLS=…. */
const KILLS = Number(process.env.KILLS ?? 6)

test('killing the server and the database during writes, again and again, loses nothing confirmed', async () => {
  await app.start()
  const { machines } = await seed()
  const confirmed = new Map<string, number>() // id → revision the server has confirmed
  let writing = true
  let refused = 0
  const writer = async (n: number) => {
    for (let i = 0; writing; i++) {
      const id = crypto.randomUUID()
      try {
        const made = await fetch(
          `${app.url}/api/machines`,
          json('POST', { id, machine: { ...machines, name: `Machine ${n}-${i}` } }),
        )
        if (made.status !== 201) throw new Error(String(made.status))
        confirmed.set(id, 1)
        const edited = await fetch(
          `${app.url}/api/machines/${id}`,
          json('PUT', { rev: 1, machine: { ...machines, name: `Edited ${n}-${i}` } }),
        )
        if (edited.status !== 200) throw new Error(String(edited.status))
        confirmed.set(id, 2)
      } catch {
        refused++
        await pause(40)
      }
    }
  }
  const writers = [writer(0), writer(1), writer(2)]
  const killed: number[] = []
  try {
    for (let round = 0; round < KILLS; round++) {
      const before = confirmed.size
      await until(() => confirmed.size >= before + 5) // it is in the middle of writes, however slow
      await pause((round * 37) % 140)
      const pid = round % 2 ? app.databasePid() : app.serverPid()
      killed.push(pid)
      process.kill(pid, 'SIGKILL')
      await backAgain()
    }
  } finally {
    writing = false
  }
  await Promise.all(writers)
  await backAgain()
  expect(new Set(killed).size).toBe(KILLS)
  expect(confirmed.size).toBeGreaterThan(4 * KILLS)
  expect(refused).toBeGreaterThan(0) // the kills really fell into writes
  const list = (await (await fetch(`${app.url}/api/machines`)).json()) as { id: string; rev: number }[]
  const kept = new Map(list.map((m) => [m.id, m.rev]))
  const lost = [...confirmed].filter(([id, rev]) => (kept.get(id) ?? 0) < rev)
  expect(lost).toEqual([])
})

test('a second start says where the first one is; a killed start recovers; the password is its owner’s', async () => {
  const said = execFileSync(
    process.execPath,
    [join(import.meta.dirname, '..', 'scripts', 'start.mjs'), '--data', app.folder, '--port', '1234'],
    { encoding: 'utf8', timeout: 60_000 },
  )
  expect(said).toContain(`running on this data folder already: ${app.url}`)
  expect(statSync(join(app.folder, 'database-password')).mode & 0o777).toBe(0o600)

  const [server, database] = [app.serverPid(), app.databasePid()]
  await app.stop('SIGKILL')
  await app.start()
  const list = await (await fetch(`${app.url}/api/machines`)).json()
  expect(list.length).toBeGreaterThan(4 * KILLS)
  expect([server, database].filter(alive)).toEqual([])

  const children = [app.serverPid(), app.databasePid()]
  await app.stop('SIGINT')
  expect(children.filter(alive)).toEqual([])
})

const json = (method: string, body: unknown) => ({
  method,
  headers: { 'content-type': 'application/json' },
  body: JSON.stringify(body),
})

async function seed() {
  const { DEMO_MACHINES } = await import('@verimend/core/demo')
  return { machines: DEMO_MACHINES.shed }
}

async function until(holds: () => boolean) {
  const end = Date.now() + 60_000
  while (!holds()) {
    if (Date.now() > end) throw new Error('no write was confirmed for a minute')
    await pause(10)
  }
}

async function backAgain() {
  const end = Date.now() + 90_000
  for (;;) {
    try {
      const r = await fetch(`${app.url}/api/health`, { signal: AbortSignal.timeout(5000) })
      if (r.ok) return
    } catch {
      // not yet
    }
    if (Date.now() > end) throw new Error(`it did not come back\n${app.said}`)
    await pause(50)
  }
}
