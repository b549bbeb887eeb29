#!/usr/bin/env node
// Kills every part of the running application at random moments, and checks that nothing that was confirmed is lost and that no
// start needs a hand. Prints a table; with --write it goes to docs/reliability.md.
import { execFileSync } from 'node:child_process'
import { cpSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { createServer } from 'node:net'
import { tmpdir, userInfo } from 'node:os'
import { join } from 'node:path'
import { leapingClock } from './torture/clock.mjs'
import { door } from './torture/door.mjs'
import { fullDisk } from './torture/fullDisk.mjs'
import { childrenOf, exitOf, kill, lineOf, pause, script, until } from './torture/processes.mjs'
import { readOnlyDisk } from './torture/readOnlyDisk.mjs'
import { slowDisk } from './torture/slowDisk.mjs'
import { stillDatabase } from './torture/stillDatabase.mjs'
import { buildStale } from './lib/build.mjs'
import { startDatabase } from './lib/database.mjs'
import { optionsOf } from './lib/options.mjs'
import { needPackages } from './lib/packages.mjs'
import { randomOf } from './lib/random.mjs'
import { renewSection } from './lib/page.mjs'
import { needDebian, root } from './lib/run.mjs'

const HELP = `npm run torture -- [options]
  --kills N   how often something is killed (200); with 0 only disks and clocks are tried
  --seed N    which moments (1)
  --write     writes docs/reliability.md
  --help`
const { values } = optionsOf(HELP, {
  kills: { type: 'string', default: '200' },
  seed: { type: 'string', default: '1' },
  write: { type: 'boolean', default: false },
})
const KILLS = Number(values.kills)

// moments that can be had again
const random = randomOf(Number(values.seed))
const freePort = () =>
  new Promise((resolve) => {
    const s = createServer().listen(0, '127.0.0.1', () => {
      const { port } = s.address()
      s.close(() => resolve(port))
    })
  })

const place = mkdtempSync(join(tmpdir(), 'verimend-torture-'))
const folder = join(place, 'data')
let starter = null
let port = 0
/** What the table tells of each victim. */
const rows = new Map()
const row = (victim) =>
  rows.get(victim) ?? rows.set(victim, { kills: 0, back: [], lost: 0, hand: 0 }).get(victim)

function begin() {
  starter = script('start.mjs', '--data', folder, '--port', String(port), '--no-build', '--no-demo')
  starter.said = ''
  for (const words of [starter.stdout, starter.stderr]) words.on('data', (d) => (starter.said += d))
}
const url = () => `http://127.0.0.1:${port}/api/`
async function answers() {
  try {
    return (await fetch(`${url()}health`, { signal: AbortSignal.timeout(3000) })).ok
  } catch {
    return false
  }
}
/** Waits until it answers. @returns ms, or null when it does not come back by itself */
async function back(patience = 120_000) {
  const from = Date.now()
  while (!(await answers())) {
    if (Date.now() - from > patience) return null
    await pause(60)
  }
  return Date.now() - from
}
const child = (what) => childrenOf(starter.pid).find((p) => lineOf(p).includes(what))

// ---- what is written meanwhile, and what of it was confirmed
const confirmed = new Map()
let writing = true
let pairId = null
const send = async (method, path, body) => {
  const response = await fetch(url() + path, {
    method,
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
    signal: AbortSignal.timeout(20_000),
  })
  if (!response.ok) throw new Error(String(response.status))
  return response.json()
}
let resting = false
let busy = 0
async function writer(n) {
  for (let i = 0; writing; i++) {
    while (resting) await pause(20)
    busy++
    try {
      const id = crypto.randomUUID()
      await send('POST', 'cases', { id, pairId, part: `Part ${n}-${i}` })
      confirmed.set(id, {})
      await send('PUT', `cases/${id}/signs/strings-thin`, { state: 'present' })
      confirmed.set(id, { 'strings-thin': 'present' })
      await send('PUT', `cases/${id}/signs/seam-line`, { state: 'absent' })
      confirmed.set(id, { 'strings-thin': 'present', 'seam-line': 'absent' })
    } catch {
      await pause(60)
    } finally {
      busy--
    }
  }
}
/** How many confirmed cases are not as they were confirmed. */
async function lost() {
  // nobody writes while it is looked
  resting = true
  while (busy) await pause(20)
  const there = new Map()
  for (let skip = 0; ; skip += 200) {
    const { cases, total } = await (await fetch(`${url()}cases?skip=${skip}&limit=200`)).json()
    for (const c of cases) there.set(c.id, c.seen)
    if (skip + 200 >= total) break
  }
  let gone = 0
  for (const [id, signs] of confirmed) {
    const seen = there.get(id)
    if (!seen || Object.entries(signs).some(([s, v]) => (v === 'present') !== seen.includes(s))) gone++
  }
  resting = false
  return gone
}

// ---- the victims
/** Starts it anew, and waits until this very start is ready; what was left of the one before may still answer for a moment. */
const again = async () => {
  const from = Date.now()
  begin()
  while (!starter.said.includes('is ready')) {
    if (Date.now() - from > 120_000 || starter.exitCode !== null) return null
    await pause(50)
  }
  return (await back()) === null ? null : Date.now() - from
}
/** Runs a script to its end. @returns what it said, and its code */
async function run(name, ...args) {
  const child = script(name, ...args)
  let said = ''
  for (const words of [child.stdout, child.stderr]) words.on('data', (d) => (said += d))
  await exitOf(child)
  return { code: child.exitCode, said }
}
const VICTIMS = {
  server: async () => kill(child('server/dist/main.mjs')) && back(),
  database: async () => kill(Number(readFileSync(join(folder, 'mariadb.pid'), 'utf8'))) && back(),
  'simulated machines': async () => kill(child('standin/dist/main.mjs')) && back(),
  starter: async () => {
    kill(starter.pid)
    await exitOf(starter)
    return again()
  },
  'a start': async () => {
    kill(starter.pid)
    await exitOf(starter)
    begin()
    await pause(100 + random() * 3500)
    kill(starter.pid)
    await exitOf(starter)
    return again()
  },
  'a stop': async () => {
    kill(starter.pid, 'SIGTERM')
    await pause(random() * 900)
    kill(starter.pid)
    await exitOf(starter)
    return again()
  },
  'a backup': async () => {
    const file = join(place, 'killed.tar.gz')
    const made = script('backup.mjs', file, '--data', folder)
    await pause(200 + random() * 1500)
    kill(childrenOf(made.pid)[0])
    kill(made.pid)
    await exitOf(made)
    // one that is there has to be whole
    const from = Date.now()
    const { code, said } = await run('backup.mjs', join(place, 'whole.tar.gz'), '--data', folder)
    if (code === 0) return Date.now() - from
    console.error(said)
    return null
  },
  'a change of the tables': async () => {
    const into = join(place, 'changing')
    rmSync(into, { recursive: true, force: true })
    cpSync(old, into, { recursive: true })
    const flags = ['--data', into, '--port', '0', '--no-build', '--no-demo']
    const changing = script('start.mjs', ...flags)
    const server = await until(
      () => childrenOf(changing.pid).find((p) => lineOf(p).includes('server/dist')),
      60_000,
    )
    await pause(300 + random() * 1500)
    kill(changing.pid)
    kill(server)
    await exitOf(changing)
    // the next start puts the tables back, changes them, and has all that was there
    const from = Date.now()
    const next = script('start.mjs', ...flags)
    let said = ''
    for (const words of [next.stdout, next.stderr]) words.on('data', (d) => (said += d))
    const at = await until(() => /is ready.*127\.0\.0\.1:(\d+)/.exec(said)?.[1], 120_000)
    const took = Date.now() - from
    const cases = at && (await (await fetch(`http://127.0.0.1:${at}/api/cases`)).json()).total
    kill(next.pid, 'SIGTERM')
    await exitOf(next)
    if (at && cases === oldCases) return took
    console.error(`${cases} of ${oldCases} cases\n${said}`)
    return null
  },
  'a restore': async () => {
    const file = join(place, 'whole.tar.gz')
    const made = await run('backup.mjs', file, '--data', folder)
    if (made.code !== 0) {
      console.error(made.said)
      return null
    }
    const into = join(place, 'restored')
    rmSync(into, { recursive: true, force: true })
    const restoring = script('restore.mjs', file, '--data', into)
    await pause(300 + random() * 3500)
    kill(restoring.pid)
    await exitOf(restoring)
    // begun anew it ends well, whatever was left; its own database may still be going down
    const from = Date.now()
    const { code, said } = await run('restore.mjs', file, '--data', into)
    // where the first one had ended already, it says so and changes nothing
    if (code === 0 || /in this data folder already/.test(said)) return Date.now() - from
    console.error(said)
    return null
  },
}

/** Rows as an older version stored them, and how many cases stand in them. */
const OLD_ROWS = join(root, 'server/test/fixtures/stored-rows-1.sql.gz')
let oldCases = 0
const old = join(place, 'old')
/** Lays out a data folder as an older version left it. */
async function layOld() {
  const database = await startDatabase(old)
  const line = lineOf(database.pid).split('\0')
  const socket = line.find((w) => w.startsWith('--socket='))
  execFileSync('sh', [
    '-c',
    `{ echo 'DROP DATABASE IF EXISTS verimend; CREATE DATABASE verimend CHARACTER SET utf8mb4; USE verimend;'; zcat '${OLD_ROWS}'; } | mariadb --no-defaults '${socket}' --user='${userInfo().username}'`,
  ])
  oldCases = Number(
    execFileSync(
      'mariadb',
      [
        '--no-defaults',
        socket,
        `--user=${userInfo().username}`,
        '-N',
        '-e',
        'SELECT COUNT(*) FROM verimend.cases WHERE removedAt IS NULL',
      ],
      { encoding: 'utf8' },
    ),
  )
  await database.stop()
}

async function killing() {
  port = await freePort()
  begin()
  if ((await back()) === null) throw new Error(`It did not start.\n${starter.said}`)
  const { MACHINE, ROLL } = JSON.parse(readFileSync(join(root, 'scripts/lib/torture.json'), 'utf8'))
  const machine = await send('POST', 'machines', { machine: MACHINE })
  const filament = await send('POST', 'filaments', { filament: ROLL })
  pairId = (await send('POST', 'pairs', { machineId: machine.id, filamentId: filament.id })).id
  await layOld()
  const writers = [0, 1, 2].map(writer)
  const names = Object.keys(VICTIMS)
  for (let n = 0; n < KILLS; n++) {
    const victim = names[n % names.length]
    const before = confirmed.size
    for (let i = 0; i < 400 && confirmed.size < before + 4; i++) await pause(25)
    await pause(random() * 150)
    const took = await VICTIMS[victim]()
    const told = row(victim)
    told.kills++
    if (took === null || took === false) {
      told.hand++
      console.error(`${victim}: it did not come back by itself\n${starter.said.slice(-1500)}`)
      kill(starter.pid)
      await exitOf(starter)
      await again()
    } else told.back.push(took)
    if ((n + 1) % names.length === 0 || n === KILLS - 1) {
      const gone = await lost()
      told.lost += gone
      if (gone) console.error(`${gone} of ${confirmed.size} confirmed cases are not as they were`)
      process.stdout.write(`\r${n + 1} of ${KILLS} kills, ${confirmed.size} cases confirmed, ${gone} lost `)
    }
  }
  writing = false
  await Promise.all(writers)
  await back()
  const gone = await lost()
  kill(starter.pid, 'SIGTERM')
  await exitOf(starter)
  await report(gone)
  return gone === 0 && [...rows.values()].every((r) => r.hand === 0)
}

async function report(gone) {
  const middle = (v) => [...v].sort((a, b) => a - b)[v.length >> 1] ?? 0
  const lines = [
    '| Killed | Times | Needed a hand | Back after, s, median | at most |',
    '| --- | ---: | ---: | ---: | ---: |',
    ...[...rows].map(
      ([victim, r]) =>
        `| ${victim} | ${r.kills} | ${r.hand} | ${(middle(r.back) / 1000).toFixed(1)} | ${(Math.max(0, ...r.back) / 1000).toFixed(1)} |`,
    ),
  ]
  await tell(
    'kills',
    `${lines.join('\n')}\n\n${KILLS} kills; ${confirmed.size} cases confirmed meanwhile by three who write all the time, ${gone} of them lost or not as confirmed. Seed ${values.seed}.`,
  )
}

/** Says what came of something, and writes it down where that is asked for. */
async function tell(section, text) {
  console.log(`\n\n${text}`)
  if (values.write) await renewSection('docs/reliability.md', section, text)
}

/** What goes wrong besides processes that are killed. @returns whether each was borne as it should be */
async function troubles() {
  const all = []
  for (const trouble of [stillDatabase, door, fullDisk, readOnlyDisk, slowDisk, leapingClock])
    all.push(await trouble(place))
  await tell('troubles', all.map((t) => t.said).join('\n\n'))
  return all.every((t) => t.fair)
}

async function main() {
  await needPackages()
  await needDebian('mariadbd', 'mariadb-server', 'the MariaDB server')
  await buildStale()
  const borne = KILLS > 0 ? await killing() : true
  return (await troubles()) && borne
}

main()
  .then((good) => (process.exitCode = good ? 0 : 1))
  .catch((error) => {
    console.error(error)
    process.exitCode = 1
  })
  .finally(() => {
    kill(starter?.pid, 'SIGTERM')
    setTimeout(() => {
      rmSync(place, { recursive: true, force: true })
      process.exit()
    }, 3000)
  })
