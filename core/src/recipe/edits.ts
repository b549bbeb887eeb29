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
  type RecipeValues,
  variantOf,
  type GradedRecipe,
  type Inherited,
  type Pins,
  type Source,
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

type Bench = { machine: Machine; filament: Filament }

/** A recipe derived from the machine and the roll as they are now, with an edit laid over its pins. */
function derivedWith(was: GradedRecipe, pair: Bench, edit: RecipeEdit): GradedRecipe {
  const variantPins: VariantPins = {}
  for (const v of VARIANTS) variantPins[v] = layOver(was.variants[v].pins, edit.variants?.[v] ?? {}, edit)
  return deriveGraded({
    ...pair,
    relative: edit.relative ?? inheritedIn(was.values),
    pins: layOver(pinsOf(was.values), edit.set, edit),
    variantPins,
  })
}

/** A value as it stands from now on: one that was filled in when it was read is as good as any other in the next version. */
function settled<V extends { filledIn?: boolean }>({ filledIn: _filledIn, ...value }: V) {
  return value
}

/**
 * The one way a recipe is changed: the edit is laid over its pins, and what follows from it moves with it. What machine or roll
 * have become since moves nothing by the way: that is derived anew by an edit that names nothing, as a change of its own. Only
 * what the machine can no longer do is brought within its limits.
 */
export function editRecipe(was: GradedRecipe, pair: Bench, edit: RecipeEdit): GradedRecipe {
  const next = derivedWith(was, pair, edit)
  const namesNothing =
    !keysOf(edit.set).length && VARIANTS.every((v) => !keysOf(edit.variants?.[v] ?? {}).length)
  if (namesNothing || edit.relative) return next
  const unmoved = derivedWith(was, pair, { ...edit, set: {}, variants: {} })
  /** Of one grade: what the edit names or moves as it is now, the rest as it was. */
  const moved = (grade: Grade): RecipeValues => {
    const named = { ...edit.set, ...(grade !== 'standard' && edit.variants?.[grade]) }
    const [before, without, then] = [was, unmoved, next].map((recipe) => valuesOf(recipe, grade))
    const stands = (key: SettingKey) => {
      const limit = machineLimit(key, pair.machine)
      return (
        !Object.hasOwn(named, key) &&
        without[key].value === then[key].value &&
        !(limit !== undefined && Number(before[key].value) > limit)
      )
    }
    return Object.fromEntries(
      SETTING_KEYS.map((key) => [key, stands(key) ? settled(before[key]) : then[key]]),
    ) as unknown as RecipeValues
  }
  const values = moved('standard')
  return {
    values,
    variants: {
      fine: variantOf(next.variants.fine.pins, moved('fine'), values),
      coarse: variantOf(next.variants.coarse.pins, moved('coarse'), values),
    },
  }
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
  /** Where the earlier value came from; left out in versions from before it was kept. */
  was?: Source
  /** The variant it is about; left out for the base. */
  grade?: Grade
}

/** Settings whose values differ between two recipes, in registry order. */
export function differences(
  a: { [K in SettingKey]?: { value: SettingValue; source?: Source } },
  b: { [K in SettingKey]?: { value: SettingValue } },
): Difference[] {
  return SETTING_KEYS.filter((k) => a[k]?.value !== b[k]?.value).map((key) => ({
    key,
    from: a[key]?.value,
    to: b[key]?.value,
    ...(a[key]?.source && { was: a[key].source }),
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
