import type { Machine } from '../machine/machine'
import type { Filament } from '../material/filament'
import { said, type Reason } from '../quantity/reason'
import {
  VARIANTS,
  deriveRecipe,
  inheritedIn,
  pinsOf,
  type GradedRecipe,
  type Inherited,
  type Pins,
  type RecipeValues,
  type RecipeVariant,
  type SomeRecipeValues,
  type Variant,
} from './derive'
import { SETTING_KEYS, faultOf, isSettingKey, type SettingKey } from './settings'

/**
 * Shape in which recipes are kept now.
 * 1: reasons were sentences (`words`). 2: reasons are codes with values.
 */
export const RECIPE_SCHEMA = 2

/** A recipe as it was kept, in any shape there ever was. */
export interface StoredRecipe {
  values: Readonly<Record<string, unknown>>
  variants?: Partial<
    Record<Variant, { pins?: Record<string, unknown>; values?: Record<string, unknown> }>
  > | null
}

/** What carried a sentence before there were codes, or carries a reason now. */
interface Worded {
  words?: string
  reason?: Reason
}
const reasonOf = ({ words, reason }: Worded): Reason => reason ?? said(words ?? '')
function reworded<T extends Worded>(it: T): Omit<T, 'words'> & { reason: Reason } {
  const { words: _, ...rest } = it
  return { ...rest, reason: reasonOf(it) }
}

type StoredValue = Worded & { value: unknown; stack?: Worded[] }
const isStoredValue = (v: unknown): v is StoredValue => typeof v === 'object' && v !== null && 'value' in v

/** Settings of today whose kept value still fits; what is unknown by now, or fits no more, is left out. */
function fitting(stored: Readonly<Record<string, unknown>>): [SettingKey, StoredValue][] {
  return Object.entries(stored).flatMap(([key, v]): [SettingKey, StoredValue][] =>
    isSettingKey(key) && isStoredValue(v) && faultOf(key, v.value) === null ? [[key, v]] : [],
  )
}

/** Kept values in today's shape. */
export function upgradeValues(stored: Readonly<Record<string, unknown>>): SomeRecipeValues {
  return Object.fromEntries(
    fitting(stored).map(([key, v]) => [key, { ...reworded(v), stack: (v.stack ?? []).map(reworded) }]),
  ) as SomeRecipeValues
}

/** Kept pins in today's shape. */
export function upgradePins(stored: Readonly<Record<string, unknown>>): Pins {
  return Object.fromEntries(fitting(stored).map(([key, v]) => [key, reworded(v)])) as Pins
}

/** What was inherited, in today's shape. */
export const upgradeInherited = (stored: Readonly<Record<string, unknown>>): Inherited =>
  Object.fromEntries(fitting(stored).map(([key, v]) => [key, reworded(v)])) as Inherited

/**
 * Brings a kept recipe up to date: settings that are missing, as those are that are newer than the recipe, are
 * derived from what is there and marked as filled in. A recipe in today's shape comes out as it went in.
 */
export function upgradeRecipe(
  stored: StoredRecipe,
  pair: { machine: Machine; filament: Filament },
): GradedRecipe {
  const known = upgradeValues(stored.values)
  const variants = Object.fromEntries(
    VARIANTS.map((v): [Variant, RecipeVariant] => [
      v,
      {
        pins: upgradePins(stored.variants?.[v]?.pins ?? {}),
        values: upgradeValues(stored.variants?.[v]?.values ?? {}),
      },
    ]),
  ) as Record<Variant, RecipeVariant>
  return { values: completed(known, pair), variants }
}

/** A recipe with what is missing derived from what is there. */
export function completed(
  known: SomeRecipeValues,
  pair: { machine: Machine; filament: Filament },
): RecipeValues {
  if (SETTING_KEYS.every((k) => known[k])) return known as RecipeValues
  const derived = deriveRecipe({ ...pair, pins: pinsOf(known), relative: inheritedIn(known) })
  return Object.fromEntries(
    SETTING_KEYS.map((k) => [k, known[k] ?? { ...derived[k], filledIn: true }]),
  ) as RecipeValues
}
