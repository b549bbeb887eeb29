// Does following the advice find the fault, and at what cost? Faults are drawn from the knowledge itself, people
// answer with mistakes, and three ways of going about it meet the same draws.
import { EMPTY_CASE, diagnoseCase, type CaseOnBench } from '@verimend/core/casework'
import { DEMO_MACHINES, demoFilaments } from '@verimend/core/demo'
import {
  findsBy,
  SIGN_LEAK,
  USUAL_WEIGHTS,
  WORKS,
  type AdvisedStep,
  type Proposal,
  type SignStates,
} from '@verimend/core/diagnosis'
import {
  SIGNS,
  SIGN_IDS,
  STRENGTH,
  SUSPECT_IDS,
  suspectOf,
  type SignId,
  type SuspectId,
} from '@verimend/core/knowledge'
import { said } from '@verimend/core/quantity'
import { deriveRecipe, layOver, type Changes } from '@verimend/core/recipe'
import { OBSERVERS, marksOf, type ObserverName } from '../../core/test/lib/observers'

const today = '2026-01-01'
const machines = Object.values(DEMO_MACHINES)
const rolls = Object.values(demoFilaments(today))
const SINGLES = Number(process.env.VERIMEND_SINGLES ?? 240)
const DOUBLES = Number(process.env.VERIMEND_DOUBLES ?? 80)
const RELIABILITY = Number(process.env.VERIMEND_RELIABILITY ?? 600)
const MOST_STEPS = 30
/** The one whose cases are followed. */
const OBSERVER = OBSERVERS[(process.env.VERIMEND_OBSERVER ?? 'middle') as ObserverName]
const PRINT = { minutes: 60, grams: 15 }

/** A number from 0 to 1 that hangs on its names alone: the same draw for every way of going about it. */
function drawn(...names: (string | number)[]): number {
  let h = 2166136261
  for (const c of names.join('|')) h = Math.imul(h ^ c.charCodeAt(0), 16777619)
  h ^= h >>> 16
  h = Math.imul(h, 0x85ebca6b)
  h ^= h >>> 13
  h = Math.imul(h, 0xc2b2ae35)
  return ((h ^ (h >>> 16)) >>> 0) / 4294967296
}

type Style = 'marks all' | 'answers six'
interface World {
  seed: number
  machine: (typeof machines)[number]
  filament: (typeof rolls)[number]
  faults: SuspectId[]
  style: Style
  /** Signs that each fault brings, and those that come by themselves. */
  brings: Map<SuspectId, SignId[]>
  strays: SignId[]
}
const context = (w: World, set: Changes) => ({
  machine: w.machine,
  filament: w.filament,
  recipe: deriveRecipe({
    machine: w.machine,
    filament: w.filament,
    pins: layOver({}, set, { source: 'mend', reason: said('') }),
  }),
  today,
})

/** A pair with faults as common as its own context makes them. */
function worldOf(seed: number, count: number): World | null {
  const machine = machines[Math.floor(drawn(seed, 'machine') * machines.length)]
  const filament = rolls[Math.floor(drawn(seed, 'roll') * rolls.length)]
  const style: Style = drawn(seed, 'style') < 0.5 ? 'marks all' : 'answers six'
  const world: World = { seed, machine, filament, faults: [], style, brings: new Map(), strays: [] }
  const { balance } = diagnoseCase(EMPTY_CASE, context(world, {}))
  const total = balance.suspects.reduce((n, s) => n + s.present, 0)
  for (let k = 0; world.faults.length < count && k < 20; k++) {
    let at = drawn(seed, 'fault', k) * total
    const found = balance.suspects.find((s) => (at -= s.present) <= 0)
    if (found && !world.faults.includes(found.id)) world.faults.push(found.id)
  }
  for (const f of world.faults) {
    const { signs } = suspectOf(f)
    const own = SIGN_IDS.filter((s) => signs[s] && drawn(seed, f, s) < STRENGTH[signs[s]])
    if (!own.length) return null // nobody brings a print that shows nothing
    world.brings.set(f, own)
  }
  world.strays = SIGN_IDS.filter((s) => drawn(seed, 'stray', s) < SIGN_LEAK / 2)
  return world
}

/** One person with one bad print. */
class Bench {
  cost = 0
  steps = 0
  /** What the cost went on. */
  readonly spent: Record<string, number> = {}
  readonly cured = new Set<SuspectId>()
  bench: CaseOnBench
  private set: Changes = {}

