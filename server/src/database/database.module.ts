import { Global, Inject, Injectable, Logger, Module, type OnApplicationShutdown } from '@nestjs/common'
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import { QueryTypes, Sequelize, type Options } from 'sequelize'
import { SequelizeStorage, Umzug } from 'umzug'
import { CONFIG, type Config, type DatabaseAccess } from '../config'
import { dumpDatabase, loadSql, restoreDatabase } from './dump'
import { MIGRATIONS } from './migrations'
import { defineModels } from './models'
import './transactions'

/** Connections held at once. */
const CONNECTIONS = 8
/** How long a request waits for one before it is told so, ms. */
const PATIENCE = 2000

/** How long one server waits for another that brings the tables up to date, s. */
const MIGRATION_PATIENCE_S = 120

/** How TLS is asked for; nothing where it is not. */
const tlsOptions = ({ tls }: Pick<DatabaseAccess, 'tls'>) =>
  tls ? { ssl: { rejectUnauthorized: tls.verify, ...(tls.ca && { ca: readFileSync(tls.ca, 'utf8') }) } } : {}

/** How a connection is opened. */
const options = ({ host, port, user, password, name, ...more }: DatabaseAccess): Options => ({
  dialect: 'mariadb',
  host,
  port,
  username: user,
  password,
  database: name,
  logging: false,
  timezone: '+00:00',
  dialectOptions: { connectTimeout: 4000, ...tlsOptions(more) },
})
/** Longer than any change of the tables takes, ms. */
const LONG = 3_600_000

/** The connection: opens, brings the tables up to date, closes. */
@Injectable()
export class Database implements OnApplicationShutdown {
  readonly sequelize: Sequelize
  private readonly log = new Logger('Database')

  constructor(@Inject(CONFIG) private readonly config: Config) {
    this.sequelize = new Sequelize({
      ...options(config.database),
      pool: { max: CONNECTIONS, acquire: PATIENCE, idle: 10_000 },
      define: { charset: 'utf8mb4' },
    })
    defineModels(this.sequelize)
  }

  /**
   * Runs work in one transaction: all it reads and writes goes through the transaction's connection, and either all
   * of it stays or nothing.
   */
  transaction<T>(work: () => Promise<T>): Promise<T> {
    return this.sequelize.transaction(() => work())
  }

  /**
   * Applies the migrations that have not run yet, after a dump of what is there. Where one fails, the database is put
   * back as it was.
   * @throws Error that says what became of the database and what to do
   */
  migrate(migrations = MIGRATIONS): Promise<void> {
    return this.alone(() => this.migrateAlone(migrations))
  }

  /** Lets one server at a time do its work on the database: another that starts meanwhile waits, and finds it done. */
  async alone<T>(work: () => Promise<T>): Promise<T> {
    const { host, port, name } = this.config.database
    // one connection of its own, which stays: the lock goes with it
    const keeper = new Sequelize({
      ...options(this.config.database),
      pool: { max: 1, idle: LONG, evict: LONG },
    })
    const lock = `verimend-migrate-${name}`
    try {
      const [{ got }] = await keeper
        .query<{ got: number | null }>('SELECT GET_LOCK(?, ?) AS got', {
          replacements: [lock, MIGRATION_PATIENCE_S],
          type: QueryTypes.SELECT,
          transaction: null,
        })
        .catch((error: Error) => {
          throw new Error(`The database at ${host}:${port} cannot be reached: ${error.message}`)
        })
      if (Number(got) !== 1)
        throw new Error(
          'Another Verimend is bringing this database up to date. Start this one again when it is done.',
        )
      return await work()
    } finally {
      await keeper.close()
    }
  }

  private async migrateAlone(migrations: typeof MIGRATIONS): Promise<void> {
    const storage = new SequelizeStorage({ sequelize: this.sequelize, tableName: 'migrations' })
    const umzug = new Umzug({
      migrations,
      context: this.sequelize.getQueryInterface(),
      storage,
      logger: undefined,
    })
    const known = new Set(migrations.map((m) => m.name))
    const newer = (await storage.executed()).find((name) => !known.has(name))
    if (newer)
      throw new Error(
        `This data was last used by a newer Verimend (it knows ${newer}). Nothing was changed. Start that one, or restore a backup from before it into a new folder.`,
      )
    const folder = join(this.config.files, '..', 'dumps')
    const unfinished = join(folder, 'unfinished.json')
    await this.takeBackUnfinished(unfinished)
    const pending = await umzug.pending()
    if (!pending.length) return
    const filled = (await umzug.executed()).length > 0
    const dump = filled
      ? await dumpDatabase(this.config.database, folder, `before-${pending[0].name}`).catch(
          (error: Error) => {
            throw new Error(
              `The database has to be brought up to date, but no copy of it could be made first (${error.message}). Nothing was changed. Install mariadb-client, or make room on the disk, and start again.`,
            )
          },
        )
      : null
    mkdirSync(folder, { recursive: true, mode: 0o700 })
    writeFileSync(unfinished, JSON.stringify({ dump }), { mode: 0o600, flush: true })
    try {
      const done = await umzug.up()
      // where it cannot be taken away nothing is served: the next start would put the database back
      rmSync(unfinished)
      this.log.log(`migrated: ${done.map((m) => m.name).join(', ')}${dump ? `; before it: ${dump}` : ''}`)
    } catch (error) {
      throw new Error(await this.putBack(dump, error as Error, unfinished), { cause: error })
    }
  }

  /** A start that was killed while it changed the tables left them half way: they are put back, and changed anew. */
  private async takeBackUnfinished(mark: string): Promise<void> {
    if (!existsSync(mark)) return
    const { dump } = JSON.parse(readFileSync(mark, 'utf8')) as { dump: string | null }
    const tables = await this.tables()
    if (dump) await restoreDatabase(this.config.database, dump, tables)
    else await loadSql(this.config.database, Readable.from([]), tables)
    rmSync(mark)
    this.log.log(`a change of the tables was cut short; they are as they were${dump ? ` in ${dump}` : ''}`)
  }

  private async putBack(dump: string | null, error: Error, mark: string): Promise<string> {
    const failed = `The database could not be brought up to date (${(error.cause as Error | undefined)?.message ?? error.message}).`
    if (!dump) return `${failed} It held nothing yet: remove the data folder and start again.`
    try {
      await restoreDatabase(this.config.database, dump, await this.tables())
      rmSync(mark, { force: true })
      return `${failed} It is as it was before: start the older version again, or report this fault.`
    } catch (again) {
      return `${failed} Putting it back failed as well (${(again as Error).message}). Its copy lies in ${dump}: stop Verimend, then run “zcat ${dump} | mariadb ${this.config.database.name}” on its database.`
    }
  }

  private async tables(): Promise<string[]> {
    const rows = await this.sequelize.query<object>('SHOW TABLES', { type: QueryTypes.SELECT })
    return rows.map((row) => String(Object.values(row)[0]))
  }

  async onApplicationShutdown(): Promise<void> {
    await this.sequelize.close()
  }
}

@Global()
@Module({ providers: [Database], exports: [Database] })
export class DatabaseModule {}
