import {
  Body,
  Controller,
  Delete,
  Get,
  Header,
  HttpCode,
  Param,
  ParseIntPipe,
  Post,
  Put,
  Query,
  StreamableFile,
} from '@nestjs/common'
import { ApiOkResponse, ApiTags } from '@nestjs/swagger'
import {
  addFile,
  addMark,
  caseDetail,
  caseFileHead,
  casePage,
  caseStatistics,
  closeCase,
  reopenCase,
  createAttempt,
  createCase,
  createSet,
  gradeRun,
  lesson,
  listCases,
  lookId,
  recordChecks,
  setCannot,
  setLearns,
  setCasePart,
  setLongest,
  takeUpAttempt,
  recordOutcome,
  setSign,
  updateCase,
} from '@verimend/contract'
import { isSignId } from '@verimend/core/knowledge'
import { createZodDto } from '../http/zodDto'
import { z } from 'zod'
import { Gone } from '../http/gone'
import { notFound } from '../problem/problem'
import { AttemptsService } from './attempts.service'
import { CasesService } from './cases.service'
import { FilesService } from './files.service'
import { LessonsService } from './lessons.service'
import { ReportsService } from './reports.service'
import { SetsService } from './sets.service'

class CreateCaseDto extends createZodDto(createCase) {}
class UpdateCaseDto extends createZodDto(updateCase) {}
class SetSignDto extends createZodDto(setSign) {}
class AddMarkDto extends createZodDto(addMark) {}
class AddFileDto extends createZodDto(addFile) {}
class CreateAttemptDto extends createZodDto(createAttempt) {}
class TakeUpDto extends createZodDto(z.object({ change: takeUpAttempt })) {}
class RecordOutcomeDto extends createZodDto(recordOutcome) {}
class CloseCaseDto extends createZodDto(closeCase) {}
class ReopenCaseDto extends createZodDto(reopenCase) {}
class RecordChecksDto extends createZodDto(recordChecks) {}
class SetCannotDto extends createZodDto(setCannot) {}
class CreateSetDto extends createZodDto(createSet) {}
class GradeRunDto extends createZodDto(gradeRun) {}
class SetLongestDto extends createZodDto(setLongest) {}
class SetPartDto extends createZodDto(setCasePart) {}
class SetLearnsDto extends createZodDto(setLearns) {}
class LessonDto extends createZodDto(lesson) {}
class LookParam extends createZodDto(z.object({ id: z.string(), by: lookId })) {}
class OfPairQuery extends createZodDto(z.object({ pairId: z.string().max(40) })) {}
class CaseFileHeadDto extends createZodDto(caseFileHead) {}
class CaseDto extends createZodDto(caseDetail) {}
class ListCasesQuery extends createZodDto(listCases) {}
class CasePageDto extends createZodDto(casePage) {}
class CaseStatisticsDto extends createZodDto(caseStatistics) {}

@ApiTags('cases')
@Controller('api/cases')
export class CasesController {
  constructor(
    private readonly cases: CasesService,
    private readonly files: FilesService,
    private readonly attempts: AttemptsService,
    private readonly sets: SetsService,
    private readonly lessons: LessonsService,
    private readonly reports: ReportsService,
  ) {}

  @Get()
  @ApiOkResponse({ type: CasePageDto })
  list(@Query() query: ListCasesQuery) {
    return this.cases.list(query)
  }

  /** What closed cases cost, and what cured them, by kind of fault. */
  @Get('statistics')
  @ApiOkResponse({ type: CaseStatisticsDto })
  statistics() {
    return this.cases.statistics()
  }

  @Post()
  @ApiOkResponse({ type: CaseDto })
  create(@Body() body: CreateCaseDto) {
    return this.cases.create(body)
  }

  /** Closed cases that teach about a pair. */
  @Get('lessons')
  @ApiOkResponse({ type: [LessonDto] })
  lessonsAbout(@Query() query: OfPairQuery) {
    return this.lessons.about(query.pairId)
  }

  /** Path files of a pair's cases. */
  @Get('files')
  @ApiOkResponse({ type: [CaseFileHeadDto] })
  filesOfPair(@Query() query: OfPairQuery) {
    return this.files.ofPair(query.pairId)
  }

  @Get(':id')
  @ApiOkResponse({ type: CaseDto })
  one(@Param('id') id: string) {
    return this.cases.detail(id)
  }

  @Put(':id')
  @ApiOkResponse({ type: CaseDto })
  update(@Param('id') id: string, @Body() body: UpdateCaseDto) {
    return this.cases.update(id, body.was, body.part, body.note)
  }

  @Put(':id/longest')
  @ApiOkResponse({ type: CaseDto })
  longest(@Param('id') id: string, @Body() body: SetLongestDto) {
    return this.cases.setLongest(id, body.longest)
  }

  @Put(':id/part')
  @ApiOkResponse({ type: CaseDto })
  part(@Param('id') id: string, @Body() body: SetPartDto) {
    return this.cases.setPart(id, body.partId, body.about)
  }

  @Delete(':id')
  @ApiOkResponse({ type: CaseDto })
  remove(@Param('id') id: string) {
    return this.cases.softDelete(id)
  }

  @Post(':id/restore')
  @HttpCode(200)
  @ApiOkResponse({ type: CaseDto })
  restore(@Param('id') id: string) {
    return this.cases.restore(id)
  }

  @Put(':id/signs/:sign')
  @ApiOkResponse({ type: CaseDto })
  sign(@Param('id') id: string, @Param('sign') sign: string, @Body() body: SetSignDto) {
    if (!isSignId(sign)) throw notFound('sign')
    return this.cases.setSign(id, sign, body.state)
  }