  constructor(readonly w: World) {
    const there = SIGN_IDS.filter((s) => this.has(s))
    const signs: SignStates = {}
    if (w.style === 'marks all') {
      // the families of what is there, with what is missed and what is mistaken
      const families = new Set(there.map((s) => SIGNS[s].family))
      for (const s of SIGN_IDS)
        if (families.has(SIGNS[s].family) && this.answer(s) === 'present') signs[s] = 'present'
      // something brings them here
      if (!Object.keys(signs).length) signs[there[0]] = 'present'
    } else {
      const first = there[Math.floor(drawn(w.seed, 'first') * there.length)]
      signs[first] = 'present'
      // what they came with is not asked again
      const asked = SIGN_IDS.filter((s) => s !== first).sort(
        (a, b) => drawn(w.seed, 'ask', a) - drawn(w.seed, 'ask', b),
      )
      const family = SIGNS[there[0]].family
      for (const s of asked.filter((x) => SIGNS[x].family === family).slice(0, 5)) signs[s] = this.answer(s)
    }
    this.bench = { ...EMPTY_CASE, signs }
  }

  get fixed() {
    return this.w.faults.every((f) => this.cured.has(f))
  }
  private has(sign: SignId) {
    return (
      this.w.strays.includes(sign) ||
      this.w.faults.some((f) => !this.cured.has(f) && this.w.brings.get(f)!.includes(sign))
    )
  }
  private answer(sign: SignId): 'present' | 'absent' {
    const u = drawn(this.w.seed, 'mistake', sign)
    return (this.has(sign) ? u >= OBSERVER.miss : u < OBSERVER.mistake) ? 'present' : 'absent'
  }
  diagnosis() {
    return diagnoseCase(this.bench, context(this.w, this.set))
  }
  readonly log = process.env.VERIMEND_TRACE === '1'
  private pay(mine: number, machine: number, grams: number, what = '') {
    this.steps++
    const kind = /^(look|check|trial):/.exec(what)?.[1] ?? 'mend'
    this.spent[kind] =
      (this.spent[kind] ?? 0) +
      USUAL_WEIGHTS.mine * mine +
      USUAL_WEIGHTS.machine * machine +
      USUAL_WEIGHTS.gram * grams
    if (this.log) console.log('   ', what)
    this.cost += USUAL_WEIGHTS.mine * mine + USUAL_WEIGHTS.machine * machine + USUAL_WEIGHTS.gram * grams
  }

  look(step: Exclude<AdvisedStep, { kind: 'mend' }>) {
    this.pay(
      step.minutes,
      step.machineMinutes,
      step.grams,
      step.id + ' ' + step.yes.toFixed(2) + ' saves ' + step.saves.toFixed(1),
    )
    if (step.kind === 'look') {
      const signs = { ...this.bench.signs }
      for (const s of step.signs) signs[s] = this.answer(s)
      this.bench = { ...this.bench, signs }
      return
    }
    const by = step.kind === 'check' ? step.check : step.trial
    const results = step.about.map((suspect) => {
      const there = this.w.faults.includes(suspect) && !this.cured.has(suspect)
      const finds = findsBy(by)
      return { by, suspect, found: drawn(this.w.seed, by, suspect) < (there ? finds.there : finds.notThere) }
    })
    this.bench = { ...this.bench, checks: [...this.bench.checks, ...results] }
  }

