import { Body, Controller, Delete, Get, HttpCode, Param, Post, Put } from '@nestjs/common'
import { ApiOkResponse, ApiTags } from '@nestjs/swagger'
import {
  addPartPlan,
  addPartVersion,
  createPart,
  partRecord,
  partSummary,
  updatePart,
} from '@verimend/contract'
import { createZodDto } from '../http/zodDto'
import { PartsService } from './parts.service'

class CreateDto extends createZodDto(createPart) {}
class UpdateDto extends createZodDto(updatePart) {}
class VersionDto extends createZodDto(addPartVersion) {}
class PlanDto extends createZodDto(addPartPlan) {}
class PartDto extends createZodDto(partRecord) {}
class SummaryDto extends createZodDto(partSummary) {}

@ApiTags('parts')
@Controller('api/parts')
export class PartsController {
  constructor(private readonly parts: PartsService) {}

  @Get()
  @ApiOkResponse({ type: [SummaryDto] })
  list() {
    return this.parts.list()
  }

  @Post()
  @ApiOkResponse({ type: PartDto })
  create(@Body() body: CreateDto) {
    return this.parts.create(body)
  }

  @Get(':id')
  @ApiOkResponse({ type: PartDto })
  one(@Param('id') id: string) {
    return this.parts.one(id)
  }

  @Put(':id')
  @ApiOkResponse({ type: PartDto })
  update(@Param('id') id: string, @Body() body: UpdateDto) {
    return this.parts.update(id, body)
  }

  @Post(':id/versions')
  @ApiOkResponse({ type: PartDto })
  addVersion(@Param('id') id: string, @Body() body: VersionDto) {
    return this.parts.addVersion(id, body.mesh)
  }

  @Post(':id/plans')
  @ApiOkResponse({ type: PartDto })
  addPlan(@Param('id') id: string, @Body() body: PlanDto) {
    return this.parts.addPlan(id, body)
  }

  @Delete(':id')
  @ApiOkResponse({ type: PartDto })
  remove(@Param('id') id: string) {
    return this.parts.softDelete(id)
  }

  @Post(':id/restore')
  @HttpCode(200)
  @ApiOkResponse({ type: PartDto })
  restore(@Param('id') id: string) {
    return this.parts.restore(id)
  }
}
