import type { Facts } from '../knowledge/facts'
import { SIGNS, SIGN_IDS, signOf, type SignId } from '../knowledge/signs'
import { SUSPECTS, SUSPECT_IDS, suspectOf, type SuspectId } from '../knowledge/suspects'
import { PRIOR, STRENGTH, type ContextRule, type FaultFamily } from '../knowledge/types'
import { factText } from './facts'
import { MAX_SEEN, deciban, fromDeciban, posterior, type Cause, type Finding } from './network'

export type SignState = 'present' | 'absent'
export type SignStates = Partial<Record<SignId, SignState>>

/** What came of an attempt, as evidence on the suspects it went for. */
export interface AttemptEvidence {
  number: number
  suspects: SuspectId[]
  /** Whole outcome: the best over the signs it was meant to cure. */
  outcome: 'gone' | 'better' | 'same' | 'worse'
}

/** A reason from outside the rules: a path finding, or heights marked on the part. */
export interface Evidence {
  suspect: SuspectId
  /** Shift of the prior odds, decibans. */
  db: number
  words: string
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

export interface Reason {
  kind: 'sign' | 'context' | 'attempt'
  /** Positive: for the suspect. Decibans. */
  db: number
  words: string
  /** Where a context reason comes from. */
  from?: string
  sign?: SignId
}

export interface Weighed {
  id: SuspectId
  name: string
  /** Chance that it is there and has to do with what was seen; with nothing seen yet, that it is there. */
  probability: number
  /** Chance that it is there at all. */
  present: number
  /** Odds in decibans, before and after. */
  priorDb: number
  db: number
  reasons: Reason[]
}

export interface Balance {
  suspects: Weighed[]
  /** How many signs were looked at. */
  looked: number
  seen: number
  /** Probability of the signs under the model against their leaks alone, decibans; low: nothing fits. */
  fitDb: number
}

/** Chance that a sign shows without any suspect the app knows. From memory. */
export const SIGN_LEAK = 0.02
/** Chance that mending the true cause shows, and that a print gets better by itself. From memory. */
const MENDED = { gone: { works: 0.85, leak: 0.04 }, better: { works: 0.85, leak: 0.15 } }
/** Chance that a mend of the true cause changes something at all: a step may be too small. From memory. */
const SHOWS = { same: 0.8, worse: 0.9 }

/** Most signs a case may have marked as seen: beyond it a part has more than one story. */
export const MAX_SIGNS_SEEN = 14

/** Suspects that can produce at least one sign of the families. */
export function suspectsOf(families?: readonly FaultFamily[]): SuspectId[] {
  if (!families) return SUSPECT_IDS
  return SUSPECT_IDS.filter((id) =>
    (Object.keys(SUSPECTS[id].signs) as SignId[]).some((s) => families.includes(SIGNS[s].family)),
  )
}

/** The context rules of a suspect that fire on the facts, with their reasons. */
export function contextOf(rules: ContextRule[], facts: Facts): Reason[] {
  const reasons: Reason[] = []
  const done = new Set<string>()
  for (const rule of rules) {
    const fact = facts[rule.fact]
    if (!fact) continue
    const v = fact.value
    const side = `${rule.fact}:${rule.db > 0}`
    const fires =
      typeof v === 'boolean'
        ? rule.is === v
        : (rule.above !== undefined && v > rule.above) || (rule.below !== undefined && v < rule.below)
    if (!fires || done.has(side)) continue // of several steps on one fact the first that fires counts
    done.add(side)
    reasons.push({
      kind: 'context',
      db: rule.db,
      words: rule.words.replace('{value}', factText(rule.fact, v)),
      from: fact.from,
    })
  }
  return reasons
}

/**
 * Weighs every suspect by exact inference over signs, context and attempts.
 *
 * Context shifts the prior odds; signs and the outcomes of attempts are findings of a noisy-OR network. The
 * weight of a sign is the change of log odds when it is taken away, all else kept (weight of evidence,
 * Good 1950); what a sign weighs therefore depends on the others.
 */
export function weigh({ signs, facts, attempts: all = [], evidence = [], families }: BalanceInput): Balance {
  const ids = suspectsOf(families)
  const shown = SIGN_IDS.filter((s) => signs[s] !== undefined)
  // An attempt that helped is one more finding to explain; the latest count where there are very many.
  const attempts = all.slice(
    -Math.max(0, MAX_SEEN - shown.filter((s) => signs[s] === 'present').length) || all.length,
  )
  const indexOf = new Map<SignId, number>(shown.map((s, i) => [s, i]))
  const findings: Finding[] = shown.map((s) => ({ leak: SIGN_LEAK, state: signs[s] === 'present' }))
  const context = ids.map((id) => [
    ...contextOf(suspectOf(id).context, facts),
    ...evidence
      .filter((e) => e.suspect === id)
      .map((e): Reason => ({ kind: 'context', db: e.db, words: e.words, from: 'path' })),
  ])
  const priors = ids.map((id, i) => {
    const shift = context[i].reduce((sum, r) => sum + r.db, 0)
    return Math.min(0.95, fromDeciban(deciban(PRIOR[suspectOf(id).prior]) + shift))
  })
  const causes: Cause[] = ids.map((id, i) => ({
    prior: priors[i],
    links: (Object.entries(SUSPECTS[id].signs) as [SignId, 'S' | 'M' | 'W'][])
      .filter(([s]) => indexOf.has(s))
      .map(([s, strength]) => [indexOf.get(s)!, STRENGTH[strength]]),
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
  const whole = posterior(causes, findings)
  const seen = shown.filter((s) => signs[s] === 'present').length
  // Taking each finding away in turn is dear when very many are seen: then only the sums are shown.
  const oneByOne = findings.filter((f) => f.state).length <= 13
  const without = findings.map((_, f) =>
    oneByOne
      ? posterior(
          causes,
          findings.map((g, i) => (i === f ? { leak: g.leak } : g)),
        )
      : whole,
  )
  const leaksOnly = findings.reduce((sum, f) => sum + Math.log(f.state ? f.leak : 1 - f.leak), 0)
  const suspects = ids.map((id, i): Weighed => {
    const p = whole.causes[i]
    const reasons: Reason[] = [...context[i]]
    shown.forEach((s, f) => {
      const db = deciban(p) - deciban(without[f].causes[i])
      if (Math.abs(db) < 0.25) return
      const sign = signOf(s)
      const linked = s in SUSPECTS[id].signs
      const words =
        signs[s] === 'present'
          ? linked
            ? `${sign.name}: seen.`
            : `${sign.name}: seen, and others explain it better.`
          : `${sign.name}: not there.`
      reasons.push({ kind: 'sign', db, words, sign: s })
    })
    attempts.forEach((a, k) => {
      if (!a.suspects.includes(id)) return
      const db = deciban(p) - deciban(without[shown.length + k].causes[i])
      reasons.push({
        kind: 'attempt',
        db,
        words: `Attempt ${a.number} went for it: ${OUTCOME_WORDS[a.outcome]}.`,
      })
    })
    reasons.sort((a, b) => Math.abs(b.db) - Math.abs(a.db))
    return {
      id,
      name: SUSPECTS[id].name,
      probability: seen ? whole.responsible[i] : p,
      present: p,
      priorDb: deciban(PRIOR[suspectOf(id).prior]),
      db: deciban(p),
      reasons,
    }
  })
  suspects.sort((a, b) => b.probability - a.probability || b.present - a.present)
  return {
    suspects,
    looked: shown.length,
    seen,
    fitDb: (10 / Math.LN10) * (whole.logEvidence - leaksOnly),
  }
}

export const OUTCOME_WORDS = { gone: 'gone', better: 'better', same: 'no change', worse: 'worse' } as const

/** A weight in words. */
export function weightWords(db: number): string {
  const size = Math.abs(db)
  const side = db >= 0 ? 'for' : 'against'
  if (size < 1.5) return `hardly ${side}`
  if (size < 4) return `a little ${side}`
  if (size < 8) return `clearly ${side}`
  if (size < 13) return `strongly ${side}`
  return `very strongly ${side}`
}
