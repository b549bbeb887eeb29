import { createHash } from 'node:crypto'
import {
  copyFileSync,
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  truncateSync,
  utimesSync,
  writeFileSync,
} from 'node:fs'
import fsPromises from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import { gunzipSync, gzipSync } from 'node:zlib'
import type { CasePage, KeptBackup, KeptBackups, PairSummary } from '@verimend/contract'
import fc from 'fast-check'
import { extract, pack, type Pack } from 'tar-stream'
import { besideOf, BackupError, checkBackup, writeBackup } from '../src/backup/archive'
import { BackupsService } from '../src/backup/backups.service'
import { restoreBackup } from '../src/backup/restore'
import { DAYS, outlived, WEEKS } from '../src/backup/rotation'
import { sweepStore } from '../src/backup/store'
import { QueryTypes } from 'sequelize'
import { Database } from '../src/database/database.module'
import { loadSql, restoreDatabase } from '../src/database/dump'
import { SqlGate } from '../src/database/sqlGate'
import { tries } from '../../core/test/lib/property'
import { TestApp } from './harness'

const folder = mkdtempSync(join(tmpdir(), 'verimend-backup-'))
const app = new TestApp('backup', true)
beforeAll(() => app.start())
afterAll(async () => {
  await app.stop()
  rmSync(folder, { recursive: true, force: true })
})
const sequelizeOf = (of: TestApp) => of.app.get(Database).sequelize
/** An application whose database is there and empty. */
async function blank(name: string): Promise<{ other: TestApp; database: Database }> {
  const other = new TestApp(name)
  await other.createDatabase()
  return { other, database: new Database(other.config) }
}
/** An archive, whole and packed. */
async function gathered(of: Pack): Promise<Buffer> {
  of.finalize()
  const out: Buffer[] = []
  for await (const chunk of of) out.push(chunk as Buffer)
  return gzipSync(Buffer.concat(out))
}
const kept = (of: TestApp) =>
  Object.fromEntries(
    readdirSync(of.files, { recursive: true, withFileTypes: true })
      .filter((e) => e.isFile() && /^[0-9a-f]{64}$/.test(e.name))
      .map((e) => [e.name, readFileSync(join(e.parentPath, e.name)).toString('base64')]),
  )

// what has a database of its own comes later: the tables’ models are those of the last one that was opened
test('asked for, listed, fetched, taken away; and no other file can be had', async () => {
  const made = (await app.post('backups')).body as KeptBackup
  const { list, daily } = (await app.get('backups')).body as KeptBackups
  expect([list, daily]).toEqual([[made], true])
  const response = await fetch(`http://127.0.0.1:${app.port}/api/backups/${made.name}`)
  expect(response.headers.get('content-disposition')).toContain(made.name)
  const file = join(folder, 'fetched.tar.gz')
  writeFileSync(file, Buffer.from(await response.arrayBuffer()))
  await checkBackup(file)
  for (const name of [
    '..%2Fserver.log',
    '..%2f..%2fetc%2fpasswd',
    'other.tar.gz',
    made.name.replace('20', '21'),
  ])
    expect((await app.get(`backups/${name}`)).status).toBeGreaterThanOrEqual(400)
  expect(((await app.remove(`backups/${made.name}`)).body as KeptBackups).list).toEqual([])
  expect((await app.remove(`backups/${made.name}`)).status).toBe(404)
})

test('one a day of its own accord, unless it is switched off', async () => {
  const backups = app.app.get(BackupsService)
  await backups.daily()
  await backups.daily()
  const now = async () => ((await app.get('backups')).body as KeptBackups).list
  expect((await now()).map((b) => b.name)).toEqual([expect.stringMatching(/-daily\.tar\.gz$/)])
  await app.remove(`backups/${(await now())[0].name}`)
  expect((await app.put('backups/daily', { daily: false })).body.daily).toBe(false)
  await backups.daily()
  expect(await now()).toEqual([])
  expect((await app.put('backups/daily', { daily: true })).body.daily).toBe(true)
})

