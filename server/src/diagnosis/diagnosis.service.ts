import { Injectable } from '@nestjs/common'
import { takenOf } from '@verimend/contract'
import { MeasurementsRepository } from '../measurements/measurements.repository'
import type { GivenDiagnosis, askDiagnosis } from '@verimend/contract'
import {
  EMPTY_CASE,
  caseReason,
  type CaseOnBench,
  type Diagnosis,
  type DiagnosisContext,
} from '@verimend/core/casework'
import type { AdvisedStep, Proposal, Weighed } from '@verimend/core/diagnosis'
import { deriveRecipe, inheritedIn, keysOf, layOver, pinsOf } from '@verimend/core/recipe'
import { say, stepName, suspectName } from '@verimend/core/words'
import type { z } from 'zod'
import { CasesService } from '../cases/cases.service'
import { LessonsService } from '../cases/lessons.service'
import { Compute } from '../compute/compute.service'
import { today } from '../http/day'
import { PairsRepository } from '../pairs/pairs.repository'
import { VersionsRepository } from '../pairs/versions.repository'
import { refused } from '../problem/problem'
import { TrialsRepository } from '../trials/trials.repository'

type Asked = z.infer<typeof askDiagnosis>
/** Most mends that are told. */
const MOST_MENDS = 30
/** Id of the one file that was sent along. */
const SENT = 'sent'

/** The same diagnosis as on the bench, for programs: ids in; ranked suspects, weights and advised steps out. */
@Injectable()
export class DiagnosisService {
  constructor(
    private readonly pairs: PairsRepository,
    private readonly versions: VersionsRepository,
    private readonly trials: TrialsRepository,
    private readonly measurements: MeasurementsRepository,
    private readonly cases: CasesService,
    private readonly lessons: LessonsService,
    private readonly compute: Compute,
  ) {}

  async ask(asked: Asked, signal?: AbortSignal): Promise<GivenDiagnosis> {
    const kept = asked.caseId === undefined ? null : await this.cases.detail(asked.caseId)
    const pairId = kept?.pairId ?? asked.pairId
    const context = pairId === undefined ? bare(asked) : await this.contextOf(pairId, kept?.id ?? null, asked)
    const bench = kept ? joined(kept, benchOf(asked, kept.attempts.length)) : benchOf(asked)
    return told(await this.compute.run('diagnose', { bench, context }, signal))
  }

  /** What is known of a kept pair. */
  private async contextOf(pairId: string, caseId: string | null, asked: Asked): Promise<DiagnosisContext> {
    const pair = await this.pairs.load(pairId)
    const { recipe, number, changes } = await this.versions.current(pair)
    const { machine, filament } = pair
    const trials = await this.trials.newestFirst(pairId)
    const lessons = await this.lessons.about(pairId)
    const measured = await this.measurements.newestFirst({ machineId: pair.row.machineId, pairId })
    return {
      machine,
      filament,
      recipe: keysOf(asked.recipe ?? {}).length
        ? deriveRecipe({
            machine,
            filament,
            pins: layOver(pinsOf(recipe.values), asked.recipe ?? {}, ASKED),
            relative: inheritedIn(recipe.values),
          })
        : recipe.values,
      today: today(),
      latest: { version: number, changes },
      trials: trials.map(({ row, ...t }) => ({ ...t, createdAt: row.createdAt.toISOString() })),
      lessons: lessons.filter((l) => l.learns && l.caseId !== caseId),
      measurements: takenOf(measured, caseId),
      weights: asked.weights,
    }
  }
}

const ASKED = { source: 'hand', reason: caseReason('as-asked') } as const

/** A machine and a roll that are not kept here. */
function bare({ machine, filament, recipe = {}, weights }: Asked): DiagnosisContext {
  if (!machine || !filament)
    throw refused('no-pair', 'Name a case or a pair, or give a machine and a filament.')
  return {
    machine,
    filament,
    recipe: deriveRecipe({ machine, filament, pins: layOver({}, recipe, ASKED) }),
    today: today(),
    weights,
  }
}

/**
 * What was sent along.
 * @param after attempts that were made before
 */
function benchOf({ signs, attempts = [], checks = [], reading, cannot = [] }: Asked, after = 0): CaseOnBench {
  return {
    ...EMPTY_CASE,
    signs,
    outcomes: attempts.map((a, i) => ({ number: after + i + 1, ...a })),
    checks,
    files: reading ? [{ id: SENT, afterAttempt: after, reading }] : [],
    cannot,
  }
}

/** A kept case with what was sent along laid over. */
const joined = (kept: CaseOnBench, sent: CaseOnBench): CaseOnBench => ({
  ...kept,
  signs: { ...kept.signs, ...sent.signs },
  outcomes: sent.outcomes,
  checks: [...kept.checks, ...sent.checks],
  files: [...kept.files, ...sent.files],
  cannot: [...kept.cannot, ...sent.cannot],
})

const weighedOf = ({ id, probability, weights }: Weighed) => ({
  id,
  name: suspectName(id),
  probability,
  weights: weights.map(({ decibans, kind, reason }) => ({ decibans, kind, reason, words: say(reason) })),
})
const stepOf = (step: AdvisedStep) => {
  const { id, kind, minutes, machineMinutes, grams, expected, saves, picture } = step
  const name = stepName(step)
  return { id, kind, name, minutes, machineMinutes, grams, expected, saves, words: picture.map(say) }
}
const mendOf = (p: Proposal) => ({
  id: p.id,
  suspect: p.suspect,
  also: p.also,
  ...(p.kind === 'setting'
    ? { kind: p.kind, key: p.key, from: p.from, to: p.to }
    : { kind: p.kind, procedure: p.procedure }),
  why: say(p.why),
  watch: p.watch,
  expectedMinutes: p.expectedMinutes,
  cautions: p.cautions.map(say),
})

/** A diagnosis with the sentences that go with its codes. */
const told = ({ balance, plan, proposals, blocked }: Diagnosis): GivenDiagnosis => ({
  fitDecibans: balance.fitDecibans,
  suspects: balance.suspects.map(weighedOf),
  next: plan.next && stepOf(plan.next),
  others: plan.others.map(stepOf),
  conflicts: plan.conflicts.map(say),
  atOnce: plan.atOnce,
  blocked: blocked.map(({ suspect, key, why }) => ({ suspect, key, why: say(why) })),
  mends: proposals.slice(0, MOST_MENDS).map(mendOf),
})
