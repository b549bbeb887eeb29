import { CHECKS, TRIALS, checkOrTrial, type CheckId, type TrialId } from '../knowledge/checks'
import { SIGN_IDS, signOf, type SignId } from '../knowledge/signs'
import { suspectOf, type SuspectId } from '../knowledge/suspects'
import { STRENGTH } from '../knowledge/types'
import { settingOf } from '../recipe/settings'
import { valueText, type Proposal } from './advice'
import { SIGN_LEAK, type Balance, type Evidence, type SignStates } from './balance'
import { deciban } from './network'
import {
  afterAnswer,
  nextStep,
  rankQuestions,
  repairSequence,
  type Question,
  type Repair,
  type Trouble,
} from './troubleshoot'

/** What a minute, a gram and a risk are worth to a person, against a minute of their own time. */
export interface CostWeights {
  /** A minute of the person's time. */
  mine: number
  /** A minute of the machine. */
  machine: number
  /** A gram of filament. */
  gram: number
  /** A side effect that may come with a mend. */
  risk: number
}
export const USUAL_WEIGHTS: CostWeights = { mine: 1, machine: 0.25, gram: 0.3, risk: 1.5 }

/** Chance that a check or trial finds a suspect that is there, and one that is not. From memory. */
export const FINDS = { there: 0.9, notThere: 0.08 }
/** Looking at one more sign, minutes. */
const LOOK_MINUTES = 0.5
/** Chance that a mend cures its suspect: a handling step nearly always, a bounded step of a setting often. From memory. */
const WORKS = { handling: 0.85, setting: 0.7 }

export type AdvisedStep = {
  /** Stable: kind and what it is about. */
  id: string
  name: string
  minutes: number
  /** The machine's minutes and grams it takes. */
  machineMinutes: number
  grams: number
  /** Expected cost to the fix when this is done next, in weighted minutes. */
  expected: number
  /** What it saves against going straight to the mends. */
  saves: number
  /** What it does for the picture, in sentences. */
  words: string[]
} & (
  | { kind: 'look'; sign: SignId; yes: number }
  | { kind: 'check'; check: CheckId; about: SuspectId[]; yes: number }
  | { kind: 'trial'; trial: TrialId; about: SuspectId[]; yes: number }
  | { kind: 'mend'; proposal: string; suspect: SuspectId }
)

export interface PlanInput {
  balance: Balance
  proposals: readonly Proposal[]
  signs: SignStates
  weights?: Partial<CostWeights>
  /** Minutes and grams of printing the part again. */
  print?: { minutes: number; grams: number }
  /** Ids of steps the person cannot or will not do. */
  cannot?: readonly string[]
  /** Checks and trials already done. */
  done?: readonly string[]
}

export interface Advice {
  /** The step with the least expected cost to the fix. */
  next: AdvisedStep | null
  /** Others worth considering, best first: questions, checks, trials and mends. */
  others: AdvisedStep[]
  /** Weighted minutes to the fix along the plan. */
  expected: number
  /** Mends that pull one setting both ways, and what decides. */
  conflicts: string[]
}

/**
 * The next best step by expected cost to the fix, and the runners-up: looking at a sign nobody looked at, a
 * check, a trial, or a mend. Causes weigh by how far they are responsible for what was seen; the rest is a cause
 * nobody knows.
 */