  mend(p: Proposal) {
    this.pay(p.minutes, PRINT.minutes, PRINT.grams, p.id + ' ' + p.probability.toFixed(2))
    const before = this.bench.signs
    const change = p.kind === 'setting' ? `${p.key}${Math.sign(Number(p.to) - Number(p.from))}` : p.procedure
    const n = this.bench.attempts.filter((a) => a.mends.some((m) => m.suspect === p.suspect)).length
    for (const s of [p.suspect, ...p.also])
      if (this.w.faults.includes(s) && drawn(this.w.seed, 'works', s, change, n) < worksOn(s, p))
        this.cured.add(s)
    const seen = SIGN_IDS.filter((s) => before[s] === 'present')
    const results = Object.fromEntries(seen.map((s) => [s, this.has(s) ? 'same' : 'gone'] as const))
    const number = this.bench.attempts.length + 1
    const made =
      p.kind === 'setting'
        ? ({ suspect: p.suspect, kind: 'setting', key: p.key, from: p.from, to: p.to } as const)
        : ({ suspect: p.suspect, kind: 'handling', procedure: p.procedure } as const)
    if (p.kind === 'setting') this.set = { ...this.set, [p.key]: p.to }
    this.bench = {
      ...this.bench,
      signs: Object.fromEntries(
        SIGN_IDS.filter((s) => before[s]).map((s) => [
          s,
          seen.includes(s) ? (this.has(s) ? 'present' : 'absent') : before[s],
        ]),
      ) as SignStates,

      attempts: [
        ...this.bench.attempts,
        {
          number,
          mends: [made],
          signsBefore: before,
          results,
          newSigns: [],
          fromVersion: number,
          toVersion: number + 1,
        },
      ],
    }
    // whoever holds the next print sees one more thing that is wrong with it
    const { signs } = this.bench
    const noticed = SIGN_IDS.filter((s) => this.has(s) && signs[s] !== 'present')
      .sort((a, b) => drawn(this.w.seed, 'notice', a) - drawn(this.w.seed, 'notice', b))
      .at(0)
    if (noticed) this.bench = { ...this.bench, signs: { ...signs, [noticed]: 'present' } }
  }

  giveUp() {
    this.cost +=
      USUAL_WEIGHTS.mine * 120 +
      2 * (USUAL_WEIGHTS.machine * PRINT.minutes + USUAL_WEIGHTS.gram * PRINT.grams)
  }
}

type Way = (b: Bench, memory: { at: number; tried: Set<string> }) => boolean
const WAYS: Record<'advice' | 'by probability' | 'down the list', Way> = {
  advice: (b) => {
    const d = b.diagnosis()
    const { next } = d.plan
    if (!next) return false
    if (next.kind === 'mend') b.mend(d.proposals.find((p) => p.id === next.proposal)!)
    else b.look(next)
    return true
  },
  'by probability': (b, { tried }) => {
    const d = b.diagnosis()
    for (const s of d.balance.suspects) {
      const p = d.proposals
        .filter((q) => q.suspect === s.id && !tried.has(`${q.id}`))
        .sort((x, y) => y.works[0] - x.works[0])
        .at(0)
      if (!p) continue
      tried.add(p.id)
      b.mend(p)
      return true
    }
    return false
  },
  'down the list': (b, { tried }) => {
    const d = b.diagnosis()
    const families = new Set(
      SIGN_IDS.filter((s) => b.bench.signs[s] === 'present').map((s) => SIGNS[s].family),
    )
    for (const id of SUSPECT_IDS) {
      if (!Object.keys(suspectOf(id).signs).some((s) => families.has(SIGNS[s as SignId].family))) continue
      const p = d.proposals.find((q) => q.suspect === id && !tried.has(q.id))
      if (!p) continue
      tried.add(p.id)
      b.mend(p)
      return true
    }
    return false
  },
}

/** Chance that a change cures a fault that is there: each of a suspect's mends half as often as the one before it. */
function worksOn(suspect: SuspectId, p: Proposal): number {
  return WORKS[p.kind] * 0.5 ** (suspect === p.suspect ? p.choice : 1)
}

interface Run {
  fixed: boolean
  cost: number
  steps: number
  spent: Record<string, number>
}
function follow(w: World, way: Way): Run {
  const b = new Bench(w)
  if (b.log) console.log(w.seed, w.faults, JSON.stringify(b.bench.signs))
  const memory = { at: 0, tried: new Set<string>() }
  while (!b.fixed && b.steps < MOST_STEPS) if (!way(b, memory)) break
  if (!b.fixed) {
    b.giveUp()
    if (process.env.VERIMEND_SHOW)
      console.log(
        'not fixed:',
        w.seed,
        w.faults,
        w.style,
        w.filament.name,
        w.machine.name,
        [...b.cured],
        b.bench.attempts
          .map((a) => a.mends.map((m) => (m.kind === 'setting' ? m.key : m.procedure)).join())
          .join(' '),
      )
  }
  return { fixed: b.fixed, cost: b.cost, steps: b.steps, spent: b.spent }
}

const mean = (v: number[]) => v.reduce((a, b) => a + b, 0) / v.length
const percent = (v: number) => `${(100 * v).toFixed(1).padStart(5)} %`

function worlds(from: number, wanted: number, count: number): World[] {
  const out: World[] = []
  for (let seed = from; out.length < wanted; seed++) {
    const w = worldOf(seed, count)
    if (w) out.push(w)
  }
  return out
}

