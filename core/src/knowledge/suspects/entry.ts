import type { SettingKey, SettingValue } from '../../recipe/settings'
import type { CheckId, TrialId } from '../checks'
import type { FactKey } from '../facts'
import type { ProcedureId } from '../procedures'
import type { SignId } from '../signs'
import type {
  Commonness,
  ContextRule,
  HandlingMend,
  SettingMend,
  Strength,
  Suspect,
  SuspectGroup,
} from '../types'

// ---- short forms for the tables of suspects
export const above = (fact: FactKey, than: number, decibans: number, words: string): ContextRule => ({
  fact,
  above: than,
  decibans,
  words,
})
export const below = (fact: FactKey, than: number, decibans: number, words: string): ContextRule => ({
  fact,
  below: than,
  decibans,
  words,
})
export const when = (fact: FactKey, decibans: number, words: string): ContextRule => ({
  fact,
  is: true,
  decibans,
  words,
})
export const step = (
  key: SettingKey,
  by: number,
  why: string,
  limits: Pick<SettingMend, 'notBelow' | 'notAbove' | 'byDirect' | 'notWhen' | 'toward'> = {},
): SettingMend => ({ kind: 'setting', key, by, why, minutes: 1, ...limits })
export const set = (key: SettingKey, to: SettingValue, why: string): SettingMend => ({
  kind: 'setting',
  key,
  to,
  why,
  minutes: 1,
})
export const setTo = (key: SettingKey, toFact: FactKey, why: string): SettingMend => ({
  kind: 'setting',
  key,
  toFact,
  why,
  minutes: 1,
})
export const hand = (procedure: ProcedureId, minutes: number, why: string): HandlingMend => ({
  kind: 'handling',
  procedure,
  minutes,
  why,
})

/** A suspect as it stands in its table. */
interface Row {
  name: string
  what: string
  prior: Commonness
  signs: Partial<Record<SignId, Strength>>
  context?: ContextRule[]
  tell: string
  by: (CheckId | TrialId)[]
  mends: (SettingMend | HandlingMend)[]
  watch?: SignId[]
}
export const group = <K extends string>(g: SuspectGroup, rows: Record<K, Row>): Record<K, Suspect> =>
  Object.fromEntries(
    Object.entries<Row>(rows).map(([id, r]) => [id, { group: g, context: [], watch: [], ...r }]),
  ) as unknown as Record<K, Suspect>
