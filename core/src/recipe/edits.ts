import type { Machine } from '../machine/machine'
import type { Filament } from '../material/filament'
import type { Reason } from '../quantity/reason'
import {
  VARIANTS,
  deriveGraded,
  gradedKeys,
  inheritedIn,
  machineLimit,
  pinsOf,
  valuesOf,
  type Grade,
  type GradedRecipe,
  type Inherited,
  type Pins,
  type Variant,
  type VariantPins,
} from './derive'
import { SETTING_KEYS, keysOf, type SettingKey, type SettingValue, type ValueOf } from './settings'

/** New values by setting; null takes a pin away, so that the derived value stands again. */
export type Changes = { [K in SettingKey]?: ValueOf<K> | null }

/** How changed values came about. */
export interface EditOrigin {
  /** Of those that were not measured. */
  source: 'hand' | 'mend' | 'file'
  reason: Reason
  /** ± of those that were measured, in the setting's unit. */
  measured?: { [K in SettingKey]?: number }
  /** ISO date. */
  at?: string
}

/** A change of a recipe: values for its base and its variants. */
export interface RecipeEdit extends EditOrigin {
  set: Changes
  variants?: Partial<Record<Variant, Changes>>
  /** What a relative brings from now on; left out to keep what it brought before. */
  relative?: Inherited
}

/** Pins with changes laid over. */
export function layOver(pins: Pins, changes: Changes, origin: EditOrigin): Pins {
  const out: Partial<Record<SettingKey, unknown>> = { ...pins }
  for (const key of keysOf(changes)) {
    const value = changes[key]
    const plusMinus = origin.measured?.[key]
    if (value === null || value === undefined) delete out[key]
    else
      out[key] = {
        value,
        source: plusMinus === undefined ? origin.source : 'measured',
        reason: origin.reason,
        ...(plusMinus !== undefined && { plusMinus }),
        ...(origin.at !== undefined && { at: origin.at }),
      }
  }
  return out as Pins
}

/**
 * The one way a recipe is changed: the edit is laid over its pins, and everything else is derived anew from the
 * machine and the roll as they are now.
 */
export function editRecipe(
  was: GradedRecipe,
  pair: { machine: Machine; filament: Filament },
  edit: RecipeEdit,
): GradedRecipe {
  const variantPins: VariantPins = {}
  for (const v of VARIANTS) variantPins[v] = layOver(was.variants[v].pins, edit.variants?.[v] ?? {}, edit)
  return deriveGraded({
    ...pair,
    relative: edit.relative ?? inheritedIn(was.values),
    pins: layOver(pinsOf(was.values), edit.set, edit),
    variantPins,
  })
}

/** Where an edit asks for something, and what is in its way. */
export interface EditFault {
  where: 'set' | Variant
  key: SettingKey
  fault: 'beyond-machine' | 'not-graded'
  /** The machine's limit, where that is in the way. */
  limit?: number
}

/** What stands against an edit: values beyond the machine, and settings that no variant decides. */
export function editFaults(
  was: GradedRecipe,
  machine: Machine,
  edit: Pick<RecipeEdit, 'set' | 'variants'>,
): EditFault[] {
  const faults: EditFault[] = []
  const graded = new Set(gradedKeys(was.values))
  for (const where of ['set', ...VARIANTS] as const) {
    const changes = (where === 'set' ? edit.set : edit.variants?.[where]) ?? {}
    for (const key of keysOf(changes)) {
      const value = changes[key]
      const limit = typeof value === 'number' ? machineLimit(key, machine) : undefined
      if (limit !== undefined && Number(value) > limit)
        faults.push({ where, key, fault: 'beyond-machine', limit })
      if (where !== 'set' && !graded.has(key)) faults.push({ where, key, fault: 'not-graded' })
    }
  }
  return faults
}

export interface Difference {
  key: SettingKey
  from?: SettingValue
  to?: SettingValue
  /** The variant it is about; left out for the base. */
  grade?: Grade
}

/** Settings whose values differ between two recipes, in registry order. */
export function differences(
  a: { [K in SettingKey]?: { value: SettingValue } },
  b: { [K in SettingKey]?: { value: SettingValue } },
): Difference[] {
  return SETTING_KEYS.filter((k) => a[k]?.value !== b[k]?.value).map((key) => ({
    key,
    from: a[key]?.value,
    to: b[key]?.value,
  }))
}

/** What a change of a whole recipe changed: its base, and what its variants decide for themselves. */
export function recipeDifferences(was: GradedRecipe, now: GradedRecipe): Difference[] {
  return [
    ...differences(was.values, now.values),
    ...VARIANTS.flatMap((grade) => {
      const keys = new Set([...keysOf(was.variants[grade].pins), ...keysOf(now.variants[grade].pins)])
      const [a, b] = [valuesOf(was, grade), valuesOf(now, grade)]
      return differences(a, b)
        .filter((d) => keys.has(d.key))
        .map((d): Difference => ({ ...d, grade }))
    }),
  ]
}

/** Whether two recipes have the same values in every grade, for whatever reasons. */
export const sameRecipe = (a: GradedRecipe, b: GradedRecipe): boolean =>
  recipeDifferences(a, b).length === 0 &&
  VARIANTS.every((v) => keysOf(a.variants[v].pins).length === keysOf(b.variants[v].pins).length)
