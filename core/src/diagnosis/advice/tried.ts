import type { ProcedureId } from '../../knowledge/procedures'
import type { SuspectId } from '../../knowledge/suspects'
import type { SettingKey, SettingValue } from '../../recipe/settings'
import type { AttemptOutcome, Departure } from '../reasons'

/** What a step changes: one setting, or something done by hand. */
export type Change =
  | { kind: 'setting'; key: SettingKey; from: SettingValue; to: SettingValue }
  | {
      kind: 'handling'
      procedure: ProcedureId
      /** What a path file made anew brings back to the recipe’s values. */
      departs?: readonly Departure[]
    }

/** A mend that was tried before, and what came of it. */
export type TriedMend = { suspect: SuspectId; outcome: AttemptOutcome } & Change

/** What is left of the chance of a mend that was tried, by what came of it. From memory. */
const TRIED = { gone: 0, better: 0.7, same: 0.5, worse: 0.1 }
/** Of a mend by hand that was done with care: little is left whatever came of it. From memory. */
const DONE_BY_HAND = 0.4

/** Whether a step of a setting was made for a suspect and did not do. */
export const stepFailed = (tried: readonly TriedMend[], suspect: SuspectId): boolean =>
  tried.some((t) => t.suspect === suspect && t.kind === 'setting' && ['same', 'worse'].includes(t.outcome))

/** What is left of a mend's chance after it was tried. */
export function leftOf(tried: readonly TriedMend[], suspect: SuspectId, change: Change): number {
  let share = 1
  for (const t of tried) {
    if (t.suspect !== suspect) continue
    if (t.kind === 'handling') {
      if (change.kind === 'handling' && change.procedure === t.procedure) share *= DONE_BY_HAND
    } else if (change.kind === 'setting' && change.key === t.key && sameDirection(change, t))
      share *= TRIED[t.outcome]
  }
  return share
}
type SettingChange = Extract<Change, { kind: 'setting' }>
export const directionOf = ({ from, to }: Pick<SettingChange, 'from' | 'to'>) =>
  typeof from === 'number' && typeof to === 'number' ? Math.sign(to - from) : 0
const sameDirection = (a: SettingChange, b: SettingChange) =>
  directionOf(a) === directionOf(b) && (directionOf(a) !== 0 || a.to === b.to)
