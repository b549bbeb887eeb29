import { SETTING_KEYS, keysOf, type SettingKey } from '../settings'
import { deriveRecipe } from './derive'
import type { DeriveInput } from './engine'
import type { Grade, Pins, RecipeValues, Variant } from './values'

/** A variant: its own pins, and what differs from the base. */
export interface RecipeVariant {
  pins: Pins
  values: Partial<RecipeValues>
}
/** A recipe's base with its fine and coarse variants. */
export interface GradedRecipe {
  values: RecipeValues
  variants: Record<Variant, RecipeVariant>
}
export type VariantPins = Partial<Record<Variant, Pins>>

/**
 * Settings that change with the layer height, the height itself first: what a variant may override.
 * Read from what the derivation asked for, not from a list.
 */
export function gradedKeys(values: RecipeValues): SettingKey[] {
  const found = new Set<SettingKey>(['layerHeight'])
  for (let grew = true; grew;) {
    grew = false
    for (const key of SETTING_KEYS) {
      if (found.has(key) || !values[key].follows?.some((f) => found.has(f))) continue
      found.add(key)
      grew = true
    }
  }
  return SETTING_KEYS.filter((k) => found.has(k))
}

/**
 * Derives a recipe with its variants. A variant inherits everything the person pinned on the base but what its
 * own layer height decides, and lays its own pins over it.
 */
export function deriveGraded(
  input: Omit<DeriveInput, 'grade'> & { variantPins?: VariantPins },
): GradedRecipe {
  const { variantPins, ...base } = input
  const values = deriveRecipe(base)
  const { layerHeight: _, ...inherited } = base.pins ?? {}
  const variant = (grade: Variant): RecipeVariant => {
    const pins = variantPins?.[grade] ?? {}
    return variantOf(pins, deriveRecipe({ ...base, pins: { ...inherited, ...pins }, grade }), values)
  }
  return { values, variants: { fine: variant('fine'), coarse: variant('coarse') } }
}

/** A variant by all its values: it keeps those that are pinned or stand apart from the base. */
export function variantOf(pins: Pins, own: RecipeValues, values: RecipeValues): RecipeVariant {
  const apart = SETTING_KEYS.filter((k) => pins[k] || !sameValue(own[k], values[k]))
  return { pins, values: Object.fromEntries(apart.map((k) => [k, own[k]])) as Partial<RecipeValues> }
}

/** Whether two values are the same for the same reason. */
const sameValue = (a: RecipeValues[SettingKey], b: RecipeValues[SettingKey]) =>
  a.value === b.value && JSON.stringify(a.reason) === JSON.stringify(b.reason)

/** The whole set of values of one grade. */
export function valuesOf(recipe: GradedRecipe, grade: Grade): RecipeValues {
  return grade === 'standard' ? recipe.values : { ...recipe.values, ...recipe.variants[grade].values }
}

/** Settings that a person or a trial decided for a variant. */
export const variantKeys = (recipe: GradedRecipe, variant: Variant): SettingKey[] =>
  keysOf(recipe.variants[variant].pins)
