import {
  Body,
  Controller,
  Delete,
  Get,
  HttpCode,
  Param,
  Post,
  Put,
  Query,
  StreamableFile,
} from '@nestjs/common'
import { ApiOkResponse, ApiTags } from '@nestjs/swagger'
import { adoptTrial, createTrial, putReading, trialSummary, updateTrial } from '@verimend/contract'
import { createZodDto } from '../http/zodDto'
import { z } from 'zod'
import { Gone } from '../http/gone'
import { TrialsService } from './trials.service'

class CreateTrialDto extends createZodDto(createTrial) {}
class UpdateTrialDto extends createZodDto(updateTrial) {}
class AdoptTrialDto extends createZodDto(adoptTrial) {}
class PutReadingDto extends createZodDto(putReading) {}
class TrialDto extends createZodDto(trialSummary) {}
class ListQuery extends createZodDto(
  z.object({ pairId: z.string({ error: 'Say of which pair.' }).max(40) }),
) {}

@ApiTags('trials')
@Controller('api/trials')
export class TrialsController {
  constructor(private readonly trials: TrialsService) {}

  @Get()
  @ApiOkResponse({ type: [TrialDto] })
  list(@Query() query: ListQuery) {
    return this.trials.list(query.pairId)
  }

  @Post()
  @ApiOkResponse({ type: TrialDto })
  create(@Body() body: CreateTrialDto, @Gone() gone: AbortSignal) {
    return this.trials.create(body, gone)
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
    return this.trials.softDelete(id)
  }

  @Post(':id/restore')
  @HttpCode(200)
  @ApiOkResponse({ type: TrialDto })
  restore(@Param('id') id: string) {
    return this.trials.restore(id)
  }

  /** What was noted of one band, patch or column; the whole of it. */
  @Put(':id/readings/:cell')
  @ApiOkResponse({ type: TrialDto })
  read(@Param('id') id: string, @Param('cell') cell: string, @Body() body: PutReadingDto) {
    const { was, ...reading } = body
    return this.trials.read(id, cell, reading, was)
  }

  /** The piece as G-code. */
  @Get(':id/piece.gcode')
  async gcode(@Param('id') id: string, @Gone() gone: AbortSignal) {
    const { name, text } = await this.trials.gcode(id, gone)
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