test('those of each day share their files; fetched one is whole, and what no day holds any more goes', async () => {
  const backups = app.app.get(BackupsService)
  const place = join(app.files, '..', 'backups')
  const kept = (of: string) =>
    readdirSync(join(place, of), { recursive: true, withFileTypes: true }).filter((e) => e.isFile())
  await backups.daily()
  const [{ name, bytes }] = ((await app.get('backups')).body as KeptBackups).list
  const daily = join(place, name)
  const held = await checkBackup(daily)
  expect(held.files.filter((f) => f.name.startsWith('files/'))).toEqual([])
  expect(held.beside.length).toBeGreaterThan(0)
  const stored = kept('store').length
  expect(stored).toBe(held.beside.length)
  // another day: the same files once
  const yesterday = name.replace(/\d{4}-\d\d-\d\d/, '2026-01-01')
  renameSync(daily, join(place, yesterday))
  renameSync(`${daily}.list`, `${join(place, yesterday)}.list`)
  await backups.daily()
  expect(kept('store')).toHaveLength(stored)
  // carried away it is whole
  const response = await fetch(`http://127.0.0.1:${app.port}/api/backups/${yesterday}`)
  const carried = join(folder, 'carried.tar.gz')
  writeFileSync(carried, Buffer.from(await response.arrayBuffer()))
  const whole = await checkBackup(carried)
  expect([whole.version, whole.beside]).toEqual([1, []])
  expect(whole.files.map((f) => f.name)).toEqual(
    expect.arrayContaining(held.beside.map(({ name: file }) => file)),
  )
  expect(statSync(carried).size).toBeGreaterThan(bytes)
  // alone it says what is missing, and damaged that it is
  const alone = join(folder, 'alone.tar.gz')
  copyFileSync(join(place, yesterday), alone)
  await expect(checkBackup(alone)).rejects.toThrow(/lie in the folder “store” where it was made/)
  cpSync(join(place, 'store'), join(folder, 'store'), { recursive: true })
  await checkBackup(alone)
  const [one] = held.beside
  writeFileSync(join(folder, 'store', one.sha256.slice(0, 2), one.sha256), 'other')
  await expect(checkBackup(alone)).rejects.toThrow(/damaged: files\//)
  // with both days gone their files go as well, but not while one may be in the making
  for (const { name: n } of ((await app.get('backups')).body as KeptBackups).list)
    await app.remove(`backups/${n}`)
  await sweepStore(place, besideOf)
  expect(kept('store')).toHaveLength(stored)
  jest.spyOn(Date, 'now').mockReturnValue(Date.now() + 2 * 3600_000)
  await sweepStore(place, besideOf)
  jest.restoreAllMocks()
  expect(kept('store')).toEqual([])
})

test('what a killed backup has left is cleared away once nobody writes it any more', async () => {
  const folder = join(app.files, '..', 'backups')
  mkdirSync(folder, { recursive: true })
  const [old, fresh, own] = ['a.tar.gz.part-0a1b2c3d', 'b.tar.gz.part-0a1b2c3d.sql', 'notes.txt'].map((n) =>
    join(folder, n),
  )
  for (const path of [old, fresh, own]) writeFileSync(path, 'x')
  const then = new Date(Date.now() - 2 * 3600_000)
  for (const path of [old, own]) utimesSync(path, then, then)
  await app.app.get(BackupsService).daily()
  expect([old, fresh, own].map((path) => existsSync(path))).toEqual([false, true, true])
  rmSync(fresh)
  rmSync(own)
  await app.remove(`backups/${((await app.get('backups')).body as KeptBackups).list[0].name}`)
})

test('with too little room none is begun of its own accord, and that is said; one that is asked for is tried', async () => {
  const backups = app.app.get(BackupsService)
  const full = jest.spyOn(fsPromises, 'statfs').mockResolvedValue({ bavail: 100, bsize: 4096 } as never)
  await expect(backups.daily()).rejects.toThrow(/too few for today’s backup/)
  const { failed, list } = (await app.get('backups')).body as KeptBackups
  expect([failed, list]).toEqual([expect.stringContaining('Make room'), []])
  full.mockRestore()
  await backups.daily()
  const now = (await app.get('backups')).body as KeptBackups
  expect([now.failed, now.list.length]).toEqual([null, 1])
  await app.remove(`backups/${now.list[0].name}`)
})

test('made while everybody writes, it holds all that was confirmed before, and is restored row by row, file by file', async () => {
  const [{ id: pairId }] = (await app.get('pairs')).body as PairSummary[]
  const confirmed: string[] = []
  let stop = false
  const write = async (who: number) => {
    for (let n = 0; !stop; n++) {
      const { status, body } = await app.post('cases', { pairId, part: `Part ${who}/${n}` })
      if (status === 201) confirmed.push(body.id)
      await app.put(`cases/${body.id}/signs/strings-thin`, { state: 'present' })
    }
  }
  const writers = [0, 1, 2, 3].map(write)
  while (confirmed.length < 10) await new Promise((r) => setTimeout(r, 20))
  const before = [...confirmed]
  const file = join(folder, 'busy.tar.gz')
  const made = await writeBackup(app.config, sequelizeOf(app), file)
  stop = true
  await Promise.all(writers)
  expect(confirmed.length).toBeGreaterThan(before.length)

  const { other, database } = await blank('backup_into')
  // compares the database with the backup's, byte by byte
  await restoreBackup(other.config, database.sequelize, file)
  expect(kept(other)).toEqual(kept(app))
  await database.onApplicationShutdown()
  await other.start()
  const { cases } = (await other.get('cases?limit=200')).body as CasePage
  const ids = new Set(cases.map((c) => c.id))
  for (const id of before) expect(ids.has(id)).toBe(true)
  expect(made.migrations.length).toBeGreaterThan(10)
  // one that holds something already is not written over
  await expect(restoreBackup(other.config, sequelizeOf(other), file)).rejects.toThrow(
    /machines and rolls in this data folder already/,
  )
  await other.stop()
})

test('from an older version it is restored as it was, and brought up to date at the start', async () => {
  const { other: old, database } = await blank('backup_old')
  await restoreDatabase(old.access, join(__dirname, 'fixtures', 'stored-rows-1.sql.gz'), [])
  const file = join(folder, 'old.tar.gz')
  const { migrations } = await writeBackup(old.config, database.sequelize, file)
  await database.onApplicationShutdown()
  const { other, database: into } = await blank('backup_old_into')
  await restoreBackup(other.config, into.sequelize, file)
  expect(migrations).toEqual(migrations.filter((m) => m < '0007'))
  await into.onApplicationShutdown()
  await other.start()
  const { total, cases } = (await other.get('cases')).body as CasePage
  expect(total).toBeGreaterThan(0)
  expect((await other.get(`cases/${cases[0].id}`)).status).toBe(200)
  await other.stop()
  await old.stop()
})

describe('what is no backup, or not whole', () => {
  const whole = join(folder, 'whole.tar.gz')
  const bad = join(folder, 'bad.tar.gz')
  let bytes: Buffer
  beforeAll(async () => {
    await writeBackup(app.config, sequelizeOf(app), whole)
    bytes = readFileSync(whole)
  })
  const refusal = async () => {
    try {
      await checkBackup(bad)
    } catch (error) {
      if (error instanceof BackupError) return error.message
      throw error
    }
    return 'taken'
  }
  /** The backup's entries, changed; `added` come first. */
  async function remade(
    change: (name: string, body: Buffer) => Buffer | null,
    added: Record<string, string> = {},
  ): Promise<void> {
    const from = extract()
    const to = pack()
    for (const [name, body] of Object.entries(added)) to.entry({ name }, body)
    from.end(gunzipSync(bytes))
    for await (const entry of from) {
      const chunks: Buffer[] = []
      for await (const chunk of entry) chunks.push(chunk as Buffer)
      const changed = change(entry.header.name, Buffer.concat(chunks))
      if (changed) to.entry({ name: entry.header.name }, changed)
    }
    writeFileSync(bad, await gathered(to))
  }
  const manifest = (change: object) =>
    remade((name, body) =>
      name === 'manifest.json'
        ? Buffer.from(JSON.stringify({ ...JSON.parse(body.toString()), ...change }))
        : body,
    )

  test('cut short anywhere, or with a byte changed anywhere, it is told from a whole one', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.nat(bytes.length - 1),
        fc.boolean(),
        fc.integer({ min: 1, max: 255 }),
        async (at, cut, by) => {
          writeFileSync(bad, bytes)
          if (cut) truncateSync(bad, at)
          else {
            const changed = Buffer.from(bytes)
            changed[at] ^= by
            writeFileSync(bad, changed)
          }
          const said = await refusal()
          // a byte in the head of the packing, which nothing hangs on, may be any
          if (!cut && at < 10 && said === 'taken') return
          expect(said).toMatch(/^This (backup is damaged|is no backup)/)
        },
      ),
      tries(40),
    )
  })

  test.each([
    ['something else', () => writeFileSync(bad, 'G28\nG1 X1\n'), /no backup/],
    ['nothing', () => writeFileSync(bad, ''), /damaged or cut short|no backup/],
    [
      'another archive',
      () => remade((name, body) => (name === 'manifest.json' ? null : body)),
      /damaged or cut short/,
    ],
    [
      'a file less',
      () => remade((name, body) => (name.startsWith('files/') ? null : body)),
      /files\/[0-9a-f]+ is not as it was/,
    ],
    [
      'another file',
      () => remade((name, body) => (name.startsWith('files/') ? Buffer.from('x') : body)),
      /is not as it was/,
    ],
    ['another format', () => manifest({ format: 'other' }), /no backup of Verimend/],
    ['a newer format', () => manifest({ version: 3 }), /made by a newer Verimend/],
    [
      'a manifest of words',
      () => remade((n, body) => (n === 'manifest.json' ? Buffer.from('none') : body)),
      /no backup/,
    ],
  ])('%s', async (_, make, said) => {
    await make()
    expect(await refusal()).toMatch(said)
  })

  /** The backup with other SQL in it, listed as it should be. */
  async function withSql(change: (sql: string) => string): Promise<void> {
    let sql: Buffer = Buffer.alloc(0)
    await remade((name, body) => {
      if (name === 'database.sql') return (sql = Buffer.from(change(body.toString('latin1')), 'latin1'))
      if (name !== 'manifest.json') return body
      const database = { bytes: sql.length, sha256: createHash('sha256').update(sql).digest('hex') }
      return Buffer.from(JSON.stringify({ ...JSON.parse(body.toString()), database }))
    })
  }
  const trace = join(folder, 'trace')
  test.each([
    ['a word to the client that opens a shell', `\\! touch ${trace}\n`],
    ['the same by its name', `system touch ${trace}\n`],
    ['a file that is read as SQL', `source ${trace}\n`],
    ['another end of a statement', 'delimiter //\n'],
    ['what goes to a file', `tee ${trace}\n`],
    ['what goes through a program', `pager touch ${trace}\n`],
    ['another schema', 'CREATE DATABASE other;\n'],
    ['another schema in use', 'USE mysql;\n'],
    ['a table of another schema', 'INSERT INTO `mysql`.`user` VALUES (1);\n'],
    ['an account', "CREATE USER 'x'@'localhost' IDENTIFIED BY 'y';\n"],
    ['rights', "GRANT ALL ON *.* TO 'verimend'@'localhost';\n"],
    ['a trigger', 'CREATE TRIGGER t BEFORE INSERT ON `machines` FOR EACH ROW SET @a = 1;\n'],
    [
      'a trigger in a comment',
      '/*!50003 CREATE TRIGGER t BEFORE INSERT ON `machines` FOR EACH ROW SET @a = 1 */;\n',
    ],
    ['a file of the machine as rows', "LOAD DATA INFILE '/etc/passwd' INTO TABLE `marks`;\n"],
    ['rows written to a file', `SELECT 1 INTO OUTFILE '${trace}';\n`],
    ['a value that reads a file', "INSERT INTO `marks` VALUES (LOAD_FILE('/etc/passwd'));\n"],
    ['rows of a query', 'INSERT INTO `marks` VALUES (1),((SELECT 1));\n'],
    [
      'a table that lies elsewhere',
      "CREATE TABLE `x` (`a` int(11)) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 DATA DIRECTORY='/tmp';\n",
    ],
    [
      'a table of another server',
      "CREATE TABLE `x` (`a` int(11)) ENGINE=FEDERATED CONNECTION='mysql://h/d/t';\n",
    ],
    ['quotes read another way', "/*!40101 SET SQL_MODE='NO_BACKSLASH_ESCAPES' */;\n"],
    ['the same by way of a variable', "/*!40101 SET @OLD_SQL_MODE='NO_BACKSLASH_ESCAPES' */;\n"],
    ['characters read another way', '/*!40101 SET NAMES gbk */;\n'],
    ['a setting of the whole server', "/*!40101 SET GLOBAL general_log_file='/tmp/x' */;\n"],
    ['a comment that goes on as something else', '/*!40101 SET NAMES utf8mb4 */ DROP DATABASE verimend;\n'],
    ['a remark', '-- x\n'],
    ['what is not whole', "INSERT INTO `marks` VALUES ('"],
  ])('%s does not get to the database', async (_, foreign) => {
    for (const change of [(sql: string) => sql + foreign, (sql: string) => foreign + sql]) {
      await withSql(change)
      expect(await refusal()).toMatch(/^The database in this backup holds more than tables/)
    }
    // and where nobody has checked before
    const { other, database } = await blank('backup_foreign')
    await expect(loadSql(other.access, Readable.from([Buffer.from(foreign)]), [])).rejects.toThrow()
    await database.onApplicationShutdown()
    expect(existsSync(trace)).toBe(false)
  })

  test('a dump of our own passes byte for byte, in pieces of any length', async () => {
    let sql: Buffer = Buffer.alloc(0)
    await remade((name, body) => (name === 'database.sql' ? (sql = body) : body))
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 1, max: 5000 }), async (length) => {
        const pieces = Array.from({ length: Math.ceil(sql.length / length) }, (_, i) =>
          sql.subarray(i * length, (i + 1) * length),
        )
        const out: Buffer[] = []
        for await (const part of Readable.from(pieces).pipe(new SqlGate())) out.push(part as Buffer)
        expect(Buffer.concat(out).equals(sql.subarray(0, sql.lastIndexOf(';') + 1))).toBe(true)
      }),
      tries(6, [[1]]),
    )
  })

  test('an entry that is there twice, or that is not listed, is refused', async () => {
    const same = (_: string, body: Buffer) => body
    // what is checked last would be right, what is taken out first would not
    await remade(same, { 'database.sql': 'DROP TABLE IF EXISTS `marks`;\n' })
    expect(await refusal()).toBe('This backup holds database.sql twice. Nothing was restored.')
    await remade(same, { [`files/${'a'.repeat(64)}`]: 'x' })
    expect(await refusal()).toMatch(/which it does not list/)
  })

  test('an entry that leads out of the folder is refused', async () => {
    const to = pack()
    to.entry({ name: 'standin/../../outside.json' }, 'x')
    writeFileSync(bad, await gathered(to))
    expect(await refusal()).toMatch(/no backup/)
  })

  test('of a newer version nothing is restored', async () => {
    const { other, database } = await blank('backup_newer')
    await manifest({ migrations: ['0001-first-tables', '0999-of-tomorrow'] })
    await expect(restoreBackup(other.config, database.sequelize, bad)).rejects.toThrow(
      /made by a newer Verimend \(it knows 0999-of-tomorrow\)/,
    )
    expect(await database.sequelize.query('SHOW TABLES', { type: QueryTypes.SELECT })).toEqual([])
    // and data of a newer version is not touched by an older one
    await database.migrate()
    await database.sequelize.query(`INSERT INTO migrations (name) VALUES ('0999-of-tomorrow')`)
    await expect(database.migrate()).rejects.toThrow(/last used by a newer Verimend.*Nothing was changed/)
    await database.onApplicationShutdown()
    await other.stop()
  })
})

