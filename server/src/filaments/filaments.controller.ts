import { Body, Controller, Delete, Get, HttpCode, Param, Post, Put } from '@nestjs/common'
import { ApiOkResponse, ApiTags } from '@nestjs/swagger'
import { createFilament, filamentRecord, updateFilament } from '@verimend/contract'
import { createZodDto } from '../http/zodDto'
import { FilamentsService } from './filaments.service'

class CreateFilamentDto extends createZodDto(createFilament) {}
class UpdateFilamentDto extends createZodDto(updateFilament) {}
class FilamentDto extends createZodDto(filamentRecord) {}

@ApiTags('filaments')
@Controller('api/filaments')
export class FilamentsController {
  constructor(private readonly filaments: FilamentsService) {}

  @Get()
  @ApiOkResponse({ type: [FilamentDto] })
  list() {
    return this.filaments.list()
  }

  @Get(':id')
  @ApiOkResponse({ type: FilamentDto })
  one(@Param('id') id: string) {
    return this.filaments.one(id)
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
    return this.filaments.softDelete(id)
  }

  @Post(':id/restore')
  @HttpCode(200)
  @ApiOkResponse({ type: FilamentDto })
  restore(@Param('id') id: string) {
    return this.filaments.restore(id)
  }
}
