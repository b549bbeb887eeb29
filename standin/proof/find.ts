import {
  diagnoseCase,
  DONE_BY,
  EMPTY_CASE,
  NAMED_BY,
  overallOutcome,
  signsAfter,
  type CaseOnBench,
  type Diagnosis,
  type SignResults,
} from '@verimend/core/casework'
import { MAX_SIGNS_SEEN, type Proposal, type SignStates } from '@verimend/core/diagnosis'
import {
  SIGNS,
  SUSPECT_IDS,
  isSignId,
  suspectOf,
  type SignId,
  type SuspectId,
} from '@verimend/core/knowledge'
import type { FamilyId } from '@verimend/core/material'
import { PRACTICE_PIECE, writePart } from '@verimend/core/planner'
import { printSettingsOf, type Changes } from '@verimend/core/recipe'
import { isPiece, PieceError, proposeSteps } from '@verimend/core/trials'
import {
  appearancesOf,
  handled,
  HANDLING_IDS,
  propertyOf,
  reportOf,
  USUAL_PERSON,
  worldWith,
  type Handling,
  type Level,
  type PropertyId,
} from '../src'
import { answer } from './answers'
import { MACHINES, newRoll, Sitting, TODAY, type MachineKind } from './sitting'

/** Steps after which a person gives up. */
const MOST_STEPS = 16
/** Minutes of a person for a mend, besides printing. */
const HANDS = 5

export type Way = 'advice' | 'by prior' | 'first in family'

export interface Found {
  seed: number
  kind: MachineKind
  family: FamilyId
  hidden: PropertyId[]
  way: Way
  /** Checks, trials and mends; looking once more at the part is none. */
  steps: number
  grams: number
  minutes: number
  /** Every hidden property is put right, or nothing of it is to be seen any more. */
  fixed: boolean
  /** The suspect whose mend ended it, or the first on the list when it ended, is the right one. */
  named: boolean
  /** A mend made the part worse, and the next one did so again. */
  worseTwice: boolean
  /** It ended with signs left and nothing proposed. */
  stranded: boolean
  log: string[]
}

type Levels = Partial<Record<SignId, Level>>

/** One person with one bad print. */
class Bench {
  readonly sitting: Sitting
  bench: CaseOnBench = EMPTY_CASE
  levels: Levels = {}
  steps = 0
  minutes = 0
  log: string[] = []
  leaders: SuspectId[] = []
  outcomes: ReturnType<typeof overallOutcome>[] = []
  private visit = 0

  constructor(
    readonly kind: MachineKind,
    readonly family: FamilyId,
    readonly seed: number,
    readonly hidden: readonly PropertyId[],
  ) {
    const world = worldWith(MACHINES[kind], family, seed, hidden)
    this.sitting = new Sitting(MACHINES[kind], newRoll(family), world, { ...USUAL_PERSON, seed })
    this.levels = this.printed()
    const seen = (Object.entries(this.levels) as [SignId, Level][]).sort((a, b) => b[1] - a[1])
    const signs: SignStates = {}
    for (const [s, level] of seen)
      if (level === 0) signs[s] = 'absent'
      else if (Object.values(signs).filter((x) => x === 'present').length < MAX_SIGNS_SEEN)
        signs[s] = 'present'
    this.bench = { ...EMPTY_CASE, signs }
    this.log.push(`seen ${this.present.join(', ')}`)
  }

  get present(): SignId[] {
    return (Object.keys(this.bench.signs) as SignId[]).filter((s) => this.bench.signs[s] === 'present')
  }

  /** Prints the practice piece with the recipe as it is, and says what there is to see. */
  private printed(): Levels {
    const { sitting } = this
    const part = sitting.print(writePart(sitting.machine, printSettingsOf(sitting.recipe), PRACTICE_PIECE))
    const told = reportOf(appearancesOf(part, sitting.world), {
      ...sitting.person,
      seed: sitting.person.seed * 131 + ++this.visit,
    })
    return Object.fromEntries(Object.entries(told).filter(([s]) => isSignId(s))) as Levels
  }

