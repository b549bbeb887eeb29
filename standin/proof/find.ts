import {
  diagnoseCase,
  DONE_BY,
  EMPTY_CASE,
  NAMED_BY,
  overallOutcome,
  readingContextOf,
  signsAfter,
  type CaseOnBench,
  type Diagnosis,
  type SignResults,
} from '@verimend/core/casework'
import type { Proposal, SignStates } from '@verimend/core/diagnosis'
import {
  SIGNS,
  SUSPECT_IDS,
  isSignId,
  suspectOf,
  type SignId,
  type SuspectId,
} from '@verimend/core/knowledge'
import type { Kernel } from '@verimend/core/geometry'
import type { FamilyId } from '@verimend/core/material'
import { PRACTICE_SIZE } from '@verimend/core/planner'
import type { Changes } from '@verimend/core/recipe'
import { readGcode } from '@verimend/core/gcode'
import { readPath } from '@verimend/core/toolpath'
import { isPiece, PieceError, proposeSteps } from '@verimend/core/trials'
import {
  APPEARANCES,
  appearancesOf,
  broken,
  handled,
  HANDLING_IDS,
  propertyOf,
  reportOf,
  type Handling,
  type Level,
  type PrintedPart,
  type PropertyId,
  type Appearance,
  type World,
} from '../src'
import { answer } from './answers'
import { nextFile, type Made, type PrintedWith } from './changedFile'
import { settled } from './settled'
import { printed, TODAY, type MachineKind, type Sitting } from './sitting'

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
  /** Those of them that print something. */
  prints: number
  grams: number
  minutes: number
  /** Nothing was noticed on the bad print: nobody opens a case, and advice has no say. */
  unnoticed: boolean
  /** Nothing of what is hidden does any harm any more: put right, or made up for. */
  fixed: boolean
  /** What still differs from a sound machine, where it is not fixed, and what the person still saw. */
  harm: Appearance[]
  left: SignId[]
  /** One of the suspects of a mend that helped, or the first on the list when it ended, is the right one. */
  named: boolean
  /** A mend made the part worse, and the next one did so again. */
  worseTwice: boolean
  /** It ended with signs left and nothing proposed. */
  stranded: boolean
  /** Files of later prints that were made by changing the one before, and anew. */
  changed: number
  anew: number
  log: string[]
}

type Levels = Partial<Record<SignId, Level>>

/** How clear an appearance is that an eye would notice. */
const SEEN = 0.4

/** One person with one bad print. */
/** A practice piece as it came out. */
interface Printed {
  gcode: string
  world: World
  part: Pick<PrintedPart, 'grams' | 'seconds'>
  reading: ReturnType<typeof readPath>
  /** How clearly each appearance is there. */
  shows: Record<Appearance, number>
}

class Bench {
  readonly sitting: Sitting
  bench: CaseOnBench = EMPTY_CASE
  levels: Levels = {}
  steps = 0
  minutes = 0
  log: string[] = []
  leaders: SuspectId[] = []
  /** What each mend goes for, as its card says. */
  aims: SuspectId[][] = []
  /** The world before anything was hidden, and what was done by hand since. */
  private readonly before: World
  private readonly done: Handling[] = []
  /** What was seen at first, and how clearly. */
  begunWith: SignId[] = []
  private readonly first: Levels
  outcomes: ReturnType<typeof overallOutcome>[] = []
  private visit = 0
  /** What was printed last: the same file in the same world comes out the same. */
  private last: Printed | null = null
  private with: PrintedWith | null = null
  /** How the files of the prints came about, the first one left out. */
  made: Made[] = []

  constructor(
    readonly kind: MachineKind,
    readonly family: FamilyId,
    readonly seed: number,
    readonly hidden: readonly PropertyId[],
    private readonly kernel?: Kernel,
  ) {
    const ofRoll = hidden.some((id) => propertyOf(id).of === 'roll')
    this.sitting = settled(kind, family, seed, ofRoll)
    this.before = this.sitting.world
    this.sitting.world = broken(this.sitting.world, this.sitting.machine, seed, hidden, 'wide')
    this.levels = this.printed()
    this.first = this.levels
    const seen = (Object.entries(this.levels) as [SignId, Level][]).sort((a, b) => b[1] - a[1])
    const signs: SignStates = {}
    for (const [s, level] of seen) signs[s] = level === 0 ? 'absent' : 'present'
    this.bench = { ...this.bench, signs }
    this.begunWith = this.present
    this.log.push(`seen ${this.begunWith.join(', ')}`)
  }

  get present(): SignId[] {
    return (Object.keys(this.bench.signs) as SignId[]).filter((s) => this.bench.signs[s] === 'present')
  }

  /** The file for the recipe as it is: the one that was printed, with what has moved written into it. */
  private file(): string {
    const { recipe, machine } = this.sitting
    const { gcode, made } = nextFile(this.with, recipe, machine, this.kernel)
    if (this.with && made !== 'same') this.made.push(made)
    this.with = { gcode, recipe }
    return gcode
  }

