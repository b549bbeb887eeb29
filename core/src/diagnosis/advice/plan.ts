import type { LookId } from '../../knowledge/checks'
import { PLACES, SIGNS_AT } from '../../knowledge/places'
import type { SignId } from '../../knowledge/signs'
import { suspectOf, type SuspectId } from '../../knowledge/suspects'
import type { Reason } from '../../quantity/reason'
import type { LookResult } from '../evidence/looks'
import {
  type Balance,
  type Inferred,
  type SignState,
  type SignStates,
  type Weighed,
} from '../inference/balance'
import { keysOf } from '../../recipe/settings'
import { because } from '../reasons'
import { USUAL_WEIGHTS, type AdvisedStep, type CostWeights } from './steps'
import { LOOK_MINUTES, STEP_MINUTES, checksFor, looksFor, type Ask, type AskStep } from './asks'
import { isSettingProposal, type Proposal } from './proposal'
import { costlyLater, isRemedy } from './ranking'
import {
  afterAnswer,
  nextStep,
  rankQuestions,
  repairSequence,
  type Repair,
  type Trouble,
} from './troubleshoot'

/** Looking at others in the same place with a sign, minutes. */
const BESIDE_MINUTES = 0.2
/** Most signs of one place that are asked about together. */
const MOST_TOGETHER = 4
/** Suspects less likely than this do not enter the plan. */
const LEAST_PLANNED = 0.008
const MOST_PLANNED = 18
/** Questions that are valued by the whole inference, best first by the quick estimate. */
const WORKED_OUT = 6
/** An answer has to save so much to be asked for: weighted minutes, and share of what is left. From memory. */
const LEAST_SAVED = 0.4
const LEAST_SHARE = 0.01
/** A suspect is at work rather than not. */
const AT_WORK = 0.5

/** What would be known besides. */
export interface Learnt {
  signs?: SignStates
  looks?: readonly LookResult[]
}

export interface PlanInput {
  balance: Balance
  proposals: readonly Proposal[]
  signs: SignStates
  /** What would be inferred if more were known, by the same inference as the balance. */
  infer: (more: Learnt, aside?: readonly SignId[]) => Inferred
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
  /** Suspects that are probably at work at once; empty for one. */
  atOnce: SuspectId[]
}

/**
 * The next best step by expected cost to the fix, and the runners-up: looking at a place nobody looked at, a check, a
 * trial, or a mend. Causes weigh by how far they are responsible for what was seen; the rest is a cause nobody knows.
 * A quick estimate, one fault at a time, chooses among questions; those that lead are valued by the whole inference.
 */
export function planNext(input: PlanInput): Advice {
  const { balance } = input
  const w = { ...USUAL_WEIGHTS, ...input.weights }
  const print = input.print ?? { minutes: 60, grams: 15 }
  const barred = new Set(input.cannot)
  // where all are unlikely the likeliest still come first: there is always something to do
  const least = Math.min(LEAST_PLANNED, 0.1 * (balance.suspects.at(0)?.probability ?? 0))
  const causes = balance.suspects
    .filter((s) => s.probability > 0 && s.probability >= least)
    .slice(0, MOST_PLANNED)
  const at = new Map(causes.map((s, i) => [s.id, i]))
  const chances = asOneFault(causes.map((s) => s.probability))
  const again = w.machine * print.minutes + w.gram * print.grams

  const mends = input.proposals.filter(
    (p) => [p.suspect, ...p.also].some((s) => at.has(s)) && !barred.has(`mend:${p.id}`),
  )
  const repairs = mends.map((p): Repair => ({
    cost: w.mine * (p.minutes + STEP_MINUTES) + again + w.risk * p.watch.length,
    cures: [p.suspect, ...p.also].flatMap((s, i) => {
      const cause = at.get(s)
      return cause === undefined ? [] : [{ cause, works: p.works[i] }]
    }),
  }))
  const seen = keysOf(input.signs).filter((s) => input.signs[s] === 'present')
  const asks = [
    ...looksFor(causes, input.signs, barred, w),
    ...checksFor(causes, balance.suspects, barred, input.done ?? [], seen, w),
  ]
  const trouble: Trouble = {
    chances,
    repairs,
    questions: asks.map((a) => a.question),
    // nothing helped: start from the ground, two hours of the person's
    giveUp: w.mine * 120 + 2 * again,
  }
  const sequence = repairSequence(chances, repairs, trouble.giveUp)
  const mendStep = (i: number): AdvisedStep => {
    const p = mends[i]
    const cured = repairs[i].cures.reduce((sum, c) => sum + chances[c.cause] * c.works, 0)
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
      picture: [because('cures-share', { share: Math.max(1, Math.round(cured * 100)) })],
    }
  }
  const inOrder = (sequence.order.length ? sequence.order : bestOf(repairs, chances)).map((i) => ({
    i,
    ...mends[i],
  }))
  // what a check found is put right before anything is asked or tried
  const found = balance.seen ? mends.findIndex((p) => isRemedy(balance, p)) : -1
  const remedy = found < 0 && balance.seen ? mends.findIndex((p) => p.leads) : found
  const order = [
    ...(remedy < 0 ? [] : [remedy]),
    ...costlyLater(inOrder).flatMap(({ i }) => (i === remedy ? [] : [i])),
  ].map(mendStep)
  const asked = balance.seen ? worthAsking(input, trouble, asks, causes, sequence.cost) : []
  const best = asked.at(0)
  // a question goes before the mend when it saves; with nothing to mend it is all there is
  const askFirst = best && (best.saves > 0 || !order.length) && remedy < 0
  const next = askFirst ? best : balance.seen ? (order.at(0) ?? null) : null
  const others = [
    ...asked.slice(0, 5),
    ...(balance.seen ? checksOfLeader(input, trouble, asks, causes, asked) : []),
    ...order.slice(0, 4),
  ].filter((a) => a.id !== next?.id)
  const atOnce = balance.seen ? causes.filter((s) => s.probability >= AT_WORK).map((s) => s.id) : []
  return {
    next,
    others,
    expected: next?.expected ?? sequence.cost,
    conflicts: conflictsOf(input.proposals),
    atOnce: atOnce.length > 1 ? atOnce : [],
  }
}

