import { createHash, randomUUID } from 'node:crypto'
import {
  createReadStream,
  createWriteStream,
  existsSync,
  readdirSync,
  statSync,
  type ReadStream,
} from 'node:fs'
import { mkdir, open, rename, rm } from 'node:fs/promises'
import { dirname, join, relative } from 'node:path'
import { Transform, type Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { createGunzip, createGzip } from 'node:zlib'
import { manifest as manifestOf, type Manifest } from '@verimend/contract'
import { QueryTypes, type Sequelize } from 'sequelize'
import { extract, pack, type Pack } from 'tar-stream'
import { blobsInUse, FILES_LOCK } from '../blobs/inUse'
import type { Config } from '../config'
import { dumpSql } from '../database/dump'
import { SqlGate } from '../database/sqlGate'
import { besidePath, fingerprintOf, layBeside, listPath, writeList } from './store'

/** Names that entries of a backup have: nothing leads out of the folder it is restored into. */
const DATABASE = 'database.sql'
const MANIFEST = 'manifest.json'
const KEPT = /^files\/([0-9a-f]{64})$/
const SIMULATED = /^standin\/(?:[\w-]+\/)*[\w-][\w.-]*$/
/** Longest manifest that is read, bytes. */
const LONGEST_MANIFEST = 64e6

/** A backup that cannot be used, in a sentence. */
export class BackupError extends Error {}

type Place = Pick<Config, 'database' | 'files'>
/** Folder of what the simulated machines keep, beside that of the kept files. */
export const standinFolder = ({ files }: Pick<Config, 'files'>) => join(files, '..', 'standin')

/** Every file in a folder and below it. */
function filesBelow(folder: string): string[] {
  if (!existsSync(folder)) return []
  return readdirSync(folder, { withFileTypes: true, recursive: true })
    .filter((e) => e.isFile())
    .map((e) => join(e.parentPath, e.name))
}

/** Passes bytes on and makes their fingerprint. */
function hashing(): Transform & { sha256: () => string } {
  const hash = createHash('sha256')
  const stream = new Transform({
    transform(chunk: Buffer, _, done) {
      hash.update(chunk)
      done(null, chunk)
    },
  })
  return Object.assign(stream, { sha256: () => hash.digest('hex') })
}

/** Whether a kept file is there and is what its name says; one that is ruined is laid aside, so that it can be sent again. */
async function isWhole(path: string, sha256: string): Promise<boolean> {
  if (!existsSync(path)) return false
  if ((await fingerprintOf(path)) === sha256) return true
  const ruined = join(dirname(path), '..', 'ruined')
  await mkdir(ruined, { recursive: true, mode: 0o700 })
  await rename(path, join(ruined, sha256))
  return false
}

async function put(into: Pack, name: string, path: string) {
  const { size } = statSync(path)
  const hash = hashing()
  // what grows while it is read is taken as long as it was
  const source: ReadStream = createReadStream(path, size ? { end: size - 1 } : {})
  await pipeline(source, hash, into.entry({ name, size, mode: 0o600 }))
  return { name, bytes: size, sha256: hash.sha256() }
}

/**
 * Writes all that is kept into one file: the database as it is at one moment, every kept file it names, and what the simulated
 * machines keep; at the end what it holds, with fingerprints. Nothing half-written takes the name.
 * @param target the file
 * @param beside whether kept files are laid beside it, where other backups have them too
 * @throws Error when there is no room, or the database cannot be read; nothing is left behind
 */
export async function writeBackup(
  config: Place,
  sequelize: Sequelize,
  target: string,
  beside = false,
): Promise<Manifest> {
  await mkdir(dirname(target), { recursive: true, mode: 0o700 })
  const part = `${target}.part-${randomUUID().slice(0, 8)}`
  const dump = `${part}.sql`
  try {
    return await holdingFiles(sequelize, async () => {
      const tables = await sequelize.query<object>('SHOW TABLES', { type: QueryTypes.SELECT })
      const there = new Set(tables.map((t) => String(Object.values(t)[0])))
      const has = (table: string) => there.has(table)
      const before = await blobsInUse(sequelize, has)
      await dumpSql(config.database, createWriteStream(dump, { mode: 0o600 }))
      const after = await blobsInUse(sequelize, has)
      const migrations = has('migrations')
        ? await sequelize.query<{ name: string }>('SELECT name FROM migrations ORDER BY name', {
            type: QueryTypes.SELECT,
          })
        : []
      const into = pack()
      const file = await open(part, 'wx', 0o600)
      const packed = pipeline(into, createGzip({ level: 6 }), file.createWriteStream({ flush: true }))
      // told by whoever waits for it below
      packed.catch(() => undefined)
      const made: Manifest = {
        format: 'verimend-backup',
        version: beside ? 2 : 1,
        madeAt: new Date().toISOString(),
        migrations: migrations.map((m) => m.name),
        database: { bytes: 0, sha256: '' },
        files: [],
        beside: [],
        missing: [],
      }
      try {
        const { bytes, sha256 } = await put(into, DATABASE, dump)
        made.database = { bytes, sha256 }
        for (const sha of [...new Set([...before.all, ...after.all])].sort()) {
          const path = join(config.files, sha.slice(0, 2), sha)
          if (await isWhole(path, sha)) {
            const name = `files/${sha}`
            if (beside) {
              await layBeside(target, path, sha)
              made.beside.push({ name, bytes: statSync(path).size, sha256: sha })
            } else made.files.push(await put(into, name, path))
          } else if (before.must.has(sha)) made.missing.push(sha)
        }
        const simulated = standinFolder(config)
        for (const path of filesBelow(simulated)) {
          const name = `standin/${relative(simulated, path)}`
          // one that is being written this moment may be gone again
          if (SIMULATED.test(name) && !name.endsWith('.part') && existsSync(path))
            made.files.push(await put(into, name, path))
        }
        into.entry({ name: MANIFEST, mode: 0o600 }, JSON.stringify(made))
        into.finalize()
        await packed
      } catch (error) {
        into.destroy(error as Error)
        await packed.catch(() => undefined)
        throw error
      }
      if (beside)
        await writeList(
          target,
          made.beside.map(({ sha256 }) => sha256),
        )
      await rename(part, target)
      return made
    })
  } finally {
    await rm(part, { force: true })
    await rm(dump, { force: true })
  }
}

/** Does work while nothing clears away kept files: neither here nor in another process. */
async function holdingFiles<T>(sequelize: Sequelize, work: () => Promise<T>): Promise<T> {
  // the lock hangs on a connection of its own; a transaction keeps that one
  const held = await sequelize.transaction()
  try {
    const [{ got }] = await sequelize.query<{ got: number }>(`SELECT GET_LOCK(${FILES_LOCK}, 600) AS got`, {
      type: QueryTypes.SELECT,
      transaction: held,
    })
    if (Number(got) !== 1) throw new BackupError('Another backup is being made; try again when it is done.')
    return await work()
  } finally {
    await sequelize.query(`DO RELEASE_LOCK(${FILES_LOCK})`, { transaction: held }).catch(() => undefined)
    await held.rollback().catch(() => undefined)
  }
}

/** Reads a backup through to its end, entry by entry. @throws BackupError when it is none or is damaged */
async function readThrough(
  path: string,
  take: (name: string, body: Readable, size: number) => Promise<void>,
): Promise<void> {
  const entries = extract()
  const reading = pipeline(createReadStream(path), createGunzip(), entries)
  reading.catch(() => undefined)
  try {
    for await (const entry of entries) {
      await take(entry.header.name, entry as unknown as Readable, entry.header.size ?? 0)
      entry.resume()
    }
    await reading
  } catch (error) {
    if (error instanceof BackupError) throw error
    const { code, message } = error as NodeJS.ErrnoException
    if (code === 'ENOENT') throw new BackupError(`There is no file ${path}.`)
    if (code === 'Z_DATA_ERROR' && /incorrect header/.test(message))
      throw new BackupError('This is no backup of Verimend.')
    if (code?.startsWith('Z_') || /tar|end of data|Unexpected end/i.test(message))
      throw new BackupError('This backup is damaged or cut short. Nothing was restored.')
    throw error
  }
}

async function textOf(body: Readable, size: number): Promise<string> {
  if (size > LONGEST_MANIFEST) throw new BackupError('This is no backup of Verimend.')
  const chunks: Buffer[] = []
  for await (const chunk of body) chunks.push(chunk as Buffer)
  return Buffer.concat(chunks).toString()
}

/** Holds what was read against what the backup says of itself. */
class Checked {
  private readonly found = new Map<string, { bytes: number; sha256: string }>()
  private foreign: Error | null = null
  private readonly entered = new Set<string>()
  private told: Manifest | null = null

  /** @throws BackupError for a name that was there before: what is checked has to be what is taken out */
  enter(name: string): void {
    if (this.entered.has(name))
      throw new BackupError(`This backup holds ${name} twice. Nothing was restored.`)
    this.entered.add(name)
  }
  note(name: string, bytes: number, sha256: string): void {
    this.found.set(name, { bytes, sha256 })
  }
  /** What stands in the database is not what we put there; a damaged backup is told as such first. */
  refuse(error: Error): void {
    this.foreign ??= error
  }
  tell(text: string): void {
    let parsed
    try {
      parsed = manifestOf.safeParse(JSON.parse(text))
    } catch {
      throw new BackupError('This is no backup of Verimend.')
    }
    if (!parsed.success)
      throw new BackupError(parsed.error.issues[0]?.message ?? 'This is no backup of Verimend.')
    this.told = parsed.data
  }
  /** @throws BackupError when something is missing or is not what was put in */
  done(): Manifest {
    const told = this.told
    if (!told)
      throw new BackupError(
        this.found.has(DATABASE)
          ? 'This backup is damaged or cut short. Nothing was restored.'
          : 'This is no backup of Verimend.',
      )
    for (const { name, bytes, sha256 } of [{ name: DATABASE, ...told.database }, ...told.files]) {
      const has = this.found.get(name)
      if (!has || has.bytes !== bytes || has.sha256 !== sha256)
        throw new BackupError(`This backup is damaged: ${name} is not as it was. Nothing was restored.`)
    }
    if (told.beside.some(({ name, sha256 }) => KEPT.exec(name)?.[1] !== sha256))
      throw new BackupError('This is no backup of Verimend.')
    const listed = new Set([DATABASE, ...told.files.map(({ name }) => name)])
    const unlisted = [...this.found.keys()].find((name) => !listed.has(name))
    if (unlisted)
      throw new BackupError(`This backup holds ${unlisted}, which it does not list. Nothing was restored.`)
    if (this.foreign)
      throw new BackupError(
        `The database in this backup holds more than tables of Verimend (${this.foreign.message}). Nothing was restored.`,
      )
    return told
  }
}

/**
 * Checks a backup from its beginning to its end.
 * @returns what it holds
 * @throws BackupError that says in a sentence why it cannot be used
 */
export async function checkBackup(path: string): Promise<Manifest> {
  const checked = new Checked()
  await readThrough(path, async (name, body, size) => {
    checked.enter(name)
    if (name === MANIFEST) return checked.tell(await textOf(body, size))
    if (name !== DATABASE && !KEPT.test(name) && !SIMULATED.test(name))
      throw new BackupError('This is no backup of Verimend.')
    const hash = createHash('sha256')
    let bytes = 0
    const gate = name === DATABASE ? new SqlGate() : null
    gate?.on('error', (error) => checked.refuse(error)).resume()
    for await (const chunk of body) {
      hash.update(chunk as Buffer)
      bytes += (chunk as Buffer).length
      if (gate && !gate.destroyed) gate.write(chunk)
    }
    if (gate && !gate.destroyed) await new Promise((resolve) => gate.once('close', resolve).end())
    checked.note(name, bytes, hash.digest('hex'))
  })
  const made = checked.done()
  await refuseAlone(path, made)
  return made
}

/** @throws BackupError where a backup has been taken away from what it holds beside itself, or that is not as it was */
async function refuseAlone(path: string, { beside }: Manifest): Promise<void> {
  const gone = beside.filter(({ sha256 }) => !existsSync(besidePath(path, sha256))).length
  if (gone)
    throw new BackupError(
      `${gone} of ${beside.length} files of this backup are not beside it: they lie in the folder “store” where it was made. Fetch it in the storeroom, which gives it whole, or copy that folder as well. Nothing was restored.`,
    )
  for (const { name, sha256 } of beside)
    if ((await fingerprintOf(besidePath(path, sha256))) !== sha256)
      throw new BackupError(`This backup is damaged: ${name} is not as it was. Nothing was restored.`)
}

/** What a backup holds beside itself, as it says. */
export async function besideOf(path: string): Promise<string[]> {
  let names: string[] = []
  await readThrough(path, async (name, body, size) => {
    if (name !== MANIFEST) return
    const told = manifestOf.safeParse(JSON.parse(await textOf(body, size)))
    if (told.success) names = told.data.beside.map(({ sha256 }) => sha256)
  })
  return names
}

/** A backup with all that it holds beside itself in it, to be carried away. */
export function wholeBackup(path: string): Readable {
  const into = pack()
  const out = createGzip({ level: 6 })
  const fill = async () => {
    await readThrough(path, async (name, body, size) => {
      if (name !== MANIFEST) return void (await pipeline(body, into.entry({ name, size, mode: 0o600 })))
      const told = manifestOf.parse(JSON.parse(await textOf(body, size)))
      for (const file of told.beside) await put(into, file.name, besidePath(path, file.sha256))
      const { beside, ...rest } = told
      const whole = { ...rest, version: 1, files: [...told.files, ...beside] }
      into.entry({ name: MANIFEST, mode: 0o600 }, JSON.stringify(whole))
    })
    into.finalize()
  }
  pipeline(into, out).catch(() => undefined)
  fill().catch((error: unknown) => out.destroy(error as Error))
  return out
}

/** Whether a backup holds something beside itself. */
export const hasBeside = (path: string): boolean => existsSync(listPath(path))

/**
 * Takes everything out of a backup that was checked.
 * @param sql is given the database
 * @param manifest what it was found to hold
 * @param place where a kept file, or one of the simulated machines, is written to
 */
export async function unpackBackup(
  path: string,
  { beside }: Manifest,
  sql: (body: Readable) => Promise<void>,
  place: (file: { kept: string } | { simulated: string }) => string,
): Promise<void> {
  const write = async (name: string, body: Readable) => {
    const kept = KEPT.exec(name)
    const to = place(kept ? { kept: kept[1] } : { simulated: name.slice('standin/'.length) })
    await mkdir(dirname(to), { recursive: true, mode: 0o700 })
    const hash = hashing()
    await pipeline(body, hash, createWriteStream(to, { mode: 0o600, flush: true }))
    if (kept && hash.sha256() !== kept[1])
      throw new BackupError(`${name} could not be written as it was. Is the disk in order?`)
  }
  await readThrough(path, async (name, body) => {
    if (name === MANIFEST) return
    return name === DATABASE ? sql(body) : write(name, body)
  })
  for (const { name, sha256 } of beside) await write(name, createReadStream(besidePath(path, sha256)))
}
