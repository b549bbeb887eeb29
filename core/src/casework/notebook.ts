import type { Change, Cure, TriedMend } from '../diagnosis/advice/mends'
import { directionOfMend } from '../diagnosis/advice/sideEffects'
import type { AttemptEvidence, Evidence, SignStates } from '../diagnosis/inference/balance'
import { because, type AttemptOutcome } from '../diagnosis/reasons'
import { SIGNS, type FaultFamily, type SignId } from '../knowledge/signs'
import { SUSPECT_IDS, suspectOf, type SuspectId } from '../knowledge/suspects'
import type { Reason } from '../quantity/reason'
import type { RecipeValues } from '../recipe/derive'
import type { Difference } from '../recipe/edits'
import { keysOf } from '../recipe/settings'
import { caseReason } from './reasons'

/** What came of a sign after an attempt. */
export type SignResult = AttemptOutcome
export type SignResults = Partial<Record<SignId, SignResult>>

/** A mend that was tried: what it changed, and the suspect it went for. */
export type NotedMend = { suspect: SuspectId } & Change
export interface NotedAttempt {
  number: number
  mends: NotedMend[]
  signsBefore: SignStates
  results: SignResults | null
  newSigns: SignId[]
  /** ISO time it was begun. */
  createdAt?: string
}

const resultsOf = (results: SignResults) => Object.entries(results) as [SignId, SignResult][]

/**
 * The outcome of an attempt as a whole, over the seen signs its suspects can produce: gone when all of them
 * went, better when any got better, worse when any got worse and none better, else the same. An attempt whose
 * suspects produce none of the seen signs is judged by all of them.
 */
export function overallOutcome(
  attempt: Pick<NotedAttempt, 'results'> & { mends: readonly { suspect: SuspectId }[] },
): AttemptOutcome | null {
  if (!attempt.results) return null
  const all = resultsOf(attempt.results)
  if (!all.length) return null
  const meant = all.filter(([s]) => attempt.mends.some((m) => suspectOf(m.suspect).signs[s] !== undefined))
  const results = (meant.length ? meant : all).map(([, r]) => r)
  if (results.every((r) => r === 'gone')) return 'gone'
  if (results.some((r) => r === 'gone' || r === 'better')) return 'better'
  return results.some((r) => r === 'worse') ? 'worse' : 'same'
}

/** What has to be known of attempts to tell what came back. */
type LookedAt = Pick<NotedAttempt, 'number' | 'results' | 'signsBefore' | 'newSigns'>

/**
 * Signs that an attempt had made go away, and that a later look alone found again; what a later attempt brought is no return.
 * @param attempts in their order
 * @param signs as they stand now
 * @returns by the attempt's number
 */
export function returnsOf(attempts: readonly LookedAt[], signs: SignStates): Map<number, SignId[]> {
  const returns = new Map<number, SignId[]>()
  attempts.forEach((attempt, i) => {
    const back = resultsOf(attempt.results ?? {}).filter(([sign, result]) => {
      if (result !== 'gone') return false
      for (const later of attempts.slice(i + 1)) {
        if (later.signsBefore[sign] === 'present') return true
        if (later.newSigns.includes(sign)) return false
      }
      return signs[sign] === 'present'
    })
    if (back.length)
      returns.set(
        attempt.number,
        back.map(([sign]) => sign),
      )
  })
  return returns
}

/** An attempt as it turned out: of the signs that came back it had only made better. */
export function turnedOut<A extends Pick<NotedAttempt, 'results'>>(attempt: A, back: readonly SignId[]): A {
  if (!back.length) return attempt
  const better = Object.fromEntries(back.map((sign) => [sign, 'better' as const]))
  return { ...attempt, results: { ...attempt.results, ...better } }
}

/** Attempts as they turned out, up to the signs as they stand now. */
export function asItTurnedOut<A extends LookedAt>(attempts: readonly A[], signs: SignStates): A[] {
  const returns = returnsOf(attempts, signs)
  return attempts.map((attempt) => turnedOut(attempt, returns.get(attempt.number) ?? []))
}

/** Attempts with an outcome, as evidence for the balance. */
export function attemptEvidence(attempts: readonly NotedAttempt[]): AttemptEvidence[] {
  return attempts.flatMap((a) => {
    const outcome = overallOutcome(a)
    return outcome
      ? [{ number: a.number, suspects: [...new Set(a.mends.map((m) => m.suspect))], outcome }]
      : []
  })
}

/** Suspects whose mend made what it went for go away. */
export function causesOf(
  attempts: readonly (Pick<NotedAttempt, 'results'> & { mends: readonly { suspect: SuspectId }[] })[],
): SuspectId[] {
  return [
    ...new Set(
      attempts.filter((a) => overallOutcome(a) === 'gone').flatMap((a) => a.mends.map((m) => m.suspect)),
    ),
  ]
}

/** Kinds of fault a case is about: of what is seen, or where nothing is seen any more, of what its cures went for. */
export function faultFamilies(seen: readonly SignId[], causes: readonly SuspectId[]): FaultFamily[] {
  const signs = seen.length ? seen : causes.flatMap((s) => keysOf(suspectOf(s).signs))
  return [...new Set(signs.map((s) => SIGNS[s].family))]
}

/** Setting changes of a case that made signs go away or better. */
export function curesOf(attempts: readonly NotedAttempt[]): Cure[] {
  return attempts.flatMap((a) => {
    const signs = resultsOf(a.results ?? {})
      .filter(([, r]) => r === 'gone' || r === 'better')
      .map(([s]) => s)
    if (!signs.length) return []
    return a.mends.flatMap((m) =>
      m.kind === 'setting' ? [{ attempt: a.number, key: m.key, from: m.from, to: m.to, signs }] : [],
    )
  })
}

