import {
  CHECKS,
  CHECK_IDS,
  TRIAL_IDS,
  checkOrTrial,
  isCheckId,
  type CheckId,
  type LookId,
  type TrialId,
} from '../../knowledge/checks'
import { SIGN_IDS, type SignId } from '../../knowledge/signs'
import { suspectOf, type SuspectId } from '../../knowledge/suspects'
import { STRENGTH } from '../../knowledge/types'
import type { Reason } from '../../quantity/reason'
import { FINDS } from '../evidence/looks'
import { SIGN_LEAK, type Balance, type SignStates, type Weighed } from '../inference/balance'
import { because } from '../reasons'
import { isSettingProposal, type Change, type Proposal } from './mends'
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

/** Looking at one more sign, minutes. */
const LOOK_MINUTES = 0.5
/** What a trial takes of the person, minutes. */
const TRIAL_HANDS_ON = 5
/** Chance that a mend cures its suspect: a handling step nearly always, a bounded step of a setting often. From memory. */
const WORKS = { handling: 0.85, setting: 0.7 }
/** Suspects less likely than this do not enter the plan. */
const LEAST_PLANNED = 0.008
const MOST_PLANNED = 18

interface StepCost {
  /** Stable: kind and what it is about. */
  id: string
  /** Of the person. */
  minutes: number
  /** The machine's minutes and grams it takes. */
  machineMinutes: number
  grams: number
  /** Expected cost to the fix when this is done next, in weighted minutes. */
  expected: number
  /** What it saves against going straight to the mends. */
  saves: number
  /** What it does for the picture. */
  picture: Reason[]
}
export type AdvisedStep = StepCost &
  (
    | { kind: 'look'; sign: SignId; yes: number }
    | { kind: 'check'; check: CheckId; about: SuspectId[]; yes: number }
    | { kind: 'trial'; trial: TrialId; about: SuspectId[]; yes: number }
    | { kind: 'mend'; proposal: string; suspect: SuspectId; change: Change }
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
  done?: readonly LookId[]
}

export interface Advice {
  /** The step with the least expected cost to the fix. */
  next: AdvisedStep | null
  /** Others worth considering, best first: questions, checks, trials and mends. */
  others: AdvisedStep[]
  /** Weighted minutes to the fix along the plan. */
  expected: number
  /** Mends that pull one setting both ways, and what decides. */
  conflicts: Reason[]
}

/** A question with the step that asks it. */
interface Ask {
  step: Exclude<AdvisedStep, { kind: 'mend' }>
  question: Question
}

/**
 * The next best step by expected cost to the fix, and the runners-up: looking at a sign nobody looked at, a
 * check, a trial, or a mend. Causes weigh by how far they are responsible for what was seen; the rest is a cause
 * nobody knows.
 */