/** Chances of several faults as shares of one: more than one may be at work, then they add up to more than one. */
function asOneFault(chances: readonly number[]): number[] {
  const total = chances.reduce((a, b) => a + b, 0)
  return total > 0.97 ? chances.map((p) => (p * 0.97) / total) : [...chances]
}

/** Where giving up seems cheaper than any mend there is still the best of them to try. */
function bestOf(repairs: readonly Repair[], chances: readonly number[]): number[] {
  const worth = (r: Repair) => r.cures.reduce((sum, c) => sum + chances[c.cause] * c.works, 0) / r.cost
  return repairs
    .map((r, i) => ({ i, worth: worth(r) }))
    .filter((r) => r.worth > 0)
    .sort((a, b) => b.worth - a.worth)
    .slice(0, 4)
    .map((r) => r.i)
}

/**
 * Questions whose answer changes what is done next and saves enough, best first. Valued by the same inference as the
 * balance; the quick estimate chooses which are worked out so.
 */
function worthAsking(
  input: PlanInput,
  trouble: Trouble,
  asks: readonly Ask[],
  causes: readonly Weighed[],
  now: number,
): AdvisedStep[] {
  const { repairs, giveUp, chances } = trouble
  const quick = nextStep(trouble)
  const ranked = rankQuestions(trouble, now)
  const candidates = [
    ...(quick.kind === 'question' ? [quick.index] : []),
    ...ranked.filter((r) => r.saves > -2).map((r) => r.index),
  ]
  const out: AdvisedStep[] = []
  for (const index of [...new Set(candidates)].slice(0, WORKED_OUT)) {
    const { step, question } = asks[index]
    // the answer is new knowledge, not a new flaw to be cured: what it brings along is set aside
    const aside = step.kind === 'look' ? [step.sign] : []
    const [there, not] = ([true, false] as const).map((answer) => {
      const { probability, logEvidence } = input.infer(learnt(step, answer), aside)
      const known = causes.map((c) => probability.get(c.id) ?? 0)
      return { answer, logEvidence, sequence: repairSequence(asOneFault(known), repairs, giveUp) }
    })
    const yes =
      step.kind === 'look'
        ? 1 / (1 + Math.exp(not.logEvidence - there.logEvidence))
        : afterAnswer(chances, question, true).probability
    const after = [there, not]
    if (sameSteps(after[0].sequence.order, after[1].sequence.order)) continue
    // two questions in a row may pay where one does not: the quick look ahead knows
    const ahead = quick.kind === 'question' && quick.index === index ? quick.expected : Infinity
    const expected = Math.min(
      ahead,
      question.cost + yes * there.sequence.cost + (1 - yes) * not.sequence.cost,
    )
    const saves = now - expected
    if (saves < Math.max(LEAST_SAVED, LEAST_SHARE * now)) continue
    out.push({
      ...step,
      yes,
      expected,
      saves,
      picture: [],
    })
  }
  out.sort((a, b) => a.expected - b.expected)
  return togetherByPlace(out, asks, ranked).map((step) =>
    step.kind === 'mend' ? step : { ...step, picture: picturesOf(input, causes, step) },
  )
}

/** Most checks of the leader that are offered though they save nothing. */
const MOST_UNASKED = 3