export function planNext(input: PlanInput): Advice {
  const { balance, signs, cannot = [], done = [] } = input
  const w = { ...USUAL_WEIGHTS, ...input.weights }
  const print = input.print ?? { minutes: 60, grams: 15 }
  const barred = new Set(cannot)
  const causes = balance.suspects.filter((s) => s.probability >= 0.008).slice(0, 18)
  const total = causes.reduce((sum, s) => sum + s.probability, 0)
  // several may be at work at once: then their shares add up to more than one fault
  const scale = total > 0.97 ? 0.97 / total : 1
  const chances = causes.map((s) => s.probability * scale)
  const at = new Map(causes.map((s, i) => [s.id, i]))
  const again = w.machine * print.minutes + w.gram * print.grams

  const mends = input.proposals.filter((p) => at.has(p.suspect) && !barred.has(`mend:${p.id}`))
  const costOf = (p: Proposal) => w.mine * p.minutes + again + w.risk * p.watch.length
  const repairs: Repair[] = mends.map((p) => ({
    cause: at.get(p.suspect)!,
    cost: costOf(p),
    works: p.kind === 'handling' ? WORKS.handling : WORKS.setting,
  }))
  const asks: { step: AdvisedStep; question: Question }[] = []
  for (const s of SIGN_IDS) {
    if (signs[s] !== undefined || barred.has(`look:${s}`)) continue
    const yes = causes.map((c) => {
      const strength = suspectOf(c.id).signs[s]
      return 1 - (1 - (strength ? STRENGTH[strength] : 0)) * (1 - SIGN_LEAK)
    })
    if (yes.every((y) => y < 0.1)) continue
    asks.push({
      step: {
        kind: 'look',
        id: `look:${s}`,
        sign: s,
        name: signOf(s).name,
        minutes: LOOK_MINUTES,
        machineMinutes: 0,
        grams: 0,
        expected: 0,
        saves: 0,
        words: [],
        yes: 0,
      },
      question: { cost: w.mine * LOOK_MINUTES, yes, yesUnknown: SIGN_LEAK * 2 },
    })
  }
  for (const id of [...Object.keys(CHECKS), ...Object.keys(TRIALS)] as (CheckId | TrialId)[]) {
    const isCheck = id in CHECKS
    const key = `${isCheck ? 'check' : 'trial'}:${id}`
    if (barred.has(key) || done.includes(id)) continue
    const about = causes.filter((c) => suspectOf(c.id).by.includes(id)).map((c) => c.id)
    if (!about.length) continue
    const { name, minutes, grams } = checkOrTrial(id)
    const hands = isCheck ? ((CHECKS[id as CheckId] as { handsOn?: number }).handsOn ?? minutes) : 5
    const common = {
      id: key,
      name,
      minutes: hands,
      machineMinutes: isCheck ? 0 : minutes,
      grams,
      expected: 0,
      saves: 0,
      words: [],
      about,
      yes: 0,
    }
    asks.push({
      step: isCheck
        ? { ...common, kind: 'check', check: id as CheckId }
        : { ...common, kind: 'trial', trial: id as TrialId },
      question: {
        cost: w.mine * hands + (isCheck ? 0.05 * (minutes - hands) : w.machine * minutes) + w.gram * grams,
        yes: causes.map((c) => (about.includes(c.id) ? FINDS.there : FINDS.notThere)),
        yesUnknown: FINDS.notThere,
      },
    })
  }
  const trouble: Trouble = {
    chances,
    repairs,
    questions: asks.map((a) => a.question),
    // nothing helped: start from the ground, two hours of the person's
    giveUp: w.mine * 120 + 2 * again,
  }
  const sequence = repairSequence(chances, repairs, trouble.giveUp)
  const step = balance.seen ? nextStep(trouble) : { kind: 'give-up' as const, expected: sequence.cost }
  const ranked = rankQuestions(trouble, sequence.cost)
  const asked = ranked.map(({ index, expected, saves, yes }): AdvisedStep => {
    const { step: s, question } = asks[index]
    return {
      ...s,
      yes,
      expected,
      saves,
      words: pictureAfter(balance, causes, chances, question, s.kind === 'look'),
    } as AdvisedStep
  })
  const mendStep = (i: number): AdvisedStep => {
    const p = mends[i]
    const minutes = p.minutes
    return {
      kind: 'mend',
      id: `mend:${p.id}`,
      proposal: p.id,
      suspect: p.suspect,
      name:
        p.kind === 'setting'
          ? `${settingOf(p.key).label} ${valueText(p.key, p.from)} → ${valueText(p.key, p.to)}`
          : p.name,
      minutes,
      machineMinutes: print.minutes,
      grams: print.grams,
      expected: sequence.cost,
      saves: 0,
      words: [
        `Cures it in about ${Math.max(1, Math.round(chances[at.get(p.suspect)!] * repairs[i].works * 100))} of 100 cases like this.`,
      ],
    }
  }
  const order = sequence.order.map(mendStep)
  let next: AdvisedStep | null = null
  if (step.kind === 'repair') next = mendStep(step.index)
  else if (step.kind === 'question') {
    next = asked.find((a) => a.id === asks[step.index].step.id) ?? null
    if (next) next = { ...next, expected: step.expected, saves: step.saves }
  } else if (balance.seen && asked.length && asked[0].saves > 0) next = asked[0]
  const others = [...asked.filter((a) => a.saves > 0.2).slice(0, 5), ...order.slice(0, 4)].filter(
    (a) => a.id !== next?.id,
  )
  return { next, others, expected: step.expected, conflicts: conflictsOf(input.proposals, balance) }
}

