import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

/** A throw-away MariaDB for the server's tests. */
export default async function setup() {
  const { startDatabase } = await import('../../scripts/lib/database.mjs')
  const folder = mkdtempSync(join(tmpdir(), 'verimend-test-'))
  const database = await startDatabase(folder)
  globalThis.__verimendDatabase = { database, folder }
  Object.assign(process.env, database.env)
  writeFileSync(join(folder, 'for-tests'), '')
}
