import { Injectable } from '@nestjs/common'
import {
  printEnded,
  printReport,
  type CaseDetail,
  type Print,
  type PrintReport,
  type PrintState,
} from '@verimend/contract'
import { signsThat, type SignResults } from '@verimend/core/casework'
import { isSignId, type SignId } from '@verimend/core/knowledge'
import { PRACTICE_SIZE } from '@verimend/core/planner'
import { NO_READING, PIECES, type CellReading, type Readings } from '@verimend/core/trials'
import { z } from 'zod'
import { AttemptsService } from '../cases/attempts.service'
import { CasesService } from '../cases/cases.service'
import type { PrintRow } from '../database/models'
import { LinksService, seedOf } from '../links/links.service'
import { ProblemException, refused } from '../problem/problem'
import { TrialsRepository } from '../trials/trials.repository'
import { TrialsService } from '../trials/trials.service'
import { PrintsRepository } from './prints.repository'
import { PrintsService } from './prints.service'

const graded = z.record(z.string(), z.record(z.string(), z.number().nullable()))
const measured = z.record(z.string(), z.array(z.number()))
const reported = z.object({
  appearances: z.record(z.string(), z.union([z.literal(0), z.literal(1), z.literal(2)])),
  grams: z.number(),
  seconds: z.number(),
  layers: z.number(),
  brokeOff: z.boolean(),
  box: printReport.shape.box,
})

type Place = { x0: number; x1: number; y0: number; y1: number; z0: number; z1: number }
/** How often each place is measured when the demo enters what it sees. */
const REPEATS = 3

/** Looks at what a simulated machine has made, as a person would at a part. */
@Injectable()
export class InspectionService {
  constructor(
    private readonly prints: PrintsRepository,
    private readonly printsService: PrintsService,
    private readonly links: LinksService,
    private readonly trials: TrialsService,
    private readonly trialsKept: TrialsRepository,
    private readonly cases: CasesService,
    private readonly attempts: AttemptsService,
  ) {}

  // seeds hang on the print: the same part seen again gives the same words, another print another look
  private async made(id: string): Promise<PrintRow> {
    const row = await this.printsService.current(id)
    if (row.link !== 'standin')
      throw refused('not-simulated', 'This was printed on a real machine: look at the part itself.')
    if (!printEnded(row.state as PrintState))
      throw refused('still-printing', 'The part is still on the machine; look at it when it is done.')
    return row
  }

  async picture(
    id: string,
    view: 'side' | 'top' | 'first',
    size: number,
  ): Promise<{ bytes: Buffer; lies: string }> {
    await this.made(id)
    return this.links.standin.picture(id, view, size)
  }

  /** Readings of a caliper or a scale, each with its scatter. */
  async measure(
    id: string,
    { region, what, axis, repeats }: { region: Place; what: string; axis: string; repeats: number },
  ): Promise<number[]> {
    const row = await this.made(id)
    const out = measured.parse(
      await this.links.standin.measure(id, {
        seed: seedOf(row.id),
        places: [{ id: 'here', region, what, axis, repeats }],
      }),
    )
    return out.here ?? []
  }

  /** What a person would say of it: some things are missed, some mistaken, some not looked at. */
  async report(id: string): Promise<PrintReport> {
    const row = await this.made(id)
    const { appearances, ...rest } = reported.parse(
      await this.links.standin.report(id, {
        seed: seedOf(row.id),
        // who holds it knows what it was to measure
        ...(row.kind === 'practice' && { meant: PRACTICE_SIZE }),
      }),
    )
    const signs: Partial<Record<SignId, 0 | 1 | 2>> = {}
    for (const [sign, level] of Object.entries(appearances)) if (isSignId(sign)) signs[sign] = level
    return { signs, ...rest }
  }

  /** Enters what a person would note: of each place of a trial's piece, or of the signs of a case. */
  async enter(id: string): Promise<Print> {
    const row = await this.made(id)
    // asked for again after a lost answer, it is entered once
    if (row.enteredAt) return this.printsService.view(row)
    if (row.trialId) await this.enterTrial(row, row.trialId)
    else if (row.caseId) await this.enterCase(row, row.caseId)
    else
      throw refused('nowhere', 'This print belongs to no trial and no case: there is nothing to enter it in.')
    return this.printsService.entered(id)
  }