export function planNext(input: PlanInput): Advice {
  const { balance } = input
  const w = { ...USUAL_WEIGHTS, ...input.weights }
  const print = input.print ?? { minutes: 60, grams: 15 }
  const barred = new Set(input.cannot)
  const causes = balance.suspects.filter((s) => s.probability >= LEAST_PLANNED).slice(0, MOST_PLANNED)
  const total = causes.reduce((sum, s) => sum + s.probability, 0)
  // several may be at work at once: then their shares add up to more than one fault
  const scale = total > 0.97 ? 0.97 / total : 1
  const chances = causes.map((s) => s.probability * scale)
  const at = new Map(causes.map((s, i) => [s.id, i]))
  const again = w.machine * print.minutes + w.gram * print.grams

  const mends = input.proposals.filter((p) => at.has(p.suspect) && !barred.has(`mend:${p.id}`))
  const repairs = mends.map((p): Repair => ({
    cause: at.get(p.suspect)!,
    cost: w.mine * p.minutes + again + w.risk * p.watch.length,
    works: WORKS[p.kind],
  }))
  const asks = [
    ...looksFor(causes, input.signs, barred, w),
    ...checksFor(causes, barred, input.done ?? [], w),
  ]
  const trouble: Trouble = {
    chances,
    repairs,
    questions: asks.map((a) => a.question),
    // nothing helped: start from the ground, two hours of the person's
    giveUp: w.mine * 120 + 2 * again,
  }
  const sequence = repairSequence(chances, repairs, trouble.giveUp)
  const step = balance.seen ? nextStep(trouble) : { kind: 'give-up' as const, expected: sequence.cost }
  const asked = rankQuestions(trouble, sequence.cost).map(({ index, expected, saves, yes }): AdvisedStep => {
    const { step: s, question } = asks[index]
    return {
      ...s,
      yes,
      expected,
      saves,
      picture: pictureAfter(balance, causes, chances, question, s.kind === 'look'),
    }
  })
  const mendStep = (i: number): AdvisedStep => {
    const p = mends[i]
    return {
      kind: 'mend',
      id: `mend:${p.id}`,
      proposal: p.id,
      suspect: p.suspect,
      change: isSettingProposal(p)
        ? { kind: 'setting', key: p.key, from: p.from, to: p.to }
        : { kind: 'handling', procedure: p.procedure },
      minutes: p.minutes,
      machineMinutes: print.minutes,
      grams: print.grams,
      expected: sequence.cost,
      saves: 0,
      picture: [
        because('cures-share', {
          share: Math.max(1, Math.round(chances[at.get(p.suspect)!] * repairs[i].works * 100)),
        }),
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
  return { next, others, expected: step.expected, conflicts: conflictsOf(input.proposals) }
}

const NOTHING_YET = { expected: 0, saves: 0, picture: [], yes: 0 }

/** Signs nobody looked at that any of the causes would show. */
function looksFor(
  causes: readonly Weighed[],
  signs: SignStates,
  barred: ReadonlySet<string>,
  w: CostWeights,
): Ask[] {
  const asks: Ask[] = []
  for (const sign of SIGN_IDS) {
    const id = `look:${sign}`
    if (signs[sign] !== undefined || barred.has(id)) continue
    const yes = causes.map((c) => {
      const strength = suspectOf(c.id).signs[sign]
      return 1 - (1 - (strength ? STRENGTH[strength] : 0)) * (1 - SIGN_LEAK)
    })
    if (yes.every((y) => y < 0.1)) continue
    asks.push({
      step: { kind: 'look', id, sign, minutes: LOOK_MINUTES, machineMinutes: 0, grams: 0, ...NOTHING_YET },
      question: { cost: w.mine * LOOK_MINUTES, yes, yesUnknown: SIGN_LEAK * 2 },
    })
  }
  return asks
}

/** Checks and trials that are about any of the causes. */
function checksFor(
  causes: readonly Weighed[],
  barred: ReadonlySet<string>,
  done: readonly LookId[],
  w: CostWeights,
): Ask[] {
  const asks: Ask[] = []
  for (const look of [...CHECK_IDS, ...TRIAL_IDS] as LookId[]) {
    const check = isCheckId(look)
    const id = `${check ? 'check' : 'trial'}:${look}`
    if (barred.has(id) || done.includes(look)) continue
    const about = causes.filter((c) => suspectOf(c.id).by.includes(look)).map((c) => c.id)
    if (!about.length) continue
    const { minutes, grams } = checkOrTrial(look)
    const hands = check ? handsOnMinutes(look) : TRIAL_HANDS_ON
    const common = { id, minutes: hands, machineMinutes: check ? 0 : minutes, grams, about, ...NOTHING_YET }
    asks.push({
      step: check ? { ...common, kind: 'check', check: look } : { ...common, kind: 'trial', trial: look },
      question: {
        cost: w.mine * hands + (check ? 0.05 * (minutes - hands) : w.machine * minutes) + w.gram * grams,
        yes: causes.map((c) => (about.includes(c.id) ? FINDS.there : FINDS.notThere)),
        yesUnknown: FINDS.notThere,
      },
    })
  }
  return asks
}

/** The person's minutes of a check; waiting for it costs little. */
function handsOnMinutes(check: CheckId): number {
  const { minutes, ...more }: { minutes: number; handsOn?: number } = CHECKS[check]
  return more.handsOn ?? minutes
}

/** What the picture will look like after either answer. */
function pictureAfter(
  balance: Balance,
  causes: readonly Weighed[],
  chances: readonly number[],
  q: Question,
  look: boolean,
): Reason[] {
  return [true, false].flatMap((answer) => {
    const after = afterAnswer(chances, q, answer)
    const best = after.chances.reduce((m, p, i) => (p > after.chances[m] ? i : m), 0)
    if (!causes[best]) return []
    return [
      because('leads-after', {
        answer: look ? (answer ? 'there' : 'not-there') : answer ? 'found' : 'not-found',
        suspect: causes[best].id,
        still: causes[best].id === balance.suspects[0]?.id,
        chance: Math.round(after.chances[best] * 100),
      }),
    ]
  })
}

/** Least probability of suspects whose mends are held against each other. */
const LIKELY = 0.12

/** Likely mends that move one setting in opposite directions, said openly. */
function conflictsOf(proposals: readonly Proposal[]): Reason[] {
  const out: Reason[] = []
  const likely = proposals.filter(isSettingProposal).filter((p) => p.probability >= LIKELY)
  for (let i = 0; i < likely.length; i++)
    for (let j = i + 1; j < likely.length; j++) {
      const [a, b] = [likely[i], likely[j]]
      if (a.key !== b.key || typeof a.to !== 'number' || typeof b.to !== 'number') continue
      if (Math.sign(a.to - Number(a.from)) * Math.sign(b.to - Number(b.from)) >= 0) continue
      out.push(
        because('pulls-both-ways', {
          setting: a.key,
          first: a.suspect,
          firstTo: a.to,
          second: b.suspect,
          secondTo: b.to,
          by: suspectOf(a.suspect).by.find((x) => suspectOf(b.suspect).by.includes(x)) ?? null,
        }),
      )
    }
  return out
}
