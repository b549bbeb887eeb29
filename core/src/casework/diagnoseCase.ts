import { proposeMends, type BlockedMend } from '../diagnosis/advice/mends'
import type { Proposal } from '../diagnosis/advice/proposal'
import { planNext, type Advice } from '../diagnosis/advice/plan'
import type { CostWeights } from '../diagnosis/advice/steps'
import { gatherFacts } from '../diagnosis/evidence/facts'
import { findingsOf } from '../diagnosis/evidence/findings'
import { lookEvidence, type LookResult } from '../diagnosis/evidence/looks'
import { markEvidence } from '../diagnosis/evidence/marks'
import { evidenceOfMeasurements, inUseOf, type TakenMeasurement } from '../diagnosis/evidence/measurement'
import { findingContext, findingEvidence } from '../diagnosis/evidence/path'
import { evidenceOfTrials } from '../diagnosis/evidence/trial'
import {
  infer,
  weigh,
  type AttemptEvidence,
  type Balance,
  type SignStates,
} from '../diagnosis/inference/balance'
import type { Facts } from '../knowledge/facts'
import type { FaultFamily } from '../knowledge/signs'
import type { MeasurementContext } from '../measurement/evaluate'
import type { Reason } from '../quantity/reason'
import type { NumberKey } from '../recipe/settings'
import { median } from '../statistics/summary'
import type { HeightRange, QuantityId } from '../toolpath/correlate'
import type { PathReading } from '../toolpath/reading'
import { standingTrials } from './groundOfTrials'
import type { PartFacts } from './partFacts'
import type { PairOnBench } from '../trials/pieces/piece'
import type { ReadTrial } from '../trials/types'
import { setEvidence, type DesignedSet } from './designs'
import { learntEvidence, type Lesson } from './learning'
import {
  asItTurnedOut,
  attemptEvidence,
  curesOf,
  otherWayEvidence,
  recipeSeen,
  triedIn,
  type LatestChange,
  type NotedAttempt,
} from './notebook'

/** A path file of a case, as far as its diagnosis needs it. */
export interface CaseReading {
  id: string
  /** The attempts made before the file was put in: it shows the print after that many changes. */
  afterAttempt: number
  reading: PathReading
}
/** Heights marked on the part that match a quantity of a path file. */
export interface HeightMark {
  fileId: string
  heightRanges: HeightRange[]
  quantity: QuantityId
  strength: number
  p: number
  reason: Reason
}

/** What of a case bears on its diagnosis. */
export interface CaseOnBench {
  signs: SignStates
  attempts: readonly (NotedAttempt & { fromVersion: number; toVersion: number })[]
  files: readonly CaseReading[]
  marks: readonly HeightMark[]
  /** What a person noted of checks and trials. */
  checks: readonly LookResult[]
  sets: readonly DesignedSet[]
  /** mm, the part's longest side; null or left out where nobody said. */
  longest?: number | null
  /** What the part's mesh says; null or left out where none is kept. */
  about?: PartFacts | null
  /** Steps that cannot be done, by id. */
  cannot: readonly string[]
  /** Outcomes of attempts that are told without their notebook. */
  outcomes?: readonly AttemptEvidence[]
}
/** A case with nothing in it. */
export const EMPTY_CASE: CaseOnBench = {
  signs: {},
  attempts: [],
  files: [],
  marks: [],
  checks: [],
  sets: [],
  cannot: [],
}

/** What a case is looked at with: its pair, and what is known from elsewhere. */
export interface DiagnosisContext extends PairOnBench {
  /** ISO date. */
  today: string
  /** What the recipe's version changed, so that an attempt that was only begun changes no chance. */
  latest?: LatestChange
  /** Trials of the pair. */
  trials?: readonly ReadTrial[]
  /** Measurements of the pair and of its machine, the newest last. */
  measurements?: readonly TakenMeasurement[]
  /** Closed cases to learn from; the case itself is not among them. */
  lessons?: readonly Lesson[]
  /** What a minute, a gram and a risk are worth to this person. */
  weights?: Partial<CostWeights>
  /** Only suspects that can produce a sign of these families; all when left out. */
  families?: readonly FaultFamily[]
}

export interface Diagnosis {
  facts: Facts
  balance: Balance
  /** Least expected cost to the fix first. */
  proposals: Proposal[]
  /** Mends that limits or rules cut away, and which. */
  blocked: BlockedMend[]
  /** The next best step: a look, a check, a trial or a mend. */
  plan: Advice
}

/** A mend after which the file before it shows another print. */
const makesPathsAnew = (m: { procedure?: string }) =>
  m.procedure === 'prepare-paths' || m.procedure === 'turn-part'

/**
 * The newest file that shows the print the signs were seen on; outdated when there is only an older one. An attempt
 * that was opened but not looked at yet has shown nothing: the file before it still counts.
 */
