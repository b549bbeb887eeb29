import { spawn } from 'node:child_process'
import { createReadStream, createWriteStream, mkdirSync, readdirSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import type { Readable, Writable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { createGunzip, createGzip } from 'node:zlib'
import type { DatabaseAccess as Access } from '../config'
import { SqlGate } from './sqlGate'

/** Dumps that are kept; older ones are cleared away. */
const KEPT = 5

const client = ({ host, port, user, password, tls }: Access, program: string, given: string[]) =>
  spawn(
    program,
    [
      '--no-defaults',
      `--host=${host}`,
      `--port=${port}`,
      `--user=${user}`,
      ...(tls ? ['--ssl', ...(tls.ca ? [`--ssl-ca=${tls.ca}`] : [])] : []),
      ...(tls?.verify ? ['--ssl-verify-server-cert'] : []),
      ...given,
    ],
    { stdio: ['pipe', 'pipe', 'pipe'], env: { ...process.env, MYSQL_PWD: password } },
  )

/** Waits for a program to end well. @throws Error with what it said */
function ended(program: string, child: ReturnType<typeof client>): Promise<void> {
  let said = ''
  child.stderr.on('data', (d: Buffer) => (said += d.toString()))
  return new Promise((resolve, reject) => {
    child.on('error', (error) => reject(new Error(`${program} cannot be started: ${error.message}`)))
    child.on('exit', (code) => (code === 0 ? resolve() : reject(new Error(`${program}: ${said.trim()}`))))
  })
}

/**
 * Writes the whole database, as it is at one moment, as SQL: the same rows always as the same text.
 * @throws Error when `mariadb-dump` is missing or fails
 */
export async function dumpSql(access: Access, to: Writable): Promise<void> {
  const child = client(access, 'mariadb-dump', [
    '--single-transaction',
    '--skip-comments',
    '--order-by-primary',
    '--no-tablespaces',
    '--hex-blob',
    access.name,
  ])
  child.stdin.end()
  await Promise.all([pipeline(child.stdout, to), ended('mariadb-dump', child)])
}

/**
 * Writes the whole database to a packed file of SQL.
 * @returns where it lies
 * @throws Error when `mariadb-dump` is missing or fails; nothing half-written is left
 */
export async function dumpDatabase(access: Access, folder: string, why: string): Promise<string> {
  mkdirSync(folder, { recursive: true, mode: 0o700 })
  const file = join(folder, `${new Date().toISOString().replace(/[:.]/g, '-')}-${why}.sql.gz`)
  const packing = createGzip()
  const packed = pipeline(packing, createWriteStream(file, { mode: 0o600 }))
  packed.catch(() => undefined)
  try {
    await Promise.all([dumpSql(access, packing), packed])
  } catch (error) {
    rmSync(file, { force: true })
    throw error
  }
  for (const old of readdirSync(folder).sort().slice(0, -KEPT)) rmSync(join(folder, old), { force: true })
  return file
}

/**
 * Puts a database back as a dump has it.
 * @param tables those that are there now: all are taken away first, so that none stays that the dump does not know
 */
export function restoreDatabase(access: Access, file: string, tables: readonly string[]): Promise<void> {
  const sql = createGunzip()
  // where it cannot be read, whoever takes it is told
  pipeline(createReadStream(file), sql).catch(() => undefined)
  return loadSql(access, sql, tables)
}

/**
 * The same from SQL that is at hand. Only statements of a dump of tables reach the client, which obeys nothing that reaches
 * for files or for a shell.
 * @throws ForeignSql for any other statement
 */
export async function loadSql(access: Access, sql: Readable, tables: readonly string[]): Promise<void> {
  const child = client(access, 'mariadb', ['--sandbox', '--binary-mode', access.name])
  child.stdout.resume()
  const done = ended('mariadb', child)
  child.stdin.write('SET FOREIGN_KEY_CHECKS=0;\n')
  for (const table of tables) child.stdin.write(`DROP TABLE IF EXISTS \`${table}\`;\n`)
  await Promise.all([pipeline(sql, new SqlGate(), child.stdin), done])
}