  diagnosis(): Diagnosis {
    const d = diagnoseCase(this.bench, { ...this.sitting.pair, today: TODAY, trials: this.sitting.trials })
    if (d.balance.suspects.length) this.leaders.push(d.balance.suspects[0].id)
    return d
  }

  look(signs: readonly SignId[]): void {
    const states = { ...this.bench.signs }
    // what was not looked at is looked at now; of what the part cannot show nothing is there
    for (const s of signs) states[s] = (this.levels[s] ?? 0) > 0 ? 'present' : 'absent'
    this.bench = { ...this.bench, signs: states }
  }

  cannot(id: string): void {
    this.bench = { ...this.bench, cannot: [...this.bench.cannot, id] }
  }

  check(id: string, check: Parameters<typeof answer>[0], about: readonly SuspectId[], minutes: number): void {
    const told = answer(check, about, this.sitting.world, this.sitting.machine, ++this.visit)
    if (!told) return this.cannot(id)
    this.steps++
    this.minutes += minutes
    this.log.push(`check ${check}: ${[...told].map(([s, so]) => `${s} ${so ? 'yes' : 'no'}`).join(', ')}`)
    const results = [...told].map(([suspect, found]) => ({ by: check, suspect, found }))
    // what it did not tell is not asked by it again
    this.bench = { ...this.bench, checks: [...this.bench.checks, ...results] }
    if (told.size < about.length) this.cannot(id)
  }

  trial(id: string, trial: string): void {
    if (!isPiece(trial)) return this.cannot(id)
    try {
      const { steps, across } = proposeSteps(this.sitting.pair, trial)
      const outcome = this.sitting.tryPiece({ piece: trial, steps, ...(across && { across }) })
      this.sitting.adopt(outcome)
      this.steps++
      this.log.push(
        `trial ${trial}: ${outcome.kind} ${outcome.adopt.map((a) => `${a.key} ${a.value}`).join(', ')}`,
      )
    } catch (error) {
      if (!(error instanceof PieceError)) throw error
    }
    this.cannot(id)
  }

  mend(p: Proposal): void {
    this.steps++
    this.minutes += HANDS
    const before = this.bench.signs
    const { sitting } = this
    if (p.kind === 'setting') sitting.take({ [p.key]: p.to } as Changes)
    else if (p.procedure === 'measure-filament')
      sitting.filament = {
        ...sitting.filament,
        measured: sitting.observe('measure-diameter').map((a) => ({ a, b: null })),
      }
    else if (p.procedure === 'find-by-trial') {
      const { look } = p.why.values as { look?: string }
      if (look) this.trial(p.id, look)
    } else
      for (const what of DONE_BY[p.procedure] ?? [])
        if ((HANDLING_IDS as string[]).includes(what))
          sitting.world = handled(sitting.world, what as Handling)
    const was = this.levels
    const now = this.printed()
    const results: SignResults = {}
    for (const s of this.present) {
      const [then, since] = [was[s] ?? 2, now[s] ?? was[s] ?? 2]
      results[s] = since === 0 ? 'gone' : since < then ? 'better' : since > then ? 'worse' : 'same'
    }
    const seen = new Set(this.present)
    const newSigns = (Object.keys(now) as SignId[]).filter((s) => now[s]! > 0 && !seen.has(s))
    const notThere = (Object.keys(now) as SignId[]).filter((s) => now[s] === 0 && !seen.has(s))
    this.levels = { ...was, ...now }
    const number = this.bench.attempts.length + 1
    const attempt = {
      number,
      mends: [
        p.kind === 'setting'
          ? ({ suspect: p.suspect, kind: 'setting', key: p.key, from: p.from, to: p.to } as const)
          : ({ suspect: p.suspect, kind: 'handling', procedure: p.procedure } as const),
      ],
      signsBefore: before,
      results,
      newSigns,
      fromVersion: number,
      toVersion: number + 1,
    }
    this.outcomes.push(overallOutcome(attempt))
    this.log.push(
      `mend ${p.id} ${p.kind === 'setting' ? `${p.key} ${p.from}→${p.to}` : p.procedure}: ${Object.entries(
        results,
      )
        .map(([s, r]) => `${s} ${r}`)
        .join(', ')}${newSigns.length ? `; new ${newSigns.join(', ')}` : ''}`,
    )
    const room = MAX_SIGNS_SEEN - Object.values(results).filter((r) => r !== 'gone').length
    this.bench = {
      ...this.bench,
      attempts: [...this.bench.attempts, attempt],
      signs: signsAfter(before, results, newSigns.slice(0, Math.max(0, room)), notThere),
    }
  }
}