export function currentFile<F extends { afterAttempt: number }>(c: {
  files: readonly F[]
  attempts: readonly {
    number: number
    fromVersion: number
    toVersion: number
    results: object | null
    mends?: readonly { kind: string; procedure?: string }[]
  }[]
}): { file: F | null; outdated: boolean } {
  const last = c.files[c.files.length - 1] ?? null
  if (!last) return { file: null, outdated: false }
  const changes = c.attempts
    .filter((a) => a.results && (a.toVersion !== a.fromVersion || a.mends?.some(makesPathsAnew)))
    .map((a) => a.number)
  const latest = Math.max(0, ...changes)
  return last.afterAttempt >= latest ? { file: last, outdated: false } : { file: null, outdated: true }
}

/** What measurements are worked out with: the pair, its recipe, and what a path file shows of the layers. */
export function measurementContext(
  { machine, filament, recipe }: PairOnBench,
  reading: PathReading | null,
): MeasurementContext {
  const n = (key: NumberKey) => recipe[key].value
  const speeds = [n('outerSpeed'), n('innerSpeed'), n('sparseSpeed')]
  const own = reading && reading.layerCount > 4 ? reading.layers : null
  return {
    machine,
    filament,
    inUse: inUseOf(recipe),
    layerHeight: reading?.layerHeight ?? n('layerHeight'),
    speedRatio: Math.max(...speeds) / Math.min(...speeds),
    layerSeconds: own ? median(own.seconds.slice(2)) : null,
    layerFed: own ? median(own.fed.slice(2)) : null,
    layers: own,
    wall: n('outerWidth'),
  }
}

/** A quantity at marked heights and elsewhere, as its reason has them. */
function insideAndOutside({ values }: Reason): { inside: number; outside: number } {
  return { inside: Number(values.inside), outside: Number(values.outside) }
}

/**
 * The one assembly of a diagnosis, the same on the screen, over the API and in measurements: signs, attempts, path
 * file, marks, checks, designed sets, trials and closed cases in; suspects, mends and the next step out.
 */
export function diagnoseCase(c: CaseOnBench, context: DiagnosisContext): Diagnosis {
  const { machine, filament, recipe, today, lessons = [], weights, families } = context
  const trials = standingTrials(context.trials ?? [], c.attempts)
  const attempts = asItTurnedOut(c.attempts, c.signs)
  const { file } = currentFile(c)
  const reading = file?.reading ?? null
  const facts = gatherFacts({
    machine,
    filament,
    recipe: recipeSeen(recipe, attempts, context.latest),
    reading,
    longest: c.longest,
    about: c.about,
    today,
  })
  const ofTrials = [
    ...evidenceOfTrials(trials, { machine, filament, recipe }),
    ...evidenceOfMeasurements(context.measurements ?? [], measurementContext(context, reading)),
  ]
  // what a person noted of a trial goes before what is worked out from its readings
  const looks = [
    ...c.checks,
    ...setEvidence(c.sets),
    ...ofTrials.filter((t) => !c.checks.some((k) => k.by === t.by && k.suspect === t.suspect)),
  ]
  const known = {
    signs: c.signs,
    facts,
    attempts: [...attemptEvidence(attempts), ...(c.outcomes ?? [])],
    evidence: [
      ...(reading ? findingEvidence(findingsOf(reading, findingContext(context))) : []),
      ...lookEvidence(looks),
      ...learntEvidence(lessons),
      ...otherWayEvidence(attempts),
      // a mark speaks of the print it was made on
      ...c.marks
        .filter((m) => m.fileId === file?.id)
        .flatMap((m) => markEvidence({ ...m, ...insideAndOutside(m.reason), id: m.quantity })),
    ],
    families,
  }
  const balance = weigh(known)
  const print = reading && { minutes: reading.seconds / 60, grams: reading.filament.mass }
  const done = [
    ...looks.filter((l) => !l.elsewhere).map((l) => l.by),
    ...(reading ? (['read-paths'] as const) : []),
  ]
  const { proposals, blocked } = proposeMends({
    balance,
    facts,
    recipe,
    reading,
    machine,
    filament,
    today,
    signs: c.signs,
    cures: curesOf(attempts),
    tried: triedIn(attempts),
    done,
    found: looks.filter((l) => l.found && !l.elsewhere),
    printMinutes: print?.minutes,
  })
  const plan = planNext({
    balance,
    proposals,
    signs: c.signs,
    infer: ({ signs = {}, looks: more = [] }, aside) =>
      infer(
        {
          ...known,
          signs: { ...known.signs, ...signs },
          evidence: [...known.evidence, ...lookEvidence(more)],
        },
        aside,
      ),
    weights,
    cannot: c.cannot,
    // what the app did itself needs no asking
    done,
    ...(print && { print }),
  })
  return { facts, balance, proposals, blocked, plan }
}
