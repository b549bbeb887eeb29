import { createReadStream, existsSync, readdirSync, statSync } from 'node:fs'
import type { Readable } from 'node:stream'
import { rm, statfs } from 'node:fs/promises'
import { join } from 'node:path'
import { Inject, Injectable, Logger, type OnApplicationShutdown } from '@nestjs/common'
import { backupName, type KeptBackup, type KeptBackups } from '@verimend/contract'
import { CONFIG, type Config } from '../config'
import { Database } from '../database/database.module'
import { MarkRow } from '../database/models'
import { notFound, refused } from '../problem/problem'
import { besideOf, BackupError, hasBeside, wholeBackup, writeBackup } from './archive'
import { outlived } from './rotation'
import { listPath, sweepStore } from './store'

/** How often it is looked whether today's backup is due, ms, and how long after the start first. */
const LOOK_MS = 30 * 60_000
const FIRST_MS = 60_000
/** Part of a backup that was never finished, and how long after its last byte nobody writes it any more, ms. */
const UNFINISHED = /\.part-[0-9a-f]{8}(\.sql)?$/
const GIVEN_UP = 3600_000
/** Room that a daily backup leaves on the disk, bytes, besides its own size. */
const SPARE = 500e6
/** Mark in the database that switches daily backups off. */
const OFF = 'no-daily-backups'

const dayOf = (name: string) => name.slice('verimend-'.length, 'verimend-YYYY-MM-DD'.length)
/** The day here, not in Greenwich. */
const now = () => {
  const at = new Date(Date.now() - new Date().getTimezoneOffset() * 60_000).toISOString()
  return { day: at.slice(0, 10), time: at.slice(11, 19).replaceAll(':', '') }
}

/** Backups: one a day of its own accord, and when somebody asks. */
@Injectable()
export class BackupsService implements OnApplicationShutdown {
  private readonly log = new Logger('Backups')
  private readonly folder: string
  private readonly timers: NodeJS.Timeout[] = []
  private making: Promise<KeptBackup> | null = null
  private failed: string | null = null

  constructor(
    @Inject(CONFIG) private readonly config: Config,
    private readonly database: Database,
  ) {
    this.folder = join(config.files, '..', 'backups')
  }

  /** Looks after the daily backup from now on. */
  begin(): void {
    const look = () => void this.daily().catch((e: unknown) => this.log.error(e))
    this.timers.push(setTimeout(look, FIRST_MS).unref(), setInterval(look, LOOK_MS).unref())
  }
  async onApplicationShutdown(): Promise<void> {
    this.timers.forEach(clearTimeout)
    await this.making?.catch(() => undefined)
  }

  private names(): string[] {
    if (!existsSync(this.folder)) return []
    return readdirSync(this.folder)
      .filter((name) => backupName.safeParse(name).success)
      .sort()
      .reverse()
  }
  private entry(name: string): KeptBackup {
    const { size, mtime } = statSync(join(this.folder, name))
    return { name, bytes: size, madeAt: mtime.toISOString() }
  }

  async list(): Promise<KeptBackups> {
    return {
      daily: !(await MarkRow.findByPk(OFF)),
      failed: this.failed,
      list: this.names().map((name) => this.entry(name)),
    }
  }

  /** Makes one now; whoever asks while one is being made gets that one. */
  async make(why: 'daily' | 'asked' = 'asked'): Promise<KeptBackup> {
    this.making ??= this.write(why).finally(() => (this.making = null))
    try {
      return await this.making
    } catch (error) {
      if (error instanceof BackupError) throw refused('no-backup', error.message)
      if (/cannot be started/.test((error as Error).message))
        throw refused('no-backup', 'mariadb-dump is missing. Install mariadb-client, then try again.')
      throw error
    }
  }
  private async write(why: 'daily' | 'asked'): Promise<KeptBackup> {
    const { day, time } = now()
    const name = `verimend-${day}-${time}-${why}.tar.gz`
    // those of each day share their files: they differ in few
    const { files, beside } = await writeBackup(
      this.config,
      this.database.sequelize,
      join(this.folder, name),
      why === 'daily',
    )
    const entry = this.entry(name)
    this.log.log(`backup ${name}: ${files.length + beside.length} files, ${entry.bytes} bytes`)
    return entry
  }

  /** Clears away what a backup that was killed has left. */
  private async clearUnfinished(): Promise<void> {
    if (!existsSync(this.folder)) return
    for (const name of readdirSync(this.folder).filter((n) => UNFINISHED.test(n))) {
      const path = join(this.folder, name)
      const { mtimeMs } = statSync(path, { throwIfNoEntry: false }) ?? { mtimeMs: Infinity }
      if (Date.now() - mtimeMs > GIVEN_UP) await rm(path, { force: true })
    }
  }

  /** @throws BackupError where the disk has too little room for one more of its own accord */
  private async refuseFullDisk(): Promise<void> {
    const last = this.names().map((name) => this.entry(name).bytes)[0] ?? 0
    const place = existsSync(this.folder) ? this.folder : join(this.folder, '..')
    const { bavail, bsize } = await statfs(place)
    const room = bavail * bsize
    // once more as long as the last, with what the database takes beside it while it is written
    if (room < 2 * last + SPARE)
      throw new BackupError(
        `There are ${Math.round(room / 1e6)} MB left on the disk: too few for today’s backup. Make room, or remove older backups in the storeroom.`,
      )
  }

  /** Makes today's backup where there is none, and clears away those that have outlived their use. */
  async daily(): Promise<void> {
    if (await MarkRow.findByPk(OFF)) return
    await this.clearUnfinished()
    const { day } = now()
    const own = () => this.names().filter((n) => n.endsWith('-daily.tar.gz'))
    if (own().some((n) => dayOf(n) === day)) return
    try {
      await this.refuseFullDisk()
      await this.make('daily')
      this.failed = null
    } catch (error) {
      this.failed = (error as Error).message
      throw error
    }
    const gone = new Set(outlived(own().map(dayOf)))
    for (const name of own()) if (gone.has(dayOf(name))) await this.takeAway(name)
    await sweepStore(this.folder, besideOf)
  }
  private async takeAway(name: string): Promise<void> {
    const path = join(this.folder, name)
    await rm(path, { force: true })
    await rm(listPath(path), { force: true })
  }

  async setDaily(daily: boolean): Promise<KeptBackups> {
    if (daily) await MarkRow.destroy({ where: { name: OFF } })
    else await MarkRow.findOrCreate({ where: { name: OFF }, defaults: { name: OFF, value: '1' } })
    return this.list()
  }

  /** A backup to be carried away: whole, whatever it shares with others here. */
  read(name: string): { stream: Readable; bytes?: number } {
    if (!this.names().includes(name)) throw notFound('backup')
    const path = join(this.folder, name)
    if (hasBeside(path)) return { stream: wholeBackup(path) }
    return { stream: createReadStream(path), bytes: statSync(path).size }
  }

  async remove(name: string): Promise<KeptBackups> {
    if (!this.names().includes(name)) throw notFound('backup')
    await this.takeAway(name)
    return this.list()
  }
}