/** What the picture will look like after an answer, in words. */
function pictureAfter(
  balance: Balance,
  causes: Balance['suspects'],
  chances: readonly number[],
  q: Question,
  look: boolean,
): string[] {
  const words = (answer: boolean) => {
    const after = afterAnswer(chances, q, answer)
    const best = after.chances.reduce((m, p, i) => (p > after.chances[m] ? i : m), 0)
    if (!causes[best]) return ''
    const lead = causes[best].id === balance.suspects[0]?.id
    const said = look ? (answer ? 'If it is there' : 'If it is not') : answer ? 'If it is found' : 'If not'
    return `${said}: ${causes[best].name.toLowerCase()} ${lead ? 'still leads' : 'leads'} with ${Math.round(after.chances[best] * 100)} %.`
  }
  return [words(true), words(false)].filter(Boolean)
}

/** Likely mends that move one setting in opposite directions, said openly. */
function conflictsOf(proposals: readonly Proposal[], balance: Balance): string[] {
  const out: string[] = []
  const likely = proposals.filter(
    (p): p is Proposal & { kind: 'setting' } => p.kind === 'setting' && p.probability >= 0.12,
  )
  const name = (p: Proposal) =>
    balance.suspects.find((s) => s.id === p.suspect)?.name.toLowerCase() ?? p.suspect
  for (let i = 0; i < likely.length; i++)
    for (let j = i + 1; j < likely.length; j++) {
      const a = likely[i]
      const b = likely[j]
      if (a.key !== b.key || typeof a.to !== 'number' || typeof b.to !== 'number') continue
      if (Math.sign(a.to - Number(a.from)) * Math.sign(b.to - Number(b.from)) >= 0) continue
      const by = suspectOf(a.suspect).by.find((x) => suspectOf(b.suspect).by.includes(x))
      out.push(
        `${settingOf(a.key).label}: ${name(a)} wants ${valueText(a.key, a.to)}, ${name(b)} wants ${valueText(b.key, b.to)}. ${by ? `${checkOrTrial(by).name} decides.` : 'Tell them apart first.'}`,
      )
    }
  return out
}

/** What a check or trial found, as evidence: for each suspect it is about, found or not. */
export interface CheckResult {
  by: CheckId | TrialId
  suspect: SuspectId
  found: boolean
}
export function checkEvidence(results: readonly CheckResult[]): Evidence[] {
  return results.map((r) => ({
    suspect: r.suspect,
    db: Number(
      (r.found
        ? 10 * Math.log10(FINDS.there / FINDS.notThere)
        : 10 * Math.log10((1 - FINDS.there) / (1 - FINDS.notThere))
      ).toFixed(1),
    ),
    words: `${checkOrTrial(r.by).name}: ${r.found ? 'it is so' : 'it is not so'}.`,
  }))
}

/** A closed case as far as it teaches: which suspects its cure had named. */
export interface Lesson {
  samePair: boolean
  sameMachine: boolean
  sameFamily: boolean
  causes: readonly SuspectId[]
}
/** Cases' weight the seed keeps at least. */
const SEED_WEIGHT = 20

/**
 * What closed cases teach, as shifts of the priors: beta counts, the pair's cases counted whole, the machine's and
 * the filament family's half, on a seed worth twenty cases.
 */
export function learntEvidence(
  lessons: readonly Lesson[],
  priorOf: (suspect: SuspectId) => number,
): (Evidence & { cases: number })[] {
  const weight = (l: Lesson) => (l.samePair ? 1 : l.sameMachine || l.sameFamily ? 0.5 : 0)
  const relevant = lessons.filter((l) => weight(l) > 0 && l.causes.length)
  const total = relevant.reduce((n, l) => n + weight(l), 0)
  const suspects = new Set(relevant.flatMap((l) => l.causes))
  return [...suspects].map((suspect) => {
    const own = relevant.filter((l) => l.causes.includes(suspect))
    const counts = own.reduce((n, l) => n + weight(l) / l.causes.length, 0)
    const prior = priorOf(suspect)
    const learnt = (prior * SEED_WEIGHT + counts) / (SEED_WEIGHT + total)
    const here = own.some((l) => l.samePair)
      ? 'this pair'
      : own.some((l) => l.sameMachine)
        ? 'this machine'
        : 'this family'
    return {
      suspect,
      db: Number((deciban(learnt) - deciban(prior)).toFixed(1)),
      words: `It was the cause in ${own.length} of ${relevant.length} closed ${relevant.length === 1 ? 'case that counts' : 'cases that count'} here, on ${here}.`,
      cases: own.length,
    }
  })
}
