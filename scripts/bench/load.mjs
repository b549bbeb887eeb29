// Many at once for a minute: fifty clients, each with a pair of its own, write recipe versions, cases and signs and read lists without
// a pause. VERIMEND_CLIENTS and VERIMEND_SECONDS make it larger or smaller; with VERIMEND_WRITE=1 the table goes to docs/reliability.md.
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { buildStale } from '../lib/build.mjs'
import { startDatabase } from '../lib/database.mjs'
import { renewSection } from '../lib/page.mjs'
import { needDebian } from '../lib/run.mjs'
import { startServer, stopServer } from '../lib/server.mjs'

const CLIENTS = Number(process.env.VERIMEND_CLIENTS ?? 50)
const SECONDS = Number(process.env.VERIMEND_SECONDS ?? 60)

await needDebian('mariadbd', 'mariadb-server', 'the MariaDB server')
await buildStale(['server'])
const folder = mkdtempSync(join(tmpdir(), 'verimend-load-'))
const database = await startDatabase(folder)
const { child, port } = await startServer({
  program: 'server/dist/main.mjs',
  env: { ...database.env, VERIMEND_PORT: '0', VERIMEND_DEMO: '1', VERIMEND_LOG: 'error' },
})

/** What each kind of request came to. */
const told = new Map()
async function ask(kind, method, path, body) {
  const began = performance.now()
  let status
  let answer = null
  try {
    const response = await fetch(`http://127.0.0.1:${port}/api/${path}`, {
      method,
      headers: body ? { 'content-type': 'application/json' } : {},
      body: body && JSON.stringify(body),
    })
    status = response.status
    answer = await response.json()
  } catch {
    status = -1
  }
  const own = told.get(kind) ?? told.set(kind, { times: [], statuses: {} }).get(kind)
  own.times.push(performance.now() - began)
  own.statuses[status] = (own.statuses[status] ?? 0) + 1
  return { status, body: answer }
}

const machine = (await ask('begin', 'GET', 'machines')).body[0].id
const { filament } = (await ask('begin', 'GET', 'filaments')).body[0]
const pairs = []
for (let i = 0; i < CLIENTS; i++) {
  const roll = { id: crypto.randomUUID(), filament: { ...filament, name: `Roll ${i + 1}` } }
  const made = await ask('begin', 'POST', 'filaments', roll)
  pairs.push((await ask('begin', 'POST', 'pairs', { machineId: machine, filamentId: made.body.id })).body)
}
told.clear()

const until = performance.now() + SECONDS * 1000
async function client(pair, n) {
  let current = pair.current
  let kase = null
  for (let round = n; performance.now() < until; round++) {
    const nozzle = 195 + (round % 20)
    const made = await ask('a recipe version is written', 'POST', `pairs/${pair.id}/versions`, {
      base: current,
      set: { nozzle },
      reason: '',
    })
    if (made.status === 201) current = made.body.number
    if (round % 3 === 0) {
      const id = crypto.randomUUID()
      const begun = await ask('a case is begun', 'POST', 'cases', { id, pairId: pair.id, part: 'Clip' })
      if (begun.status === 201) kase = id
    }
    if (kase && round % 2)
      await ask('a sign is noted', 'PUT', `cases/${kase}/signs/strings-thin`, {
        state: round % 4 === 1 ? 'present' : 'absent',
      })
    if (kase) await ask('a case is read', 'GET', `cases/${kase}`)
    await ask('a pair is read', 'GET', `pairs/${pair.id}`)
    if (round % 4 === 0) await ask('the list of cases', 'GET', 'cases')
    if (round % 6 === 0) await ask('the versions of a pair', 'GET', `pairs/${pair.id}/versions`)
  }
}
await Promise.all(pairs.map(client))
await stopServer(child)
await database.stop?.()
rmSync(folder, { recursive: true, force: true })

const at = (times, share) =>
  [...times].sort((a, b) => a - b)[Math.min(times.length - 1, Math.floor(share * times.length))]
const ms = (v) => v.toFixed(0)
const all = [...told.values()].flatMap((k) => k.times)
const statuses = (s) =>
  Object.entries(s)
    .map(([status, n]) => `${status}: ${n}`)
    .join(', ')
const text = `| ${CLIENTS} clients, ${SECONDS} s | Requests | Median, ms | 95 of 100, ms | 99 of 100, ms | Slowest, ms | Answers |
| --- | ---: | ---: | ---: | ---: | ---: | --- |
${[...told]
  .map(
    ([kind, { times, statuses: s }]) =>
      `| ${kind} | ${times.length} | ${ms(at(times, 0.5))} | ${ms(at(times, 0.95))} | ${ms(at(times, 0.99))} | ${ms(at(times, 1))} | ${statuses(s)} |`,
  )
  .join('\n')}
| all | ${all.length} | ${ms(at(all, 0.5))} | ${ms(at(all, 0.95))} | ${ms(at(all, 0.99))} | ${ms(at(all, 1))} | |`
console.log(text)
if (process.env.VERIMEND_WRITE === '1') await renewSection('docs/reliability.md', 'load', text)
