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
  limits: Pick<
    SettingMend,
    'notBelow' | 'notAbove' | 'byDirect' | 'notWhen' | 'toward' | 'foundBy' | 'costly'
  > = {},
): SettingMend => ({ kind: 'setting', key, by, why, minutes: 1, ...limits })
type SetLimits = Pick<SettingMend, 'bound' | 'notWhen' | 'onlyWhen' | 'foundBy' | 'costly'>
export const set = (key: SettingKey, to: SettingValue, why: string, limits: SetLimits = {}): SettingMend => ({
  kind: 'setting',
  key,
  to,
  why,
  minutes: 1,
  ...limits,
})
export const setTo = (
  key: SettingKey,
  toFact: FactKey,
  why: string,
  limits: SetLimits = {},
): SettingMend => ({ kind: 'setting', key, toFact, why, minutes: 1, ...limits })
/** A share of the present value. */
export const share = (
  key: SettingKey,
  times: number,
  why: string,
  limits: Pick<SettingMend, 'notBelow' | 'notAbove' | 'notWhen' | 'foundBy' | 'costly'> = {},
): SettingMend => ({ kind: 'setting', key, times, why, minutes: 1, ...limits })
export const hand = (
  procedure: ProcedureId,
  minutes: number,
  why: string,
  limits: Pick<HandlingMend, 'notWhen' | 'foundBy'> = {},
): HandlingMend => ({ kind: 'handling', procedure, minutes, why, ...limits })
export const LEAST = { bound: 'least' } as const
export const MOST = { bound: 'most' } as const
export const COSTLY = { costly: true } as const

/** A suspect as it stands in its table. */
interface Row {
  name: string
  what: string
  prior: Commonness
  signs: Partial<Record<SignId, Strength>>
  against?: SignId[]
  context?: ContextRule[]
  tell: string
  by: (CheckId | TrialId)[]
  mends: (SettingMend | HandlingMend)[]
  watch?: SignId[]
}
export const group = <K extends string>(g: SuspectGroup, rows: Record<K, Row>): Record<K, Suspect> =>
  Object.fromEntries(
    Object.entries<Row>(rows).map(([id, r]) => [id, { group: g, context: [], against: [], watch: [], ...r }]),
  ) as unknown as Record<K, Suspect>
