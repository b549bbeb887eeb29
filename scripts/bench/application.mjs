// The running application under much of everything: long lists and many who save at once.
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { gzipSync } from 'node:zlib'
import { createConnection } from 'mariadb'
import { buildStale } from '../lib/build.mjs'
import { needDebian } from '../lib/run.mjs'
import { startDatabase } from '../lib/database.mjs'
import { startServer, stopServer } from '../lib/server.mjs'

const WRITERS = 32

const middle = (values) => [...values].sort((a, b) => a - b)[values.length >> 1]
const line = (what, value) => console.log(`${what.padEnd(66)} ${value}`)

await needDebian('mariadbd', 'mariadb-server', 'the MariaDB server')
await buildStale(['server'])
const folder = mkdtempSync(join(tmpdir(), 'verimend-bench-'))
const database = await startDatabase(folder)
const { child, port } = await startServer({
  program: 'server/dist/main.mjs',
  env: { ...database.env, VERIMEND_PORT: '0', VERIMEND_DEMO: '1', VERIMEND_LOG: 'error' },
})
const sql = await createConnection({
  host: '127.0.0.1',
  port: database.port,
  user: 'verimend',
  password: database.password,
  database: 'verimend',
})

async function call(method, path, body) {
  const response = await fetch(`http://127.0.0.1:${port}/api/${path}`, {
    method,
    headers: body ? { 'content-type': 'application/json' } : {},
    body: body && JSON.stringify(body),
  })
  return { status: response.status, text: await response.text() }
}
const get = async (path) => JSON.parse((await call('GET', path)).text)

/** Copies of a row by the database itself, many at once. */
async function multiply(table, id, times, instead = {}) {
  const columns = (
    await sql.query(
      'SELECT column_name AS name FROM information_schema.columns WHERE table_schema = DATABASE() AND table_name = ?',
      [table],
    )
  ).map((c) => c.name)
  const values = columns.map((c) => (c === 'id' ? 'UUID()' : (instead[c] ?? `t.\`${c}\``)))
  await sql.query(
    `INSERT INTO \`${table}\` (${columns.map((c) => `\`${c}\``).join(', ')}) SELECT ${values.join(', ')} FROM \`${table}\` t, (SELECT seq FROM seq_1_to_${times}) s WHERE t.id = ?`,
    [id],
  )
}

