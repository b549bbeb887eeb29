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
const TRIED = { gone: 0, better: 0.6, same: 0.35, worse: 0.1 }
/** Of a mend by hand that was done with care: something where it helped, next to nothing where it did not. From memory. */
const DONE_BY_HAND = { gone: 0.2, better: 0.5, same: 0.12, worse: 0.06 }

/** What is done in another way for each suspect: by its own trial, or in its own paths. */
const FOR_ITS_SUSPECT: ReadonlySet<ProcedureId> = new Set(['find-by-trial', 'prepare-paths'] as const)

/** Whether a step of a setting was made for a suspect and did not do. */
export const stepFailed = (tried: readonly TriedMend[], suspect: SuspectId): boolean =>
  tried.some((t) => t.suspect === suspect && t.kind === 'setting' && ['same', 'worse'].includes(t.outcome))

/** What is left of a mend's chance after it was tried. */
export function leftOf(tried: readonly TriedMend[], suspect: SuspectId, change: Change): number {
  let share = 1
  for (const t of tried) {
    // what was done by hand is done, for whomever it was meant
    if (t.kind === 'handling') {
      const again = change.kind === 'handling' && change.procedure === t.procedure
      if (again && (t.suspect === suspect || !FOR_ITS_SUSPECT.has(t.procedure)))
        share *= DONE_BY_HAND[t.outcome]
      continue
    }
    if (t.suspect !== suspect) continue
    if (change.kind === 'setting' && change.key === t.key && sameDirection(change, t))
      share *= TRIED[t.outcome]
  }
  return share
}
type SettingChange = Extract<Change, { kind: 'setting' }>
export const directionOf = ({ from, to }: Pick<SettingChange, 'from' | 'to'>) =>
  typeof from === 'number' && typeof to === 'number' ? Math.sign(to - from) : 0
const sameDirection = (a: SettingChange, b: SettingChange) =>
  directionOf(a) === directionOf(b) && (directionOf(a) !== 0 || a.to === b.to)
