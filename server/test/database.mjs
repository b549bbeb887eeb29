import { execFileSync } from 'node:child_process'
import { cpSync, mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

/** A throw-away MariaDB for the server's tests, the program of its threads, and the demo to begin from. */
export default async function setup() {
  const { startDatabase } = await import('../../scripts/lib/database.mjs')
  const { buildStale } = await import('../../scripts/lib/build.mjs')
  const { root } = await import('../../scripts/lib/run.mjs')
  await buildStale(['server'])
  const folder = mkdtempSync(join(tmpdir(), 'verimend-test-'))
  const database = await startDatabase(folder)
  globalThis.__verimendDatabase = { database, folder }
  Object.assign(process.env, database.env, { VERIMEND_WORKER: join(root, 'server/dist/worker.mjs') })
  process.env.VERIMEND_TEST_DEMO = await demo(folder)
}

/** Fills a database with the demo once, and keeps what is in it as a file: filling takes seconds, reading none. */
async function demo(folder) {
  const { startServer, stopServer } = await import('../../scripts/lib/server.mjs')
  const name = 'verimend_template'
  const access = [
    '--no-defaults',
    '--host=127.0.0.1',
    `--port=${process.env.VERIMEND_DB_PORT}`,
    '--user=verimend',
  ]
  const env = { ...process.env, MYSQL_PWD: process.env.VERIMEND_DB_PASSWORD }
  execFileSync('mariadb', [...access, '-e', `CREATE DATABASE ${name} CHARACTER SET utf8mb4`], { env })
  const files = join(folder, 'template-files')
  const { child } = await startServer({
    program: 'server/dist/main.mjs',
    env: {
      VERIMEND_DB_NAME: name,
      VERIMEND_DEMO: '1',
      VERIMEND_LOG: 'silent',
      VERIMEND_PORT: '0',
      VERIMEND_FILES: files,
    },
  })
  await stopServer(child)
  const kept = join(folder, 'demo')
  cpSync(files, join(kept, 'files'), { recursive: true })
  const rows = execFileSync('mariadb-dump', [...access, '--no-tablespaces', name], {
    env,
    maxBuffer: 1 << 28,
  })
  writeFileSync(join(kept, 'rows.sql'), rows)
  return kept
}