  /** Marks the signs of a case; after a change, says what came of it against the print before. */
  private async enterCase(row: PrintRow, caseId: string): Promise<void> {
    const { signs: now } = await this.report(row.id)
    const levels = Object.entries(now) as [SignId, 0 | 1 | 2][]
    const kase = await this.withAttemptOf(row, await this.cases.detail(caseId))
    const open = kase.attempts.find((a) => a.recordedAt === null)
    if (!open) {
      const present = levels.filter(([, l]) => l > 0).sort((a, b) => b[1] - a[1])
      return void (await this.cases.setSigns(
        caseId,
        present.map(([s]) => s),
        levels.filter(([, l]) => l === 0).map(([s]) => s),
      ))
    }
    const [before] = (await this.prints.newestOf(caseId)).filter(
      (p) => p.createdAt < row.createdAt && p.state === 'done' && p.link === 'standin' && p.kind !== 'trial',
    )
    const was = before ? (await this.report(before.id)).signs : {}
    const results: SignResults = {}
    for (const s of signsThat('present', kase.signs)) {
      const [then, since] = [was[s] ?? 2, now[s] ?? was[s] ?? 2]
      results[s] = since === 0 ? 'gone' : since < then ? 'better' : since > then ? 'worse' : 'same'
    }
    const seen = new Set(Object.keys(results))
    await this.attempts.record(caseId, open.number, {
      results,
      newSigns: levels.filter(([s, l]) => l > 0 && !seen.has(s)).map(([s]) => s),
      notThere: levels.filter(([s, l]) => l === 0 && !seen.has(s)).map(([s]) => s),
      note: 'Noted from a simulated print.',
    })
  }

  /** The case with an attempt for what was changed outside it and printed here, so that its signs are an outcome. */
  private async withAttemptOf(row: PrintRow, kase: CaseDetail): Promise<CaseDetail> {
    const last = kase.attempts.at(-1)
    const known = last?.toVersion ?? kase.startVersion
    if (last?.recordedAt === null || row.version === known) return kase
    // the print before it has shown what was wrong: without that there is nothing to compare with
    if (!signsThat('present', kase.signs).length) return kase
    try {
      return await this.attempts.takeUp(kase.id, { from: 'recipe', base: row.version })
    } catch (error) {
      // nothing that fixes anything was changed, or the recipe has moved on once more
      if (error instanceof ProblemException) return kase
      throw error
    }
  }

  private async enterTrial(row: PrintRow, trialId: string): Promise<void> {
    const { id } = row
    const { cells, plan } = await this.trialsKept.get(trialId)
    const { criteria } = PIECES[plan.piece]
    const grades = graded.parse(
      await this.links.standin.look(id, {
        seed: seedOf(row.id),
        places: cells.map((c) => ({
          id: c.id,
          region: c.box,
          aspects: c.measure && plan.piece !== 'joint-ladder' ? [] : [...criteria],
        })),
      }),
    )
    const sizes = measured.parse(
      await this.links.standin.measure(id, {
        seed: seedOf(row.id),
        places: cells.flatMap((c) =>
          c.measure
            ? [
                {
                  id: c.id,
                  region: c.box,
                  what: c.measure,
                  axis: c.axis ?? 'x',
                  repeats: c.measure === 'grams' ? 1 : REPEATS,
                },
              ]
            : [],
        ),
      }),
    )
    const readings: Readings = {}
    for (const c of cells) {
      const own = Object.entries(grades[c.id] ?? {}).filter(([, g]) => g !== null)
      const reading: CellReading = {
        ...NO_READING,
        grades: Object.fromEntries(own) as CellReading['grades'],
        measures: sizes[c.id] ?? [],
      }
      if (own.length || reading.measures.length) readings[c.id] = reading
    }
    if (!Object.keys(readings).length)
      throw refused('nothing-to-see', 'Too little was made to be read: the print ended before its places.')
    await this.trials.readSimulated(trialId, readings)
  }
}
