import { Body, Controller, Get, HttpCode, Module, Param, ParseIntPipe, Post, Query } from '@nestjs/common'
import { ApiOkResponse, ApiTags } from '@nestjs/swagger'
import {
  createPair,
  createVersion,
  idText,
  meantChange,
  pairDetail,
  pairReadiness,
  pairSummary,
  recipeVersion,
  relative,
  restoreVersion,
  versionSummary,
} from '@verimend/contract'
import { createZodDto } from 'nestjs-zod'
import { z } from 'zod'
import { FilamentsModule } from '../filaments/filaments.module'
import { MachinesModule } from '../machines/machines.module'
import { Pairs } from './pairs.service'

class CreatePairDto extends createZodDto(createPair) {}
class CreateVersionDto extends createZodDto(createVersion) {}
class RestoreVersionDto extends createZodDto(restoreVersion) {}
class MeantDto extends createZodDto(meantChange) {}
class ReadinessDto extends createZodDto(pairReadiness) {}
class RelativeDto extends createZodDto(relative) {}
class RelativesQuery extends createZodDto(z.object({ machineId: idText, filamentId: idText })) {}
class PairSummaryDto extends createZodDto(pairSummary) {}
class PairDetailDto extends createZodDto(pairDetail) {}
class VersionSummaryDto extends createZodDto(versionSummary) {}
class VersionDto extends createZodDto(recipeVersion) {}

@ApiTags('pairs')
@Controller('api/pairs')
export class PairsController {
  constructor(private readonly pairs: Pairs) {}

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
  @ApiOkResponse({ type: [ReadinessDto] })
  readiness() {
    return this.pairs.readiness()
  }

  /** Tested recipes of the family that a pair of this machine and roll could start from, nearest first. */
  @Get('relatives')
  @ApiOkResponse({ type: [RelativeDto] })
  relatives(@Query() query: RelativesQuery) {
    return this.pairs.relatives(query.machineId, query.filamentId)
  }

  @Get(':id')
  @ApiOkResponse({ type: PairDetailDto })
  one(@Param('id') id: string) {
    return this.pairs.detail(id)
  }

  @Get(':id/versions')
  @ApiOkResponse({ type: [VersionSummaryDto] })
  versions(@Param('id') id: string) {
    return this.pairs.versions(id)
  }

  @Get(':id/versions/:number')
  @ApiOkResponse({ type: VersionDto })
  version(@Param('id') id: string, @Param('number', ParseIntPipe) number: number) {
    return this.pairs.version(id, number)
  }

  @Post(':id/versions')
  @ApiOkResponse({ type: VersionDto })
  change(@Param('id') id: string, @Body() body: CreateVersionDto) {
    const { fine, coarse, measured, relative } = body
    return this.pairs.change(id, body.base, body.set, body.reason, {
      variants: { ...(fine && { fine }), ...(coarse && { coarse }) },
      measured,
      relative,
    })
  }

  /** "I mean it" for one warning, or back. */
  @Post(':id/meant')
  @HttpCode(200)
  @ApiOkResponse({ type: PairDetailDto })
  mean(@Param('id') id: string, @Body() body: MeantDto) {
    return this.pairs.mean(id, body.print, body.meant)
  }

  @Post(':id/restore')
  @ApiOkResponse({ type: VersionDto })
  restore(@Param('id') id: string, @Body() body: RestoreVersionDto) {
    return this.pairs.restore(id, body.base, body.number)
  }
}

@Module({
  imports: [MachinesModule, FilamentsModule],
  controllers: [PairsController],
  providers: [Pairs],
  exports: [Pairs],
})
export class PairsModule {}