  @Post(':id/files')
  @ApiOkResponse({ type: CaseDto })
  addFile(@Param('id') id: string, @Body() body: AddFileDto) {
    return this.files.add(id, body)
  }

  @Delete(':id/files/:file')
  @ApiOkResponse({ type: CaseDto })
  removeFile(@Param('id') id: string, @Param('file') file: string) {
    return this.files.remove(id, file)
  }

  /** Heights of the flaw that match a quantity of a path file, as evidence. */
  @Post(':id/marks')
  @ApiOkResponse({ type: CaseDto })
  addMark(@Param('id') id: string, @Body() body: AddMarkDto, @Gone() gone: AbortSignal) {
    return this.files.addMark(id, body.fileId, body.heightRanges, body.quantity, gone)
  }

  @Delete(':id/marks/:mark')
  @ApiOkResponse({ type: CaseDto })
  removeMark(@Param('id') id: string, @Param('mark') mark: string) {
    return this.files.removeMark(id, mark)
  }

  /** What a check or trial found of its suspects. */
  @Put(':id/checks/:by')
  @ApiOkResponse({ type: CaseDto })
  checks(@Param() { id, by }: LookParam, @Body() body: RecordChecksDto) {
    return this.cases.recordLooks(id, by, body.results)
  }

  /** Steps that cannot be done. */
  @Put(':id/cannot')
  @ApiOkResponse({ type: CaseDto })
  cannot(@Param('id') id: string, @Body() body: SetCannotDto) {
    return this.cases.setCannot(id, body.cannot)
  }

  /** Whether the closed case moves priors. */
  @Put(':id/learns')
  @ApiOkResponse({ type: CaseDto })
  learns(@Param('id') id: string, @Body() body: SetLearnsDto) {
    return this.cases.setLearns(id, body.learns)
  }

  /** A designed set: a few prints in which several settings change at once. */
  @Post(':id/sets')
  @ApiOkResponse({ type: CaseDto })
  addSet(@Param('id') id: string, @Body() body: CreateSetDto) {
    return this.sets.add(id, body)
  }

  @Delete(':id/sets/:set')
  @ApiOkResponse({ type: CaseDto })
  removeSet(@Param('id') id: string, @Param('set') set: string) {
    return this.sets.remove(id, set)
  }

  @Put(':id/sets/:set/runs/:run')
  @ApiOkResponse({ type: CaseDto })
  gradeRun(
    @Param('id') id: string,
    @Param('set') set: string,
    @Param('run', ParseIntPipe) run: number,
    @Body() body: GradeRunDto,
  ) {
    return this.sets.grade(id, set, run, body.grade)
  }

  /** String posts for one print of a set. */
  @Get(':id/sets/:set/runs/:run/posts.gcode')
  async runFile(
    @Param('id') id: string,
    @Param('set') set: string,
    @Param('run', ParseIntPipe) run: number,
    @Gone() gone: AbortSignal,
  ) {
    return new StreamableFile(Buffer.from(await this.sets.runFile(id, set, run, gone)), {
      type: 'text/plain; charset=utf-8',
      disposition: `attachment; filename="print-${run}.gcode"`,
    })
  }

  /** The case to hand on, as Markdown. */
  @Get(':id/summary.md')
  @Header('Content-Type', 'text/markdown; charset=utf-8')
  @Header('Content-Disposition', 'attachment; filename="case.md"')
  markdown(@Param('id') id: string) {
    return this.reports.markdown(id)
  }

  /** The case to hand on, as PDF. */
  @Get(':id/summary.pdf')
  async pdf(@Param('id') id: string) {
    return new StreamableFile(await this.reports.pdf(id), {
      type: 'application/pdf',
      disposition: 'attachment; filename="case.pdf"',
    })
  }

  @Post(':id/attempts')
  @ApiOkResponse({ type: CaseDto })
  attempt(@Param('id') id: string, @Body() body: CreateAttemptDto) {
    return this.attempts.begin(id, body.base, body.mends)
  }

  /** Counts a change that was made outside the case as its attempt. */
  @Post(':id/attempts/take-up')
  @ApiOkResponse({ type: CaseDto })
  takeUp(@Param('id') id: string, @Body() body: TakeUpDto) {
    return this.attempts.takeUp(id, body.change)
  }

  @Delete(':id/attempts/:number')
  @ApiOkResponse({ type: CaseDto })
  withdraw(@Param('id') id: string, @Param('number', ParseIntPipe) number: number) {
    return this.attempts.withdraw(id, number)
  }

  /** Takes the change of an attempt that made things worse out of the recipe again. */
  @Post(':id/attempts/:number/take-back')
  @HttpCode(200)
  @ApiOkResponse({ type: CaseDto })
  takeBack(@Param('id') id: string, @Param('number', ParseIntPipe) number: number) {
    return this.attempts.takeBack(id, number)
  }

  @Post(':id/attempts/:number/outcome')
  @ApiOkResponse({ type: CaseDto })
  record(
    @Param('id') id: string,
    @Param('number', ParseIntPipe) number: number,
    @Body() body: RecordOutcomeDto,
  ) {
    return this.attempts.record(id, number, body)
  }

  @Post(':id/close')
  @HttpCode(200)
  @ApiOkResponse({ type: CaseDto })
  close(@Param('id') id: string, @Body() body: CloseCaseDto) {
    return this.cases.close(id, body.rev, body.keep)
  }

  @Post(':id/reopen')
  @HttpCode(200)
  @ApiOkResponse({ type: CaseDto })
  reopen(@Param('id') id: string, @Body() body: ReopenCaseDto) {
    return this.cases.reopen(id, body.back)
  }
}
