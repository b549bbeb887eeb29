import { Body, Controller, Get, HttpCode, Param, ParseIntPipe, Post, Query } from '@nestjs/common'
import { ApiOkResponse, ApiTags } from '@nestjs/swagger'
import {
  acknowledgement,
  createPair,
  createVersion,
  idText,
  listReadiness,
  pairDetail,
  pairSummary,
  readinessPage,
  recipeVersion,
  relative,
  restoreVersion,
  versionSummary,
} from '@verimend/contract'
import { createZodDto } from '../http/zodDto'
import { z } from 'zod'
import { Gone } from '../http/gone'
import { PairsService } from './pairs.service'
import { ReadinessService } from './readiness.service'
import { RelativesService } from './relatives.service'
import { VersionsService } from './versions.service'

class CreatePairDto extends createZodDto(createPair) {}
class CreateVersionDto extends createZodDto(createVersion) {}
class RestoreVersionDto extends createZodDto(restoreVersion) {}
class AcknowledgementDto extends createZodDto(acknowledgement) {}
class ListReadinessQuery extends createZodDto(listReadiness) {}
class ReadinessPageDto extends createZodDto(readinessPage) {}
class RelativeDto extends createZodDto(relative) {}
class RelativesQuery extends createZodDto(z.object({ machineId: idText, filamentId: idText })) {}
class PairSummaryDto extends createZodDto(pairSummary) {}
class PairDetailDto extends createZodDto(pairDetail) {}
class VersionSummaryDto extends createZodDto(versionSummary) {}
class VersionDto extends createZodDto(recipeVersion) {}

@ApiTags('pairs')
@Controller('api/pairs')
export class PairsController {
  constructor(
    private readonly pairs: PairsService,
    private readonly versions: VersionsService,
    private readonly relatives: RelativesService,
    private readonly readiness: ReadinessService,
  ) {}

  @Get()
  @ApiOkResponse({ type: [PairSummaryDto] })
  list() {
    return this.pairs.list()
  }

  @Post()
  @HttpCode(200)
  @ApiOkResponse({ type: PairDetailDto })
  open(@Body() body: CreatePairDto) {
    return this.pairs.open(body.machineId, body.filamentId, body.relative)
  }

  /** How ready every pair is, and its most worthwhile next step. */
  @Get('readiness')
  @ApiOkResponse({ type: ReadinessPageDto })
  ready(@Query() query: ListReadinessQuery, @Gone() gone: AbortSignal) {
    return this.readiness.page(query, gone)
  }

  /** Tested recipes of the family that a pair of this machine and roll could start from, nearest first. */
  @Get('relatives')
  @ApiOkResponse({ type: [RelativeDto] })
  near(@Query() query: RelativesQuery) {
    return this.relatives.nearest(query.machineId, query.filamentId)
  }

  @Get(':id')
  @ApiOkResponse({ type: PairDetailDto })
  one(@Param('id') id: string) {
    return this.pairs.detail(id)
  }

  @Get(':id/versions')
  @ApiOkResponse({ type: [VersionSummaryDto] })
  history(@Param('id') id: string) {
    return this.versions.list(id)
  }

  @Get(':id/versions/:number')
  @ApiOkResponse({ type: VersionDto })
  version(@Param('id') id: string, @Param('number', ParseIntPipe) number: number) {
    return this.versions.one(id, number)
  }

  @Post(':id/versions')
  @ApiOkResponse({ type: VersionDto })
  change(@Param('id') id: string, @Body() { base, ...change }: CreateVersionDto) {
    return this.versions.change(id, base, change)
  }

  /** Acknowledges one warning, or takes that back. */
  @Post(':id/acknowledged')
  @HttpCode(200)
  @ApiOkResponse({ type: PairDetailDto })
  acknowledge(@Param('id') id: string, @Body() body: AcknowledgementDto) {
    return this.pairs.acknowledge(id, body.fingerprint, body.acknowledged)
  }

  @Post(':id/restore')
  @ApiOkResponse({ type: VersionDto })
  restore(@Param('id') id: string, @Body() body: RestoreVersionDto) {
    return this.versions.restore(id, body.base, body.number)
  }
}
