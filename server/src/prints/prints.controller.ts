import {
  Body,
  Controller,
  Get,
  HttpCode,
  Inject,
  Param,
  Post,
  Put,
  Query,
  Req,
  Res,
  Sse,
  StreamableFile,
  type MessageEvent,
} from '@nestjs/common'
import { ApiOkResponse, ApiTags } from '@nestjs/swagger'
import {
  changeLink,
  createPrint,
  listPrints,
  machineLink,
  measurePrint,
  observation,
  practiceStarted,
  printPage,
  printRecord,
  printReport,
  revealed,
  startPractice,
} from '@verimend/contract'
import { CHECK_IDS } from '@verimend/core/knowledge'
import { tokenOf } from '../access/access.controller'
import { AccessService } from '../access/access.service'
import { CONFIG, type Config } from '../config'
import { createZodDto } from '../http/zodDto'
import type { Request, Response } from 'express'
import { from, interval, map, merge, mergeMap, takeUntil, type Observable } from 'rxjs'
import { z } from 'zod'
import { LinksService } from '../links/links.service'
import { PairsRepository } from '../pairs/pairs.repository'
import { notFound } from '../problem/problem'
import { InspectionService } from './inspection.service'
import { PracticeService } from './practice.service'
import { PrintsService } from './prints.service'

class CreateDto extends createZodDto(createPrint) {}
class PrintDto extends createZodDto(printRecord) {}
class ReportDto extends createZodDto(printReport) {}
class MeasureDto extends createZodDto(measurePrint) {}
class LinkDto extends createZodDto(machineLink) {}
class ChangeLinkDto extends createZodDto(changeLink) {}
class StartDto extends createZodDto(startPractice) {}
class StartedDto extends createZodDto(practiceStarted) {}
class RevealedDto extends createZodDto(revealed) {}
class ObservationDto extends createZodDto(observation) {}
class ListQuery extends createZodDto(listPrints) {}
class PageDto extends createZodDto(printPage) {}
class PictureQuery extends createZodDto(
  z.object({
    view: z.enum(['side', 'top', 'first'], {
      error: 'A picture is from the side, from above, or of the first layer.',
    }),
    size: z.coerce.number().int().min(120).max(1600).default(900),
  }),
) {}
class CopyDto extends createZodDto(z.object({ id: z.string().max(40).optional() })) {}
class ObserveQuery extends createZodDto(
  z.object({
    pairId: z.string().max(40),
    check: z.enum(CHECK_IDS, { error: 'There is no such check.' }),
    visit: z.coerce.number().int().min(0).max(1_000_000).default(0),
  }),
) {}
class OfPair extends createZodDto(z.object({ pairId: z.string().max(40) })) {}

/** ms between signs of life to a page that watches. */
const BEAT = 15_000

@ApiTags('prints')
@Controller('api')
export class PrintsController {
  constructor(
    private readonly prints: PrintsService,
    private readonly inspection: InspectionService,
    private readonly practice: PracticeService,
    private readonly links: LinksService,
    private readonly pairs: PairsRepository,
    private readonly access: AccessService,
    @Inject(CONFIG) private readonly config: Config,
  ) {}

  @Get('prints')
  @ApiOkResponse({ type: PageDto })
  list(@Query() query: ListQuery) {
    return this.prints.list(query)
  }

  @Post('prints')
  @ApiOkResponse({ type: PrintDto })
  create(@Body() body: CreateDto) {
    return this.prints.create(body)
  }

  /** Every change of a print, and first of all what runs now; until the session ends. */
  @Sse('prints/events')
  events(@Req() request: Request): Observable<MessageEvent> {
    return merge(
      from(this.prints.running()).pipe(mergeMap((list) => list)),
      this.prints.changes,
      interval(BEAT).pipe(map(() => null)),
    ).pipe(
      map((print) => ({ type: print ? 'print' : 'beat', data: print ?? {} })),
      takeUntil(this.access.ends(tokenOf(request, this.config))),
    )
  }

