import type { Machine } from '../machine/machine'
import type { Filament } from '../material/filament'
import type { Reason } from '../quantity/reason'
import { VARIANTS, type GradedRecipe, type Pinned, type Resolved, type Variant } from './derive'
import { SETTING_KEYS, keysOf, settingOf, type SettingKey } from './settings'
import { upgradePins, upgradeValues, type StoredRecipe } from './upgrade'

/** Mark and number of the recipe file. A reader of version n reads every file whose `reader` is at most n. */
export const RECIPE_FORMAT = 'verimend-recipe'
/** 1: reasons as sentences. 2: the reason's code and values beside its sentence. */
export const RECIPE_FORMAT_VERSION = 2

/** A value as it is filed: with its unit, and its reason as a sentence for whoever reads the file. */
export type FiledSetting = Omit<Resolved, 'stack' | 'reason'> & {
  /** As in the registry; empty for switches and choices. */
  unit: string
  words: string
  /** Left out in files of version 1. */
  reason?: Reason
  stack: { source: Resolved['source']; value: Resolved['value']; words: string; reason?: Reason }[]
}
export type FiledPin = Omit<Pinned, 'reason'> & { words: string; reason?: Reason }
/** A recipe as it is handed on: complete, with its pair and the reason of every value. */
export interface RecipeFile {
  format: typeof RECIPE_FORMAT
  version: number
  /** Lowest reader that understands the file. */
  reader: number
  /** ISO time. */
  written: string
  /** Number of the version that was written out, and why it was made. */
  number: number
  reason: string
  machine: Machine
  filament: Filament
  settings: Record<string, FiledSetting>
  variants: Record<Variant, { pins: Record<string, FiledPin>; settings: Record<string, FiledSetting> }>
}

/** A version of a recipe on its way out. */
export interface Exported {
  machine: Machine
  filament: Filament
  recipe: GradedRecipe
  number: number
  reason: Reason
  /** ISO time. */
  written: string
}

const unitOf = (key: SettingKey) => {
  const s = settingOf(key)
  return s.kind === 'number' ? s.unit : ''
}

/**
 * The file of a recipe version.
 * @param say makes the sentence of a reason
 */
export function recipeFile(
  { machine, filament, recipe, number, reason, written }: Exported,
  say: (reason: Reason) => string,
): RecipeFile {
  const worded = <T extends { reason: Reason }>(it: T) => ({ ...it, words: say(it.reason) })
  const settings = (values: Partial<Record<SettingKey, Resolved>>) =>
    Object.fromEntries(
      SETTING_KEYS.flatMap((k) => {
        const r = values[k]
        return r ? [[k, { ...worded(r), unit: unitOf(k), stack: r.stack.map(worded) }]] : []
      }),
    ) as Record<string, FiledSetting>
  const variant = (v: Variant) => ({
    pins: Object.fromEntries(
      keysOf(recipe.variants[v].pins).map((k) => [k, worded(recipe.variants[v].pins[k]!)]),
    ) as Record<string, FiledPin>,
    settings: settings(recipe.variants[v].values),
  })
  return {
    format: RECIPE_FORMAT,
    version: RECIPE_FORMAT_VERSION,
    reader: 1,
    written,
    number,
    reason: say(reason),
    machine,
    filament,
    settings: settings(recipe.values),
    variants: { fine: variant('fine'), coarse: variant('coarse') },
  }
}

/** The recipe inside a file; settings the file does not hold are missing. The inverse of {@link recipeFile}. */
export function recipeIn(file: Pick<RecipeFile, 'settings' | 'variants'>): {
  values: ReturnType<typeof upgradeValues>
  variants: GradedRecipe['variants']
} {
  const { values, variants } = storedIn(file)
  return {
    values: upgradeValues(values),
    variants: Object.fromEntries(
      VARIANTS.map((v) => [
        v,
        {
          pins: upgradePins(variants?.[v]?.pins ?? {}),
          values: upgradeValues(variants?.[v]?.values ?? {}),
        },
      ]),
    ) as GradedRecipe['variants'],
  }
}

/** A file's recipe as kept things are read; units belong to the file alone. */
function storedIn(file: Pick<RecipeFile, 'settings' | 'variants'>): StoredRecipe {
  const bare = (settings: Record<string, FiledSetting>) =>
    Object.fromEntries(Object.entries(settings).map(([k, { unit: _, ...v }]) => [k, v]))
  return {
    values: bare(file.settings),
    variants: Object.fromEntries(
      VARIANTS.map((v) => [v, { pins: file.variants[v].pins, values: bare(file.variants[v].settings) }]),
    ),
  }
}
