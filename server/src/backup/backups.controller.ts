import { Body, Controller, Delete, Get, Param, Post, Put, StreamableFile } from '@nestjs/common'
import { ApiOkResponse, ApiTags } from '@nestjs/swagger'
import { backupName, keptBackup, keptBackups, setDaily } from '@verimend/contract'
import { createZodDto } from '../http/zodDto'
import { z } from 'zod'
import { BackupsService } from './backups.service'

class SetDailyDto extends createZodDto(setDaily) {}
class KeptBackupDto extends createZodDto(keptBackup) {}
class KeptBackupsDto extends createZodDto(keptBackups) {}
class NameParam extends createZodDto(z.object({ name: backupName })) {}

/** Backups of everything that is kept here. */
@ApiTags('backups')
@Controller('api/backups')
export class BackupsController {
  constructor(private readonly backups: BackupsService) {}

  @Get()
  @ApiOkResponse({ type: KeptBackupsDto })
  list() {
    return this.backups.list()
  }

  /** Makes one now. */
  @Post()
  @ApiOkResponse({ type: KeptBackupDto })
  make() {
    return this.backups.make()
  }

  /** Whether one is made each day. */
  @Put('daily')
  @ApiOkResponse({ type: KeptBackupsDto })
  daily(@Body() body: SetDailyDto) {
    return this.backups.setDaily(body.daily)
  }

  @Get(':name')
  read(@Param() { name }: NameParam) {
    const { stream, bytes } = this.backups.read(name)
    return new StreamableFile(stream, {
      type: 'application/gzip',
      length: bytes,
      disposition: `attachment; filename="${name}"`,
    })
  }

  @Delete(':name')
  @ApiOkResponse({ type: KeptBackupsDto })
  remove(@Param() { name }: NameParam) {
    return this.backups.remove(name)
  }
}
