// The running application under much of everything: long lists and many who save at once.
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createConnection } from 'mariadb'
import { buildStale } from '../lib/build.mjs'
import { needDebian } from '../lib/run.mjs'
import { startDatabase } from '../lib/database.mjs'
import { startServer, stopServer } from '../lib/server.mjs'

const CASES = 500
const FILES = 3
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

/** Copies rows of a table with another id, and what else is given. */
async function copyRow(table, id, instead) {
  const columns = (
    await sql.query(
      'SELECT column_name AS name FROM information_schema.columns WHERE table_schema = DATABASE() AND table_name = ?',
      [table],
    )
  ).map((c) => c.name)
  const taken = columns.map((c) => (c in instead ? '?' : `\`${c}\``))
  const values = columns.filter((c) => c in instead).map((c) => instead[c])
  await sql.query(
    `INSERT INTO \`${table}\` (${columns.map((c) => `\`${c}\``).join(', ')}) SELECT ${taken.join(', ')} FROM \`${table}\` WHERE id = ?`,
    [...values, id],
  )
}

/** Bytes the database has sent to all who asked, so far. */
const sent = async () => Number((await sql.query("SHOW GLOBAL STATUS LIKE 'Bytes_sent'"))[0].Value)

try {
  console.log(`\nThe application: ${CASES} cases of ${FILES} files`)
  const { caseId, id: fileId } = (await sql.query('SELECT id, caseId FROM case_files LIMIT 1'))[0]
  for (let n = 0; n < CASES; n++) {
    const copy = crypto.randomUUID()
    await copyRow('cases', caseId, { id: copy })
    for (let f = 0; f < FILES; f++)
      await copyRow('case_files', fileId, { id: crypto.randomUUID(), caseId: copy })
  }
  const lap = async (path) => {
    const from = performance.now()
    await call('GET', path)
    return performance.now() - from
  }
  for (let i = 0; i < 5; i++) await lap('cases')
  const idle = await sent()
  const measuring = (await sent()) - idle
  const before = await sent()
  const { text } = await call('GET', 'cases')
  const read = (await sent()) - before - measuring
  // turn by turn with the smallest answer there is
  const turns = []
  for (let i = 0; i < 15; i++) turns.push({ small: await lap('health'), all: await lap('cases') })
  line(
    'GET /api/cases (aim: under 100 ms)',
    `${middle(turns.map((t) => t.all))
      .toFixed(1)
      .padStart(9)} ms`,
  )
  line(
    '  beside GET /api/health',
    `${middle(turns.map((t) => t.all / t.small))
      .toFixed(0)
      .padStart(9)} ×`,
  )
  line('  answered', `${(text.length / 1e6).toFixed(2).padStart(9)} MB`)
  line('  read of the database (aim: under 2 MB)', `${(read / 1e6).toFixed(2).padStart(9)} MB`)

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