/** Fills the database up to so many of each. */
async function fill({ cases, rolls, trials, machines, prints, parts }) {
  const has = async (table) => Number((await sql.query(`SELECT COUNT(*) AS n FROM ${table}`))[0].n)
  const { machineId } = (await get('pairs'))[0]
  const [model] = await get('filaments')
  for (let n = await has('filaments'); n < rolls; n++) {
    const id = crypto.randomUUID()
    await call('POST', 'filaments', { id, filament: { ...model.filament, name: `Roll ${n}` } })
    await call('POST', 'pairs', { machineId, filamentId: id })
  }
  // every roll on every machine, a third of them with something that was tested
  const [{ machine }] = await get('machines')
  while ((await get('machines')).length < machines)
    await call('POST', 'machines', { machine: { ...machine, name: `Machine ${crypto.randomUUID()}` } })
  await sql.query(
    `INSERT INTO pairs (id, machineId, filamentId, nozzle, current, acknowledged, createdAt, updatedAt)
     SELECT UUID(), m.id, f.id, 0.4, 1, '[]', NOW(3), NOW(3) - INTERVAL RAND() * 1000 MINUTE FROM machines m, filaments f
     WHERE NOT EXISTS (SELECT 1 FROM pairs p WHERE p.machineId = m.id AND p.filamentId = f.id)`,
  )
  const tested = `(SELECT id FROM pairs WHERE tested NOT LIKE '{"tested":{}%' ORDER BY createdAt LIMIT 1)`
  const plain = `(SELECT id FROM pairs WHERE tested LIKE '{"tested":{}%' ORDER BY createdAt LIMIT 1)`
  await sql.query(
    `INSERT INTO recipe_versions (pairId, number, parent, schemaVersion, settings, variants, changes, reason, createdAt, updatedAt)
     SELECT p.id, 1, NULL, v.schemaVersion, v.settings, v.variants, '[]', v.reason, NOW(3), NOW(3)
     FROM pairs p JOIN recipe_versions v ON v.pairId = IF(CRC32(p.id) % 3, ${plain}, ${tested})
       AND v.number = (SELECT current FROM pairs o WHERE o.id = v.pairId)
     WHERE p.tested IS NULL`,
  )
  await sql.query(
    `UPDATE pairs p JOIN pairs o ON o.id = IF(CRC32(p.id) % 3, ${plain}, ${tested}) SET p.tested = o.tested, p.testedSchema = o.testedSchema WHERE p.tested IS NULL`,
  )
  const morePrints = prints - (await has('prints'))
  if (morePrints > 0)
    await sql.query(
      `INSERT INTO prints (id, machineId, pairId, kind, name, version, link, sha256, state, told, createdAt, updatedAt)
       SELECT UUID(), p.machineId, p.id, 'practice', CONCAT('print-', s.seq), 1, 'download', REPEAT('0', 64), 'handed-over',
         '{"done":1,"total":1,"left":null,"layer":1,"layerCount":1,"nozzle":0,"bed":0,"waitsFor":0}', NOW(3), NOW(3)
       FROM (SELECT seq FROM seq_1_to_${morePrints}) s JOIN (SELECT id, machineId FROM pairs LIMIT 1) p`,
    )
  const pair = `(SELECT id FROM pairs ORDER BY RAND(s.seq) LIMIT 1)`
  const { caseId, id: fileId } = (await sql.query('SELECT id, caseId FROM case_files LIMIT 1'))[0]
  const more = cases - (await has('cases'))
  if (more > 0) {
    await multiply('cases', caseId, more, {
      pairId: pair,
      part: `CONCAT('Part ', s.seq)`,
      status: `IF(s.seq % 5, 'closed', 'open')`,
      updatedAt: `NOW(3) - INTERVAL s.seq MINUTE`,
    })
    await sql.query(
      `INSERT INTO case_files (id, caseId, name, bytes, sha256, afterAttempt, reading, createdAt, updatedAt, schemaVersion, grams, seconds)
       SELECT UUID(), c.id, f.name, f.bytes, f.sha256, f.afterAttempt, f.reading, c.updatedAt, c.updatedAt, f.schemaVersion, f.grams, f.seconds
       FROM cases c, case_files f WHERE f.id = ? AND NOT EXISTS (SELECT 1 FROM case_files g WHERE g.caseId = c.id)`,
      [fileId],
    )
  }
  const [part] = await sql.query('SELECT id FROM parts ORDER BY LENGTH(plans) DESC LIMIT 1')
  const moreParts = parts - (await has('parts'))
  if (moreParts > 0) await multiply('parts', part.id, moreParts)
  const [trial] = await sql.query('SELECT id FROM trials LIMIT 1')
  const moreTrials = trials - (await has('trials'))
  if (moreTrials > 0) await multiply('trials', trial.id, moreTrials, { pairId: pair, number: '1000 + s.seq' })
}

const LISTS = (pair, machine, roll) => ({
  'cases, first page': 'cases',
  'cases, last page': 'cases?skip=450&limit=50',
  'cases, found by a word': 'cases?search=part+7',
  'cases of a kind of fault': 'cases?family=size&status=open',
  'cases on the bench': 'cases?status=open&limit=24',
  'what worked': 'cases/statistics',
  'lessons of a pair': `cases/lessons?pairId=${pair}`,
  'files of a pair': `cases/files?pairId=${pair}`,
  pairs: 'pairs',
  'a pair': `pairs/${pair}`,
  readiness: 'pairs/readiness',
  rolls: 'filaments',
  machines: 'machines',
  'trials of a pair': `trials?pairId=${pair}`,
  'measurements of a pair': `measurements?machineId=${machine}&pairId=${pair}`,
  parts: 'parts',
  'relatives of a roll': `pairs/relatives?machineId=${machine}&filamentId=${roll}`,
  'prints of a machine': `prints?machineId=${machine}&limit=30`,
  'what was put away': 'removed',
})
const SIZES = [
  { cases: 500, rolls: 30, trials: 200, machines: 6, prints: 200, parts: 20 },
  { cases: 5000, rolls: 300, trials: 2000, machines: 6, prints: 2000, parts: 200 },
]

