import { statfs } from 'node:fs/promises'
import { Controller, Get, Inject, Module } from '@nestjs/common'
import { ApiTags } from '@nestjs/swagger'
import type { Health } from '@verimend/contract'
import { CONFIG, type Config } from '../config'
import { Database } from '../database/database.module'

@ApiTags('health')
@Controller('api/health')
export class HealthController {
  constructor(
    private readonly database: Database,
    @Inject(CONFIG) private readonly config: Config,
  ) {}

  /** Whether the server and its database answer, and how much room they have. */
  @Get()
  async health(): Promise<Health> {
    await this.database.sequelize.authenticate()
    return { status: 'ok', room: await this.room() }
  }

  private async room(): Promise<number | null> {
    try {
      const { bavail, bsize } = await statfs(this.config.files)
      return bavail * bsize
    } catch {
      return null
    }
  }
}

@Module({ controllers: [HealthController] })
export class HealthModule {}
