import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

/** A throw-away MariaDB for the server's tests, and the program of its threads. */
export default async function setup() {
  const { startDatabase } = await import('../../scripts/lib/database.mjs')
  const { buildStale } = await import('../../scripts/lib/build.mjs')
  const { root } = await import('../../scripts/lib/run.mjs')
  await buildStale(['server'])
  const folder = mkdtempSync(join(tmpdir(), 'verimend-test-'))
  const database = await startDatabase(folder)
  globalThis.__verimendDatabase = { database, folder }
  Object.assign(process.env, database.env, { VERIMEND_WORKER: join(root, 'server/dist/worker.mjs') })
  writeFileSync(join(folder, 'for-tests'), '')
}
