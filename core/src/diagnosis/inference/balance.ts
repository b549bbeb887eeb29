import type { FactOrigin, Facts } from '../../knowledge/facts'
import type { Reason } from '../../quantity/reason'
import { SIGNS, SIGN_IDS, type FaultFamily, type SignId } from '../../knowledge/signs'
import { SUSPECTS, SUSPECT_IDS, suspectOf, type SuspectId } from '../../knowledge/suspects'
import { AGAINST, PRIOR, STRENGTH, type ContextRule, type Strength } from '../../knowledge/types'
import { because, type AttemptOutcome } from '../reasons'
import { deciban, fromDeciban, posterior, prepare, type Cause, type Finding } from './network'

export type SignState = 'present' | 'absent'
export type SignStates = Partial<Record<SignId, SignState>>

/** What came of an attempt, as evidence on the suspects it went for. */
export interface AttemptEvidence {
  number: number
  suspects: SuspectId[]
  outcome: AttemptOutcome
}

/** A reason from outside the rules: a path finding, or heights marked on the part. */
export interface Evidence {
  suspect: SuspectId
  /** Shift of the prior odds. */
  decibans: number
  reason: Reason
}

export interface BalanceInput {
  signs: SignStates
  facts: Facts
  attempts?: AttemptEvidence[]
  /** Findings and marks on the part that bear on single suspects. */
  evidence?: readonly Evidence[]
  /** Only suspects that can produce a sign of these families; all when left out. */
  families?: readonly FaultFamily[]
}

/** One thing that speaks for or against a suspect. */
export interface Weight {
  kind: 'sign' | 'context' | 'attempt'
  /** Positive: for the suspect. */
  decibans: number
  reason: Reason
  /** Where a context reason comes from. */
  from?: FactOrigin
  sign?: SignId
}

export interface Weighed {
  id: SuspectId
  /** Chance that it is there and has to do with what was seen; with nothing seen yet, that it is there. */
  probability: number
  /** Chance that it is there at all. */
  present: number
  /** Odds before and after. */
  priorDecibans: number
  decibans: number
  /** Largest first. */
  weights: Weight[]
}

export interface Balance {
  suspects: Weighed[]
  /** How many signs were looked at. */
  looked: number
  seen: number
  /** Probability of the signs under the model against their leaks alone, low: nothing fits. */
  fitDecibans: number
}

/** Chance that a sign shows without any suspect the app knows. From memory. */
export const SIGN_LEAK = 0.02
/**
 * How people look: the chance that one who looks for a sign misses it, and marks it where it is not. Nobody has counted it;
 * docs/diagnosis.md has what the balance claims against what is so under three of them.
 */
export const OBSERVER = { miss: 0.12, mistake: 0.03 }
/**
 * Who marks a sign has looked at the others of its family, more or less: the share of those that are there that would be marked
 * as well. From memory.
 */
const MARKED_TOO = 0.4
/** Chance that a sign is marked though no suspect brings it. */
export const MARKED_ANYWAY = 1 - (1 - SIGN_LEAK) * (1 - OBSERVER.mistake)
/** Chance that a suspect's sign is there and is seen by one who looks for it. */
export const seenBy = (strength: Strength): number => STRENGTH[strength] * (1 - OBSERVER.miss)
/** Chance that mending the true cause shows, and that a print gets better by itself. From memory. */
const MENDED = { gone: { works: 0.85, leak: 0.04 }, better: { works: 0.85, leak: 0.15 } }
/** Chance that a mend of the true cause changes something at all: a step may be too small. From memory. */
const SHOWS = { same: 0.8, worse: 0.9 }

/** Additions of one of the many sums that are made to choose a question. */
const AFFORDED_BY_THE_WAY = 300_000

/** A sign's weight under this is not worth a line, decibans. */
const LEAST_SHOWN = 0.25

/** Suspects that can produce at least one sign of the families. */
export function suspectsOf(families?: readonly FaultFamily[]): SuspectId[] {
  if (!families) return SUSPECT_IDS
  return SUSPECT_IDS.filter((id) =>
    (Object.keys(SUSPECTS[id].signs) as SignId[]).some((s) => families.includes(SIGNS[s].family)),
  )
}

/** The context rules of a suspect that fire on the facts. */
export function contextOf(suspect: SuspectId, facts: Facts): Weight[] {
  const weights: Weight[] = []
  const done = new Set<string>()
  suspectOf(suspect).context.forEach((rule, place) => {
    const fact = facts[rule.fact]
    const side = `${rule.fact}:${rule.decibans > 0}`
    // of several steps on one fact the first that fires counts
    if (!fact || done.has(side) || !fires(rule, fact.value)) return
    done.add(side)
    weights.push({
      kind: 'context',
      decibans: rule.decibans,
      reason: because('context-rule', { suspect, rule: place, value: fact.value }),
      from: fact.from,
    })
  })
  return weights
}

/** Whether a context rule fires on a fact's value. */
export const fires = (rule: ContextRule, value: number | boolean) =>
  typeof value === 'boolean'
    ? rule.is === value
    : (rule.above !== undefined && value > rule.above) || (rule.below !== undefined && value < rule.below)

/**
 * Weighs every suspect by exact inference over signs, context and attempts.
 *
 * Context shifts the prior odds; signs and the outcomes of attempts are findings of a noisy-OR network. The
 * weight of a sign is the change of log odds when it is taken away, all else kept (weight of evidence,
 * Good 1950); what a sign weighs therefore depends on the others.
 */
