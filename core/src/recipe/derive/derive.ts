import type { PartSettings } from '../../planner/settings'
import type { PrintSettings } from '../../gcode/printSettings'
import type { Machine } from '../../machine/machine'
import type { Filament } from '../../material/filament'
import { cardFor } from '../../material/filling'
import { SETTING_KEYS } from '../settings'
import { COOLING_RULES } from './cooling'
import { Derivation, beadSettingTime, type DeriveInput, type Rules } from './engine'
import {
  isPinned,
  type Inherited,
  type Pins,
  type PlainValues,
  type RecipeValues,
  type ValuesOnly,
} from './values'
import { FILAMENT_RULES } from './filament'
import { FIRST_LAYER_RULES } from './firstLayer'
import { GRIP_RULES } from './grip'
import { RETRACTION_RULES } from './retraction'
import { SIZE_RULES } from './size'
import { SPEED_RULES } from './speed'
import { TEMPERATURE_RULES } from './temperature'
import { WALLS_RULES } from './walls'

const RULES: Rules = {
  ...TEMPERATURE_RULES,
  ...FILAMENT_RULES,
  ...FIRST_LAYER_RULES,
  ...RETRACTION_RULES,
  ...COOLING_RULES,
  ...WALLS_RULES,
  ...SPEED_RULES,
  ...GRIP_RULES,
  ...SIZE_RULES,
}

/**
 * Derives a whole recipe: every setting of the registry with its value, source, reason and the stack of
 * what each source said. Pure and total: no setting is left blank.
 *
 * Authority, weakest first: material card, tested relative, label, computed, measured, mend from a case,
 * set by hand; the machine's limit clips the winner.
 * @throws Error when a rule is missing or two settings depend on each other (a fault of the rules)
 */
export function deriveRecipe({
  machine,
  filament,
  pins = {},
  relative = {},
  grade = 'standard',
}: DeriveInput): RecipeValues {
  const d = new Derivation(RULES, machine, filament, pins, relative, grade)
  return Object.fromEntries(SETTING_KEYS.map((key) => [key, d.resolve(key)])) as RecipeValues
}

/** A recipe of which settings may be missing, as it is where one is newer than what was kept. */
export type SomeRecipeValues = Partial<RecipeValues>

/** The pins inside a derived recipe: what a later derivation has to keep. */
export function pinsOf(values: SomeRecipeValues): Pins {
  const pins: Partial<Record<string, unknown>> = {}
  for (const key of SETTING_KEYS) {
    const r = values[key]
    const top = r?.stack.at(-1)
    if (!r || !top || !isPinned(top.source)) continue
    if (top.source === 'measured' && key === 'diameter') continue // read off the roll each time
    pins[key] = {
      value: top.value,
      source: top.source,
      reason: top.reason,
      ...(r.plusMinus !== undefined && { plusMinus: r.plusMinus }),
      ...(r.at !== undefined && { at: r.at }),
    }
  }
  return pins as Pins
}

/** What a derived recipe took from a relative: what a later derivation has to offer again. */
export function inheritedIn(values: SomeRecipeValues): Inherited {
  const out: Partial<Record<string, unknown>> = {}
  for (const key of SETTING_KEYS) {
    const o = values[key]?.stack.find((s) => s.source === 'relative')
    if (o) out[key] = { value: o.value, reason: o.reason }
  }
  return out as Inherited
}

/** The bare values of a recipe. */
export function plainValues(values: ValuesOnly): PlainValues {
  return Object.fromEntries(SETTING_KEYS.map((k) => [k, values[k].value])) as PlainValues
}

/** What a program is written from, by name. */
export function printSettingsOf(values: ValuesOnly): PrintSettings {
  return plainValues(values)
}

/** What a part is laid with, by name. */
export function partSettingsOf(values: ValuesOnly): PartSettings {
  return plainValues(values)
}

/** Seconds an outer-wall bead of a recipe needs to set before the next layer may lie on it. */
export function settingTimeOf(machine: Machine, filament: Filament, values: ValuesOnly): number {
  return beadSettingTime(machine, cardFor(filament), (key) => values[key].value)
}