/** Checks and trials that are about the leader, for those who would rather know before they change anything. */
function checksOfLeader(
  input: PlanInput,
  { chances }: Trouble,
  asks: readonly Ask[],
  causes: readonly Weighed[],
  asked: readonly AdvisedStep[],
): AdvisedStep[] {
  const leader = causes.at(0)?.id
  return asks
    .filter(
      ({ step }) =>
        step.kind !== 'look' && leader && step.about.includes(leader) && !asked.some((a) => a.id === step.id),
    )
    .sort((a, b) => a.question.cost - b.question.cost)
    .slice(0, MOST_UNASKED)
    .map(({ step, question }) => ({
      ...step,
      yes: afterAnswer(chances, question, true).probability,
      picture: picturesOf(input, causes, step),
    }))
}

/** Whether two orders of repair begin with the same step. */
const sameSteps = (a: readonly number[], b: readonly number[]) =>
  a.length > 0 && b.length > 0 && a[0] === b[0]

/** What an answer would say. */
function learnt(step: AskStep, answer: boolean): Learnt {
  if (step.kind === 'look')
    return { signs: { [step.sign]: (answer ? 'present' : 'absent') satisfies SignState } }
  const by = step.kind === 'check' ? step.check : step.trial
  // a check that is about several finds one of them, the likeliest, or none
  const about = answer ? step.about.slice(0, 1) : step.about
  return { looks: about.map((suspect) => ({ by, suspect, found: answer })) }
}

/** Looks at one place become one card: whoever looks there sees the others as well. */
function togetherByPlace(
  steps: readonly AdvisedStep[],
  asks: readonly Ask[],
  ranked: readonly { index: number; saves: number }[],
): AdvisedStep[] {
  const worth = new Map(
    ranked.flatMap(({ index, saves }) => {
      const { step } = asks[index]
      return step.kind === 'look' ? [[step.sign, saves] as const] : []
    }),
  )
  const taken = new Set<SignId>()
  return steps.flatMap((step): AdvisedStep[] => {
    if (step.kind !== 'look') return [step]
    if (taken.has(step.sign)) return []
    const beside = PLACES.map(({ id }) => SIGNS_AT[id])
      .filter((signs) => signs.includes(step.sign))
      .map((signs) =>
        signs.filter((s) => s !== step.sign && !taken.has(s) && (worth.get(s) ?? -Infinity) > -LOOK_MINUTES),
      )
      .reduce((m, signs) => (signs.length > m.length ? signs : m), [] as SignId[])
      .sort((a, b) => worth.get(b)! - worth.get(a)!)
      .slice(0, MOST_TOGETHER - 1)
    for (const s of [step.sign, ...beside]) taken.add(s)
    return [
      { ...step, signs: [step.sign, ...beside], minutes: LOOK_MINUTES + BESIDE_MINUTES * beside.length },
    ]
  })
}

/** What the picture will look like after either answer, by the same inference as the picture. */
function picturesOf(input: PlanInput, causes: readonly Weighed[], step: AskStep): Reason[] {
  return [true, false].flatMap((answer) => {
    const { probability } = input.infer(learnt(step, answer))
    const best = causes.reduce<Weighed | null>(
      (m, c) => (!m || (probability.get(c.id) ?? 0) > (probability.get(m.id) ?? 0) ? c : m),
      null,
    )
    if (!best) return []
    return [
      because('leads-after', {
        answer: step.kind === 'look' ? (answer ? 'there' : 'not-there') : answer ? 'found' : 'not-found',
        suspect: best.id,
        still: best.id === input.balance.suspects[0]?.id,
        chance: Math.round((probability.get(best.id) ?? 0) * 100),
      }),
    ]
  })
}

/** Likely mends that move one setting in opposite directions, said openly. */
function conflictsOf(proposals: readonly Proposal[]): Reason[] {
  const out: Reason[] = []
  const moves = proposals.filter(isSettingProposal)
  for (let i = 0; i < moves.length; i++)
    for (let j = i + 1; j < moves.length; j++) {
      const [a, b] = [moves[i], moves[j]]
      if (a.key !== b.key || typeof a.to !== 'number' || typeof b.to !== 'number') continue
      if (Math.sign(a.to - Number(a.from)) * Math.sign(b.to - Number(b.from)) >= 0) continue
      out.push(
        because('pulls-both-ways', {
          setting: a.key,
          first: a.suspect,
          firstTo: a.to,
          second: b.suspect,
          secondTo: b.to,
          by:
            suspectOf(a.suspect).by.find((x) => suspectOf(b.suspect).by.includes(x)) ??
            suspectOf(a.suspect).by[0],
        }),
      )
    }
  return out
}