export function weigh(input: BalanceInput): Balance {
  const { signs } = input
  const { ids, shown, attempts, findings, context, causes } = networkOf(input)
  const { posterior: whole, without: withoutOne } = prepare(causes, findings)
  const seen = shown.filter((s) => signs[s] === 'present').length
  const without = findings.map((_, f) => withoutOne(f))
  const leaksOnly = findings.reduce((sum, f) => sum + Math.log(f.state ? f.leak : 1 - f.leak), 0)
  const suspects = ids.map((id, i): Weighed => {
    const p = whole.causes[i]
    const weights: Weight[] = [...context[i]]
    shown.forEach((sign, f) => {
      const decibans = deciban(p) - deciban(without[f][i])
      if (Math.abs(decibans) < LEAST_SHOWN) return
      const code =
        signs[sign] !== 'present'
          ? 'sign-absent'
          : sign in SUSPECTS[id].signs
            ? 'sign-seen'
            : 'sign-explained-better'
      weights.push({ kind: 'sign', decibans, reason: because(code, { sign }), sign })
    })
    attempts.forEach((a, k) => {
      if (!a.suspects.includes(id)) return
      const decibans = deciban(p) - deciban(without[shown.length + k][i])
      weights.push({
        kind: 'attempt',
        decibans,
        reason: because('attempt-outcome', { attempt: a.number, outcome: a.outcome }),
      })
    })
    weights.sort((a, b) => Math.abs(b.decibans) - Math.abs(a.decibans))
    return {
      id,
      probability: seen ? whole.responsible[i] : p,
      present: p,
      priorDecibans: deciban(PRIOR[suspectOf(id).prior]),
      decibans: deciban(p),
      weights,
    }
  })
  suspects.sort((a, b) => b.probability - a.probability || b.present - a.present)
  return {
    suspects,
    looked: shown.length,
    seen,
    fitDecibans: (10 / Math.LN10) * (whole.logEvidence - leaksOnly),
  }
}

export interface Inferred {
  /** Chance of each suspect that it is there and has to do with what was seen. */
  probability: Map<SuspectId, number>
  /** Natural logarithm of the probability of all that is known. */
  logEvidence: number
}

/**
 * What is inferred without its explanation: far cheaper than {@link weigh}, and the same numbers.
 * @param aside signs that count as known, but not as what is to be cured
 */
export function infer(input: BalanceInput, aside: readonly SignId[] = []): Inferred {
  const { ids, causes, findings, shown } = networkOf(input)
  shown.forEach((s, i) => {
    if (aside.includes(s)) findings[i].symptom = false
  })
  const { causes: present, responsible, logEvidence } = posterior(causes, findings, AFFORDED_BY_THE_WAY)
  const seen = shown.some((s) => input.signs[s] === 'present' && !aside.includes(s))
  return { probability: new Map(ids.map((id, i) => [id, seen ? responsible[i] : present[i]])), logEvidence }
}

/** What speaks against a suspect because its other signs, of families in which something was marked, were not marked as well. */
function notMarked(id: SuspectId, signs: SignStates, touched: ReadonlySet<FaultFamily>): Weight[] {
  const decibans = (Object.entries(SUSPECTS[id].signs) as [SignId, Strength][])
    .filter(([s]) => signs[s] === undefined && touched.has(SIGNS[s].family))
    .reduce((sum, [, strength]) => sum + 10 * Math.log10(1 - STRENGTH[strength] * MARKED_TOO), 0)
  return decibans < 0 ? [{ kind: 'sign', decibans, reason: because('others-not-marked') }] : []
}

/** The two-layer network of what is known: suspects with their prior odds, signs and outcomes as findings. */
function networkOf({ signs, facts, attempts = [], evidence = [], families }: BalanceInput) {
  const ids = suspectsOf(families)
  const shown = SIGN_IDS.filter((s) => signs[s] !== undefined)
  const indexOf = new Map<SignId, number>(shown.map((s, i) => [s, i]))
  const findings: Finding[] = shown.map((s) => ({ leak: MARKED_ANYWAY, state: signs[s] === 'present' }))
  const touched = new Set(SIGN_IDS.filter((s) => signs[s] === 'present').map((s) => SIGNS[s].family))
  const context = ids.map((id) => [
    ...contextOf(id, facts),
    ...suspectOf(id)
      .against.filter((sign) => signs[sign] === 'present')
      .slice(0, 1)
      .map((sign): Weight => ({
        kind: 'sign',
        decibans: AGAINST,
        reason: because('sign-against', { sign }),
        sign,
      })),
    ...notMarked(id, signs, touched),
    ...evidence
      .filter((e) => e.suspect === id)
      .map((e): Weight => ({ kind: 'context', decibans: e.decibans, reason: e.reason, from: 'path' })),
  ])
  const priors = ids.map((id, i) => {
    const shift = context[i].reduce((sum, r) => sum + r.decibans, 0)
    return Math.min(0.95, fromDeciban(deciban(PRIOR[suspectOf(id).prior]) + shift))
  })
  const causes: Cause[] = ids.map((id, i) => ({
    prior: priors[i],
    links: (Object.entries(SUSPECTS[id].signs) as [SignId, Strength][])
      .filter(([s]) => indexOf.has(s))
      .map(([s, strength]) => [indexOf.get(s)!, seenBy(strength)]),
  }))
  // An attempt's outcome is one more finding whose parents are the suspects it went for.
  attempts.forEach((a) => {
    const at = findings.length
    const improved = a.outcome === 'gone' || a.outcome === 'better'
    findings.push({
      leak: improved ? MENDED[a.outcome as 'gone' | 'better'].leak : 0.1,
      state: improved,
      symptom: false,
    })
    const chance = improved
      ? MENDED[a.outcome as 'gone' | 'better'].works
      : SHOWS[a.outcome as 'same' | 'worse']
    for (const s of a.suspects) {
      const i = ids.indexOf(s)
      if (i >= 0) causes[i].links.push([at, chance])
    }
  })
  return { ids, shown, attempts, findings, context, causes }
}
