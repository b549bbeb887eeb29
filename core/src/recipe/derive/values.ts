import type { Reason } from '../../quantity/reason'
import type { SettingKey, SettingValue, ValueOf } from '../settings'

/** Where a value can come from, weakest first. A machine limit is not a source: it clips whichever wins. */
export const SOURCES = ['card', 'relative', 'label', 'computed', 'file', 'measured', 'mend', 'hand'] as const
export type Source = (typeof SOURCES)[number]

/** One source's say about one setting. */
export interface Offer<Value extends SettingValue = SettingValue> {
  source: Source
  value: Value
  reason: Reason
}

/** Sources that stand against re-derivation. */
export const PINNED_SOURCES = ['file', 'measured', 'mend', 'hand'] as const satisfies readonly Source[]
export type PinnedSource = (typeof PINNED_SOURCES)[number]
/** Whether a value of this source stands against re-derivation. */
export const isPinned = (source: Source): source is PinnedSource => PINNED_SOURCES.some((s) => s === source)

/** A value that stands against re-derivation: taken from a path file, measured, mended or set by hand. */
export interface Pinned<Value extends SettingValue = SettingValue> {
  value: Value
  source: PinnedSource
  reason: Reason
  /** ± in the setting's unit, for measured values. */
  plusMinus?: number
  /** ISO date it was measured, mended or set. */
  at?: string
}
export type Pins = { [K in SettingKey]?: Pinned<ValueOf<K>> }

/** What a tested relative brings: values that beat the card, unproven on this roll. */
export type Inherited = { [K in SettingKey]?: { value: ValueOf<K>; reason: Reason } }

/** Layer-height grades of a recipe. The standard one is the base; the others follow it. */
export const GRADES = ['fine', 'standard', 'coarse'] as const
export type Grade = (typeof GRADES)[number]
export const VARIANTS = ['fine', 'coarse'] as const satisfies readonly Grade[]
export type Variant = (typeof VARIANTS)[number]

/** A setting's value with the reason for it. */
export interface Resolved<Value extends SettingValue = SettingValue> {
  value: Value
  source: Source
  reason: Reason
  plusMinus?: number
  /** ISO date, for values that were measured, mended or set. */
  at?: string
  /** Settings this value was worked out from. */
  follows?: SettingKey[]
  /** Set when the machine's limit moved the winner. */
  clippedFrom?: number
  /** The value was missing where it was kept, as it is where the setting is newer than the recipe, and was derived when read. */
  filledIn?: true
  /** All offers, weakest first; the last one won. */
  stack: Offer<Value>[]
}

export type RecipeValues = { [K in SettingKey]: Resolved<ValueOf<K>> }
/** The bare values of a recipe. */
export type PlainValues = { [K in SettingKey]: ValueOf<K> }
/** A recipe as far as its values go, whatever else hangs on them. */
export type ValuesOnly = { [K in SettingKey]: { value: ValueOf<K> } }