test('of daily ones seven days and four weeks stay, whenever they were made', () => {
  const day = (n: number) => new Date(Date.UTC(2026, 0, 1) + n * 86_400_000).toISOString().slice(0, 10)
  fc.assert(
    fc.property(fc.uniqueArray(fc.nat(400), { maxLength: 80 }), (numbers) => {
      const days = numbers.map(day)
      const gone = new Set(outlived(days))
      const stay = days
        .filter((d) => !gone.has(d))
        .sort()
        .reverse()
      expect(stay.length).toBeLessThanOrEqual(DAYS + WEEKS)
      // the newest ones always stay, and nothing goes while there are few
      expect(stay.slice(0, DAYS)).toEqual([...days].sort().reverse().slice(0, DAYS))
    }),
    tries(200),
  )
  // two months of one a day: the last week, and the newest of each of the last four weeks
  const days = Array.from({ length: 60 }, (_, n) => day(n))
  const gone = new Set(outlived(days))
  const stay = days.filter((d) => !gone.has(d))
  expect(stay).toEqual(
    [day(38), day(45), day(52), ...Array.from({ length: 7 }, (_, n) => day(53 + n))].sort(),
  )
  // cleared away day by day it comes to the same
  let now: string[] = []
  for (const d of days) {
    now.push(d)
    const g = new Set(outlived(now))
    now = now.filter((x) => !g.has(x))
  }
  expect(now.slice(-7)).toEqual(stay.slice(-7))
  expect(now.length).toBeGreaterThanOrEqual(9)
})
