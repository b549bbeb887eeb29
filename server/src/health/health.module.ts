import { Controller, Get, Module } from '@nestjs/common'
import { ApiTags } from '@nestjs/swagger'
import { Database } from '../database/database.module'

@ApiTags('health')
@Controller('api/health')
export class HealthController {
  constructor(private readonly database: Database) {}

  /** Whether the server and its database answer. */
  @Get()
  async health() {
    await this.database.sequelize.authenticate()
    return { status: 'ok' }
  }
}

@Module({ controllers: [HealthController] })
export class HealthModule {}