/** A mend the way goes on with; null where it has none left. */
function byRule(b: Bench, way: Exclude<Way, 'advice'>, tried: Set<string>): Proposal | null {
  const d = b.diagnosis()
  const families = new Set(b.present.map((s) => SIGNS[s].family))
  const able = SUSPECT_IDS.filter((id) =>
    Object.keys(suspectOf(id).signs).some((s) => families.has(SIGNS[s as SignId].family)),
  )
  const order = way === 'by prior' ? [...able].sort((x, y) => weightOf(y) - weightOf(x)) : able
  for (const id of order) {
    const p = d.proposals.find((q) => q.suspect === id && !tried.has(q.id))
    if (!p) continue
    tried.add(p.id)
    return p
  }
  return null
}
const weightOf = (s: SuspectId) => ({ C: 3, O: 2, R: 1 })[suspectOf(s).prior]

/** Goes on until nothing is seen any more, nothing is left to do, or patience ends. */
export function find(
  kind: MachineKind,
  family: FamilyId,
  seed: number,
  hidden: PropertyId[],
  way: Way,
): Found {
  const b = new Bench(kind, family, seed, hidden)
  const tried = new Set<string>()
  let stranded = false
  for (let round = 0; b.present.length && b.steps < MOST_STEPS && round < 60; round++) {
    if (way !== 'advice') {
      const p = byRule(b, way, tried)
      if (!p) break
      b.mend(p)
      continue
    }
    const d = b.diagnosis()
    const { next } = d.plan
    if (!next) {
      stranded = true
      break
    }
    if (next.kind === 'look') b.look(next.signs)
    else if (next.kind === 'check') b.check(next.id, next.check, next.about, next.minutes)
    else if (next.kind === 'trial') b.trial(next.id, next.trial)
    else b.mend(d.proposals.find((p) => p.id === next.proposal)!)
  }
  const { world, machine } = b.sitting
  const right = new Set(hidden.flatMap((id) => NAMED_BY[id] ?? []))
  const last = b.bench.attempts.at(-1)
  const cured = b.bench.attempts.filter((a) => ['gone', 'better'].includes(overallOutcome(a) ?? ''))
  const stillBroken = hidden.filter((id) => {
    const { read, sound } = propertyOf(id)
    const [low, high] = sound(world, machine)
    return read(world) < low || read(world) > high
  })
  return {
    seed,
    kind,
    family,
    hidden,
    way,
    steps: b.steps,
    grams: b.sitting.grams,
    minutes: b.minutes + b.sitting.minutes,
    fixed: b.present.length === 0 || stillBroken.length === 0,
    named:
      cured.some((a) => a.mends.some((m) => right.has(m.suspect))) ||
      (b.leaders.length > 0 && right.has(b.leaders[b.leaders.length - 1])) ||
      (!!last && last.mends.some((m) => right.has(m.suspect))),
    worseTwice: b.outcomes.some((o, i) => i > 0 && o === 'worse' && b.outcomes[i - 1] === 'worse'),
    stranded,
    log: b.log,
  }
}