/**
 * The latest attempt when it made things worse and its change is still in the recipe: it is taken back before anything
 * else is tried.
 * @param current the pair's recipe version in effect
 */
export function toTakeBack<
  A extends Omit<NotedAttempt, 'createdAt'> & { fromVersion: number; toVersion: number },
>(attempts: readonly A[], current: number): A | null {
  const last = attempts.at(-1)
  return last &&
    overallOutcome(last) === 'worse' &&
    last.toVersion !== last.fromVersion &&
    last.toVersion === current
    ? last
    : null
}

/** What a change that made things worse says for those whose mend moves the same setting the other way. */
const OTHER_WAY = 5

/** Suspects whose mend goes the other way than a change that made things worse, as evidence. From memory. */
export function otherWayEvidence(attempts: readonly NotedAttempt[]): Evidence[] {
  return attempts.flatMap((a) => {
    if (overallOutcome(a) !== 'worse' || a.mends.length !== 1) return []
    const [m] = a.mends
    if (m.kind !== 'setting' || typeof m.from !== 'number' || typeof m.to !== 'number') return []
    const way = Math.sign(m.to - m.from)
    return SUSPECT_IDS.filter(
      (id) =>
        id !== m.suspect &&
        suspectOf(id).mends.some(
          (o) => o.kind === 'setting' && o.key === m.key && directionOfMend(o) === -way,
        ),
    ).map((suspect) => ({
      suspect,
      decibans: OTHER_WAY,
      reason: because('other-way-was-worse', { attempt: a.number, setting: m.key }),
    }))
  })
}

/**
 * The recipe that the seen signs were printed with: an attempt that was begun but not looked at yet has shown nothing, so
 * what it moves stands as before.
 */
export function recipeSeen(
  recipe: RecipeValues,
  attempts: readonly (NotedAttempt & { toVersion: number })[],
  latest: LatestChange | undefined,
): RecipeValues {
  const open = attempts.at(-1)
  if (!open || open.results || open.toVersion !== latest?.version) return recipe
  const before = latest.changes.flatMap(({ key, from, was, grade }) =>
    from === undefined || (grade && grade !== 'standard')
      ? []
      : [[key, { ...recipe[key], value: from, ...(was && { source: was }) }] as const],
  )
  return { ...recipe, ...Object.fromEntries(before) } as RecipeValues
}

/** What the recipe's version in effect changed against the one before. */
export interface LatestChange {
  version: number
  changes: readonly Difference[]
}

/** Mends that were tried and looked at. */
export function triedIn(attempts: readonly NotedAttempt[]): TriedMend[] {
  return attempts.flatMap((a) => {
    const outcome = overallOutcome(a)
    return outcome ? a.mends.map((m): TriedMend => ({ ...m, outcome })) : []
  })
}

/** Side effects to ask for after an attempt: what its mends can bring, and what earlier ones had cured. */
export function asksAfter(
  attempt: NotedAttempt,
  earlier: readonly NotedAttempt[],
  signs: SignStates,
): SignId[] {
  const brought = attempt.mends.flatMap((m) => suspectOf(m.suspect).watch)
  const cured = earlier.flatMap((a) =>
    a.number < attempt.number
      ? resultsOf(a.results ?? {})
          .filter(([, r]) => r === 'gone')
          .map(([s]) => s)
      : [],
  )
  return [...new Set([...brought, ...cured])].filter((s) => signs[s] !== 'present')
}

/** The signs as they stand after an attempt: what went or was not found is absent, what stayed or came is present. */
export function signsAfter(
  before: SignStates,
  results: SignResults,
  newSigns: readonly SignId[],
  notThere: readonly SignId[] = [],
): SignStates {
  const after: SignStates = { ...before }
  for (const s of notThere) after[s] = 'absent'
  for (const [s, r] of resultsOf(results)) after[s] = r === 'gone' ? 'absent' : 'present'
  for (const s of newSigns) after[s] = 'present'
  return after
}

/** Signs in a state. */
export const signsThat = (state: 'present' | 'absent', signs: SignStates): SignId[] =>
  keysOf(signs).filter((s) => signs[s] === state)

/** What a mend changed. */
export const changeReason = (m: Change): Reason =>
  m.kind === 'handling'
    ? m.departs?.length
      ? caseReason('printed-anew', { departs: m.departs })
      : caseReason('procedure-done', { procedure: m.procedure })
    : caseReason('setting-changed', { setting: m.key, from: m.from, to: m.to })

/** What a closed case taught. */
export function taughtBy(part: string, attempts: readonly NotedAttempt[], signs: SignStates): Reason[] {
  const cures: Reason[] = []
  const dead: Reason[] = []
  for (const a of attempts) {
    const outcome = overallOutcome(a)
    if (!outcome) continue
    const changes = a.mends.map(changeReason)
    if (outcome === 'gone' || outcome === 'better')
      cures.push(
        caseReason('case-cured', {
          suspects: [...new Set(a.mends.map((m) => m.suspect))],
          changes,
          signs: resultsOf(a.results ?? {})
            .filter(([, r]) => r === outcome || r === 'gone')
            .map(([s]) => s),
          outcome,
        }),
      )
    else dead.push(caseReason('changed-nothing', { changes, worse: outcome === 'worse' }))
  }
  if (!cures.length)
    cures.push(attempts.length ? caseReason('no-cure-found', { part }) : caseReason('closed-without-attempt'))
  const left = signsThat('present', signs)
  return [...cures, ...dead, ...(left.length ? [caseReason('signs-left', { signs: left })] : [])]
}