  @Get('prints/:id')
  @ApiOkResponse({ type: PrintDto })
  one(@Param('id') id: string) {
    return this.prints.one(id)
  }

  @Post('prints/:id/pause')
  @HttpCode(200)
  @ApiOkResponse({ type: PrintDto })
  pause(@Param('id') id: string) {
    return this.prints.steer(id, 'pause')
  }
  @Post('prints/:id/resume')
  @HttpCode(200)
  @ApiOkResponse({ type: PrintDto })
  resume(@Param('id') id: string) {
    return this.prints.steer(id, 'resume')
  }
  @Post('prints/:id/stop')
  @HttpCode(200)
  @ApiOkResponse({ type: PrintDto })
  stop(@Param('id') id: string) {
    return this.prints.steer(id, 'stop')
  }

  /** The file as it was sent. */
  @Get('prints/:id/file.gcode')
  async file(@Param('id') id: string) {
    const { name, bytes } = await this.prints.file(id)
    return new StreamableFile(bytes, {
      type: 'text/plain; charset=utf-8',
      disposition: `attachment; filename="${name.replace(/[^\w.-]+/g, '-')}"`,
    })
  }

  /** What the machine's camera sees. */
  @Get('prints/:id/camera.png')
  async camera(@Param('id') id: string) {
    const still = await this.prints.still(id)
    if (!still) throw notFound('camera on this machine')
    return new StreamableFile(still, { type: 'image/png' })
  }

  /** A picture; how its pixels lie on the machine stands in a header. */
  @Get('prints/:id/picture.png')
  async picture(
    @Param('id') id: string,
    @Query() { view, size }: PictureQuery,
    @Res({ passthrough: true }) response: Response,
  ) {
    const { bytes, lies } = await this.inspection.picture(id, view, size)
    response.set('X-Picture', lies)
    return new StreamableFile(bytes, { type: 'image/png' })
  }

  @Post('prints/:id/measure')
  @HttpCode(200)
  @ApiOkResponse({ type: [Number] })
  measure(@Param('id') id: string, @Body() body: MeasureDto) {
    return this.inspection.measure(id, body)
  }

  @Get('prints/:id/report')
  @ApiOkResponse({ type: ReportDto })
  report(@Param('id') id: string) {
    return this.inspection.report(id)
  }

  /** Enters what a person would note of each place of a trial's piece. */
  @Post('prints/:id/enter')
  @HttpCode(200)
  @ApiOkResponse({ type: PrintDto })
  enter(@Param('id') id: string) {
    return this.inspection.enter(id)
  }

  @Get('links')
  @ApiOkResponse({ type: [LinkDto] })
  linked() {
    return this.links.list()
  }

  @Put('links/:machineId')
  @ApiOkResponse({ type: LinkDto })
  change(@Param('machineId') machineId: string, @Body() body: ChangeLinkDto) {
    return this.links.setPace(machineId, body.pace)
  }

  /** What somebody notes who makes a check on a simulated machine. */
  @Get('links/:machineId/observed')
  @ApiOkResponse({ type: ObservationDto })
  async observe(@Query() { pairId, check, visit }: ObserveQuery) {
    return this.links.observe(await this.pairs.load(pairId), check, visit)
  }

  /** The bed of a simulated machine as its probe touches it. */
  @Get('links/:machineId/bed')
  async bed(@Query() { pairId }: OfPair) {
    return this.links.bed(await this.pairs.load(pairId))
  }

  @Post('links/:machineId/copy')
  @HttpCode(200)
  copy(@Param('machineId') machineId: string, @Body() body: CopyDto) {
    return this.practice.copy(machineId, body.id)
  }

  @Post('links/:machineId/reveal')
  @HttpCode(200)
  @ApiOkResponse({ type: RevealedDto })
  reveal(@Param('machineId') machineId: string) {
    return this.practice.reveal(machineId)
  }

  @Post('practice')
  @HttpCode(200)
  @ApiOkResponse({ type: StartedDto })
  start(@Body() body: StartDto) {
    return this.practice.start(body)
  }
}
