import {
  Body,
  Controller,
  Delete,
  Get,
  HttpCode,
  Module,
  Param,
  Post,
  Put,
  Query,
  StreamableFile,
} from '@nestjs/common'
import { ApiOkResponse, ApiTags } from '@nestjs/swagger'
import { adoptTrial, cellReading, createTrial, trialSummary, updateTrial } from '@verimend/contract'
import type { CellReading, PiecePlan } from '@verimend/core'
import { createZodDto } from 'nestjs-zod'
import { z } from 'zod'
import { PairsModule } from '../pairs/pairs.module'
import { Trials } from './trials.service'

class CreateTrialDto extends createZodDto(createTrial) {}
class UpdateTrialDto extends createZodDto(updateTrial) {}
class AdoptTrialDto extends createZodDto(adoptTrial) {}
class CellReadingDto extends createZodDto(cellReading) {}
class TrialDto extends createZodDto(trialSummary) {}
class ListQuery extends createZodDto(z.object({ pairId: z.string().max(40).optional() })) {}

@ApiTags('trials')
@Controller('api/trials')
export class TrialsController {
  constructor(private readonly trials: Trials) {}

  @Get()
  @ApiOkResponse({ type: [TrialDto] })
  list(@Query() query: ListQuery) {
    return this.trials.list(query.pairId)
  }

  @Post()
  @ApiOkResponse({ type: TrialDto })
  create(@Body() body: CreateTrialDto) {
    return this.trials.create({ ...body, plan: body.plan as PiecePlan })
  }

  @Get(':id')
  @ApiOkResponse({ type: TrialDto })
  one(@Param('id') id: string) {
    return this.trials.one(id)
  }

  @Put(':id')
  @ApiOkResponse({ type: TrialDto })
  update(@Param('id') id: string, @Body() body: UpdateTrialDto) {
    return this.trials.update(id, body.resolution, body.note)
  }

  @Delete(':id')
  @ApiOkResponse({ type: TrialDto })
  remove(@Param('id') id: string) {
    return this.trials.setRemoved(id, true)
  }

  @Post(':id/restore')
  @HttpCode(200)
  @ApiOkResponse({ type: TrialDto })
  restore(@Param('id') id: string) {
    return this.trials.setRemoved(id, false)
  }

  /** What was noted of one band, patch or column; the whole of it. */
  @Put(':id/readings/:cell')
  @ApiOkResponse({ type: TrialDto })
  read(@Param('id') id: string, @Param('cell') cell: string, @Body() body: CellReadingDto) {
    return this.trials.read(id, cell, body as CellReading)
  }

  /** The piece as G-code. */
  @Get(':id/piece.gcode')
  async gcode(@Param('id') id: string) {
    const { name, text } = await this.trials.gcode(id)
    return new StreamableFile(Buffer.from(text), {
      type: 'text/plain; charset=utf-8',
      disposition: `attachment; filename="${name}"`,
    })
  }

  /** Takes values into a new recipe version, as measured. */
  @Post(':id/adopt')
  @HttpCode(200)
  @ApiOkResponse({ type: TrialDto })
  adopt(@Param('id') id: string, @Body() body: AdoptTrialDto) {
    return this.trials.adopt(id, body.base, body.keys)
  }
}

@Module({ imports: [PairsModule], controllers: [TrialsController], providers: [Trials], exports: [Trials] })
export class TrialsModule {}
