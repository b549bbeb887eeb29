import { Body, Controller, Delete, Get, HttpCode, Injectable, Module, Param, Post, Put } from '@nestjs/common'
import { ApiOkResponse, ApiTags } from '@nestjs/swagger'
import { createFilament, filamentRecord, updateFilament } from '@verimend/contract'
import type { Filament } from '@verimend/core'
import { createZodDto } from 'nestjs-zod'
import { Database } from '../database/database.module'
import { FilamentRow } from '../database/models'
import { Shelved } from '../database/shelved'

class CreateFilamentDto extends createZodDto(createFilament) {}
class UpdateFilamentDto extends createZodDto(updateFilament) {}
class FilamentDto extends createZodDto(filamentRecord) {}

@Injectable()
export class Filaments extends Shelved<'filament', Filament> {
  constructor(database: Database) {
    super(database, FilamentRow, 'filament', 'filament')
  }
}

@ApiTags('filaments')
@Controller('api/filaments')
export class FilamentsController {
  constructor(private readonly filaments: Filaments) {}

  @Get()
  @ApiOkResponse({ type: [FilamentDto] })
  list() {
    return this.filaments.list()
  }

  @Get(':id')
  @ApiOkResponse({ type: FilamentDto })
  async one(@Param('id') id: string) {
    return this.filaments.view(await this.filaments.row(id))
  }

  @Post()
  @ApiOkResponse({ type: FilamentDto })
  create(@Body() body: CreateFilamentDto) {
    return this.filaments.create(body.id, body.filament)
  }

  @Put(':id')
  @ApiOkResponse({ type: FilamentDto })
  update(@Param('id') id: string, @Body() body: UpdateFilamentDto) {
    return this.filaments.update(id, body.rev, body.filament)
  }

  @Delete(':id')
  @ApiOkResponse({ type: FilamentDto })
  remove(@Param('id') id: string) {
    return this.filaments.setRemoved(id, true)
  }

  @Post(':id/restore')
  @HttpCode(200)
  @ApiOkResponse({ type: FilamentDto })
  restore(@Param('id') id: string) {
    return this.filaments.setRemoved(id, false)
  }
}

@Module({ controllers: [FilamentsController], providers: [Filaments], exports: [Filaments] })
export class FilamentsModule {}