  /** Prints the practice piece with the recipe as it is, and says what there is to see. */
  private printed(): Levels {
    const { sitting } = this
    const gcode = this.file()
    if (this.last?.gcode === gcode && this.last.world === sitting.world) sitting.charge(this.last.part)
    else {
      const part = sitting.print(gcode)
      const reading = readPath(
        readGcode(Buffer.from(gcode)),
        readingContextOf(sitting.machine, sitting.recipe),
      )
      const shows = appearancesOf(part, sitting.world, PRACTICE_SIZE)
      this.last = {
        gcode,
        world: sitting.world,
        part: { grams: part.grams, seconds: part.seconds },
        reading,
        shows,
      }
    }
    const { reading, shows: there } = this.last
    // what the paths show is known to the case, as where the app writes and sends the piece
    this.bench = {
      ...this.bench,
      files: [{ id: String(this.visit), afterAttempt: this.bench.attempts.length, reading }],
    }
    const look = () => reportOf(there, { ...sitting.person, seed: sitting.person.seed * 131 + ++this.visit })
    const [told, again] = [look(), look()]
    // what is new is looked at twice before it is believed
    const known = new Set(this.present)
    const believed = Object.entries(told).map(([s, level]): [string, Level] => [
      s,
      level > 0 && !known.has(s as SignId) && again[s as keyof typeof again] === 0 ? 0 : level,
    ])
    return Object.fromEntries(believed.filter(([s]) => isSignId(s))) as Levels
  }

  /**
   * Prints the same once more and looks, as somebody does who goes on printing: what the first look missed may show.
   * @returns whether something did
   */
  lookOnceMore(): boolean {
    const now = this.printed()
    const back = (Object.keys(now) as SignId[]).filter((s) => now[s]! > 0)
    this.levels = { ...this.levels, ...now }
    const signs = { ...this.bench.signs }
    for (const s of back) signs[s] = 'present'
    this.bench = { ...this.bench, signs }
    if (back.length) this.log.push(`back on the next part: ${back.join(', ')}`)
    return back.length > 0
  }

  /** Nothing is wrong any more, or so little of so much that a person leaves it at that. */
  get content(): boolean {
    const left = this.present
    if (!left.length) return true
    // what was clear and is slight now has not gone, what was slight all along is how this plastic prints
    const slight = left.length === 1 && this.levels[left[0]] === 1 && (this.first[left[0]] ?? 0) < 2
    return slight && this.begunWith.length > 1 && this.bench.attempts.length > 0
  }

  /** What is worse for what is hidden, so much that an eye would notice. */
  harm(): Appearance[] {
    const { sitting } = this
    const gcode = this.file()
    const shows = (world: World) =>
      appearancesOf(printed(gcode, sitting.machine, world), world, PRACTICE_SIZE)
    const { last } = this
    const now = last?.gcode === gcode && last.world === sitting.world ? last.shows : shows(sitting.world)
    const clear = APPEARANCES.filter((a) => now[a] >= SEEN)
    if (!clear.length) return []
    // the same without what is hidden, and with all that has been done by hand since
    const sound = shows(this.done.reduce(handled, this.before))
    return clear.filter((a) => now[a] - sound[a] >= SEEN)
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
    this.aims.push([p.suspect, ...p.also])
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
      // the trial and the print after it are one step
      if (look) {
        const { steps } = this
        this.trial(p.id, look)
        this.steps = steps
      }
    } else
      for (const what of DONE_BY[p.procedure] ?? [])
        if ((HANDLING_IDS as string[]).includes(what)) {
          sitting.world = handled(sitting.world, what as Handling)
          this.done.push(what as Handling)
        }
    const createdAt = sitting.now()
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
      createdAt,
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
    this.bench = {
      ...this.bench,
      files: this.bench.files.map((f) => ({ ...f, afterAttempt: number })),
      attempts: [...this.bench.attempts, attempt],
      signs: signsAfter(before, results, newSigns, notThere),
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
  kernel?: Kernel,
): Found {
  const b = new Bench(kind, family, seed, hidden, kernel)
  const tried = new Set<string>()
  let stranded = false
  let assured = 0
  for (let round = 0; b.steps < MOST_STEPS && round < 60; round++) {
    if (b.content) {
      // nobody opens a case of what was not noticed; what has gone is looked at once more on the next part
      const { length } = b.bench.attempts
      if (length === assured || !b.lookOnceMore()) break
      assured = length
      if (b.content) break
    }
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
  const harm = b.harm()
  const right = new Set(hidden.flatMap((id) => NAMED_BY[id] ?? []))
  const last = b.bench.attempts.at(-1)
  const cured = b.bench.attempts.filter((a) => ['gone', 'better'].includes(overallOutcome(a) ?? ''))
  return {
    seed,
    kind,
    family,
    hidden,
    way,
    steps: b.steps,
    // the first print is the bad one itself
    prints: b.sitting.prints - 1,
    grams: b.sitting.grams,
    minutes: b.minutes + b.sitting.minutes,
    unnoticed: !b.begunWith.length,
    fixed: !harm.length,
    harm,
    left: b.present,
    named:
      cured.some((a) => b.aims[a.number - 1].some((s) => right.has(s))) ||
      (b.leaders.length > 0 && right.has(b.leaders[b.leaders.length - 1])) ||
      (!!last && b.aims[last.number - 1].some((s) => right.has(s))),
    worseTwice: b.outcomes.some((o, i) => i > 0 && o === 'worse' && b.outcomes[i - 1] === 'worse'),
    stranded,
    changed: b.made.filter((m) => m === 'changed').length,
    anew: b.made.filter((m) => m === 'anew').length,
    log: b.log,
  }
}
