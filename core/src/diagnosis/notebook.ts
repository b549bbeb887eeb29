import { SUSPECTS, suspectOf, type SuspectId } from '../knowledge/suspects'
import { signOf, type SignId } from '../knowledge/signs'
import { procedureOf, type ProcedureId } from '../knowledge/procedures'
import type { SettingKey, SettingValue } from '../recipe/settings'
import { settingText, valueText } from './advice'
import type { AttemptEvidence, SignStates } from './balance'

export type SignResult = 'gone' | 'better' | 'same' | 'worse'
export type SignResults = Partial<Record<SignId, SignResult>>

export interface NotedMend {
  suspect: SuspectId
  kind: 'setting' | 'handling'
  key?: string
  from?: SettingValue
  to?: SettingValue
  procedure?: string
}
export interface NotedAttempt {
  number: number
  mends: NotedMend[]
  signsBefore: SignStates
  results: SignResults | null
  newSigns: SignId[]
}

/**
 * The outcome of an attempt as a whole, over the seen signs its suspects can produce: gone when all of them
 * went, better when any got better, worse when any got worse and none better, else the same. An attempt whose
 * suspects produce none of the seen signs is judged by all of them.
 */
export function overallOutcome(attempt: Pick<NotedAttempt, 'mends' | 'results'>): SignResult | null {
  if (!attempt.results) return null
  const all = Object.entries(attempt.results) as [SignId, SignResult][]
  if (!all.length) return null
  const meant = all.filter(([s]) =>
    attempt.mends.some((m) => SUSPECTS[m.suspect].signs[s as never] !== undefined),
  )
  const results = (meant.length ? meant : all).map(([, r]) => r)
  if (results.every((r) => r === 'gone')) return 'gone'
  if (results.some((r) => r === 'gone' || r === 'better')) return 'better'
  return results.some((r) => r === 'worse') ? 'worse' : 'same'
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

/** A setting whose change made signs go away or better: going back on it may bring them back. */
export interface Cure {
  attempt: number
  key: SettingKey
  from: SettingValue
  to: SettingValue
  signs: SignId[]
}
export function curesOf(attempts: readonly NotedAttempt[]): Cure[] {
  return attempts.flatMap((a) => {
    const signs = (Object.entries(a.results ?? {}) as [SignId, SignResult][])
      .filter(([, r]) => r === 'gone' || r === 'better')
      .map(([s]) => s)
    if (!signs.length) return []
    return a.mends.flatMap((m) =>
      m.kind === 'setting'
        ? [{ attempt: a.number, key: m.key as SettingKey, from: m.from!, to: m.to!, signs }]
        : [],
    )
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
    a.number < attempt.number && a.results
      ? (Object.keys(a.results) as SignId[]).filter((s) => a.results![s] === 'gone')
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
  for (const [s, r] of Object.entries(results) as [SignId, SignResult][])
    after[s] = r === 'gone' ? 'absent' : 'present'
  for (const s of newSigns) after[s] = 'present'
  return after
}

/** A mend in words: "Retraction length 2 mm → 3.5 mm" or the procedure's name. */
export function mendText(mend: NotedMend): string {
  if (mend.kind === 'handling') return procedureOf(mend.procedure as ProcedureId).name
  const key = mend.key as SettingKey
  return `${settingText(key, mend.from!)} → ${valueText(key, mend.to!)}`
}

/** What a closed case taught, as sentences. */
export function lessons(part: string, attempts: readonly NotedAttempt[], signs: SignStates): string {
  const cures: string[] = []
  const dead: string[] = []
  for (const a of attempts) {
    const outcome = overallOutcome(a)
    if (!outcome) continue
    const what = a.mends.map(mendText).join(' and ')
    const whom = [...new Set(a.mends.map((m) => suspectOf(m.suspect).name))].join(' or ')
    if (outcome === 'gone' || outcome === 'better') {
      const cured = (Object.entries(a.results ?? {}) as [SignId, SignResult][])
        .filter(([, r]) => r === outcome || r === 'gone')
        .map(([s]) => signOf(s).name.toLowerCase())
      cures.push(
        `${whom}: ${what} made ${cured.join(', ') || 'it'} ${outcome === 'gone' ? 'go away' : 'better'}.`,
      )
    } else dead.push(`${what} changed nothing${outcome === 'worse' ? ' for the better' : ''}.`)
  }
  const left = (Object.keys(signs) as SignId[])
    .filter((s) => signs[s] === 'present')
    .map((s) => signOf(s).name.toLowerCase())
  return [
    cures.length
      ? cures.join(' ')
      : attempts.length
        ? `No cure was found for ${part}.`
        : `Closed without an attempt.`,
    ...dead,
    left.length ? `Still there: ${left.join(', ')}.` : '',
  ]
    .filter(Boolean)
    .join(' ')
}