try {
  const tables = []
  for (const size of SIZES) {
    await fill(size)
    const [{ id: pair, machineId, filamentId: roll }] = await get('pairs')
    const table = {}
    for (const [what, path] of Object.entries(LISTS(pair, machineId, roll))) {
      const laps = []
      let text = ''
      let packed = 0
      for (let i = 0; i < 9; i++) {
        const from = performance.now()
        const response = await fetch(`http://127.0.0.1:${port}/api/${path}`)
        text = await response.text()
        laps.push(performance.now() - from)
        if (!response.ok) throw new Error(`${path}: ${response.status} ${text}`)
      }
      packed = gzipSync(text).length
      table[what] = { ms: middle(laps), kB: text.length / 1000, packed: packed / 1000 }
    }
    const { filament } = (await get('filaments'))[0]
    const laps = []
    for (let n = 0; n < 5; n++) {
      const fresh = { id: crypto.randomUUID(), filament: { ...filament, name: `New ${n}` } }
      await call('POST', 'filaments', fresh)
      const from = performance.now()
      await call('POST', 'pairs', { machineId, filamentId: fresh.id })
      laps.push(performance.now() - from)
    }
    table['a new roll’s pair is made'] = { ms: middle(laps), kB: 0, packed: 0 }
    tables.push(table)
  }
  console.log(
    `\nLists at ${SIZES.map((s) => `${s.cases} cases, ${s.rolls} rolls on ${s.machines} machines, ${s.trials} trials, ${s.prints} prints`).join('; then at ')}`,
  )
  console.log('(aim: under 150 ms and 200 kB sent, which is packed)')
  console.log(
    `${''.padEnd(28)} ${'ms'.padStart(7)} ${'ms'.padStart(7)} ${'growth'.padStart(7)} ${'kB'.padStart(8)} ${'packed'.padStart(8)}`,
  )
  for (const what of Object.keys(tables[0])) {
    const [small, large] = tables.map((t) => t[what])
    console.log(
      `${what.padEnd(28)} ${small.ms.toFixed(1).padStart(7)} ${large.ms.toFixed(1).padStart(7)} ${(large.ms / small.ms).toFixed(1).padStart(6)}× ${large.kB.toFixed(0).padStart(8)} ${large.packed.toFixed(0).padStart(8)}`,
    )
  }

  const { machineId, filamentId } = (await get('pairs'))[0]
  const { filament } = (await get('filaments')).find((f) => f.id === filamentId)
  const pairs = []
  for (let n = 0; n < WRITERS; n++) {
    const roll = { id: crypto.randomUUID(), filament: { ...filament, name: `Roll ${n}` } }
    await call('POST', 'filaments', roll)
    pairs.push(JSON.parse((await call('POST', 'pairs', { machineId, filamentId: roll.id })).text).id)
  }
  const save = async (pair, base) => {
    const from = performance.now()
    const body = { base, set: { nozzle: 200 + base }, reason: 'bench' }
    const { status } = await call('POST', `pairs/${pair}/versions`, body)
    return { status, took: performance.now() - from }
  }
  const alone = []
  for (let n = 0; n < 5; n++) alone.push((await save(pairs[0], n + 1)).took)
  const together = await Promise.all(
    pairs
      .slice(1)
      .concat(pairs[0])
      .map((pair, n) => save(pair, n === WRITERS - 1 ? 6 : 1)),
  )
  const slowest = Math.max(...together.map((t) => t.took))
  const statuses = [...new Set(together.map((t) => t.status))].join(', ')
  line(
    `${WRITERS} saves of ${WRITERS} pairs at once, the slowest (aim: under 2000 ms)`,
    `${slowest.toFixed(0).padStart(9)} ms`,
  )
  line('  beside one alone', `${(slowest / middle(alone)).toFixed(1).padStart(9)} ×`)
  line('  answered with', `${statuses.padStart(9)}`)
} finally {
  await sql.end()
  await stopServer(child)
  await database.stop()
  rmSync(folder, { recursive: true, force: true })
}