function table(title: string, all: World[], ways: (keyof typeof WAYS)[]) {
  const runs = new Map(ways.map((name) => [name, all.map((w) => follow(w, WAYS[name]))] as const))
  console.log(`\n${title}: ${all.length} cases`)
  console.log('way                fixed    cost    steps')
  for (const [name, r] of runs)
    console.log(
      `${name.padEnd(16)} ${percent(mean(r.map((x) => Number(x.fixed))))}  ${mean(r.map((x) => x.cost))
        .toFixed(0)
        .padStart(5)}   ${mean(r.map((x) => x.steps))
        .toFixed(1)
        .padStart(5)}`,
    )
  const ours = runs.get('advice')!
  const kinds = ['look', 'check', 'trial', 'mend'].map(
    (k) => `${k}s ${mean(ours.map((x) => x.spent[k] ?? 0)).toFixed(0)}`,
  )
  console.log(`of the cost of advice: ${kinds.join(', ')}`)
  for (const name of ways.slice(1)) {
    const other = runs.get(name)!
    const cheaper = ours.filter((x, i) => x.cost < other[i].cost).length / ours.length
    const alike = ours.filter((x, i) => x.cost === other[i].cost).length / ours.length
    console.log(
      `against ${name}: ${(mean(ours.map((x) => x.cost)) / mean(other.map((x) => x.cost))).toFixed(2)} of its cost in the mean, cheaper in ${percent(cheaper)} of pairs, alike in ${percent(alike)}`,
    )
  }
}

/** What the balance claims of its leader and of all suspects, against how often that is so, under three observers. */
function reliability(all: World[]) {
  for (const observer of Object.keys(OBSERVERS) as ObserverName[])
    for (const everything of [true, false]) {
      const bins = (n: number) => Array.from({ length: n }, () => ({ n: 0, claimed: 0, right: 0 }))
      const leaders = bins(5)
      const suspects = bins(5)
      const put = (b: ReturnType<typeof bins>, p: number, right: boolean) => {
        const bin = b[Math.min(4, Math.floor(p * 5))]
        bin.n++
        bin.claimed += p
        bin.right += Number(right)
      }
      for (const w of all) {
        const there = new Set([...w.strays, ...w.faults.flatMap((f) => w.brings.get(f)!)])
        const signs = marksOf(there, observer, everything, (s) => drawn(w.seed, observer, 'judges', s))
        if (!Object.values(signs).includes('present')) continue
        const { balance } = diagnoseCase({ ...EMPTY_CASE, signs }, context(w, {}))
        balance.suspects.forEach((s, i) => {
          if (i === 0) put(leaders, s.probability, w.faults.includes(s.id))
          if (s.probability > 0.03) put(suspects, s.probability, w.faults.includes(s.id))
        })
      }
      console.log(`\n${observer}, ${everything ? 'goes through the families' : 'marks what strikes'}`)
      for (const [name, b] of [
        ['leader', leaders],
        ['all', suspects],
      ] as const)
        b.forEach((x, i) => {
          if (x.n)
            console.log(
              `${name.padEnd(7)} ${i * 20}–${i * 20 + 20} %: claimed ${percent(x.claimed / x.n)}, right ${percent(x.right / x.n)} of ${x.n}`,
            )
        })
    }
}

const singles = worlds(1, SINGLES, 1)
if (SINGLES) table('one fault', singles, ['advice', 'by probability', 'down the list'])
if (DOUBLES) table('two faults at once', worlds(100_000, DOUBLES, 2), ['advice', 'by probability'])
reliability([...worlds(500_000, RELIABILITY, 1), ...worlds(600_000, RELIABILITY / 4, 2)])
if (process.env.VERIMEND_ONE) {
  const w = worldOf(Number(process.env.VERIMEND_ONE), Number(process.env.VERIMEND_COUNT ?? 1))!
  const b = new Bench(w)
  while (!b.fixed && b.steps < MOST_STEPS) if (!WAYS.advice(b, { at: 0, tried: new Set() })) break
  const d = b.diagnosis()
  console.log(
    b.bench.signs,
    d.balance.suspects.slice(0, 6).map((s) => [s.id, s.probability.toFixed(3)]),
    d.proposals.map((p) => [p.id, p.works]),
    d.plan,
  )
}
