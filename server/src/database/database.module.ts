import { Global, Inject, Injectable, Logger, Module, type OnApplicationShutdown } from '@nestjs/common'
import { Sequelize } from 'sequelize'
import { SequelizeStorage, Umzug } from 'umzug'
import { CONFIG, type Config } from '../config'
import { MIGRATIONS } from './migrations'
import { defineModels } from './models'

/** The connection: opens, brings the tables up to date, closes. */
@Injectable()
export class Database implements OnApplicationShutdown {
  readonly sequelize: Sequelize
  private readonly log = new Logger('Database')

  constructor(@Inject(CONFIG) config: Config) {
    const { port, user, password, name } = config.database
    this.sequelize = new Sequelize(name, user, password, {
      dialect: 'mariadb',
      host: '127.0.0.1',
      port,
      logging: false,
      timezone: '+00:00',
      pool: { max: 8, acquire: 15_000, idle: 10_000 },
      dialectOptions: { connectTimeout: 4000 },
      define: { charset: 'utf8mb4' },
    })
    defineModels(this.sequelize)
  }

  /** Applies the migrations that have not run yet. */
  async migrate(): Promise<void> {
    const umzug = new Umzug({
      migrations: MIGRATIONS,
      context: this.sequelize.getQueryInterface(),
      storage: new SequelizeStorage({ sequelize: this.sequelize, tableName: 'migrations' }),
      logger: undefined,
    })
    const done = await umzug.up()
    if (done.length) this.log.log(`migrated: ${done.map((m) => m.name).join(', ')}`)
  }

  async onApplicationShutdown(): Promise<void> {
    await this.sequelize.close()
  }
}

@Global()
@Module({ providers: [Database], exports: [Database] })
export class DatabaseModule {}
