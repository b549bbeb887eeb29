import { machineLimit, type ValuesOnly } from './derive'
import type { Machine } from '../machine/machine'
import type { PathReading } from '../toolpath/reading'
import { settingApplies } from './applies'
import type { Changes } from './edits'
import {
  SETTING_KEYS,
  roundTo,
  settingOf,
  type Setting,
  type SettingKey,
  type SettingValue,
} from './settings'
import type { InFile } from './settings/types'

/** A setting that the path file does not carry out as the recipe has it. */
export interface FileDifference {
  key: SettingKey
  recipe: SettingValue
  file: SettingValue
  /** Hardly ever meant: looks left over from another job. */
  leftover: boolean
}

const inFileOf = (key: SettingKey) => settingOf(key).inFile as InFile<SettingValue> | undefined

/** A value as a setting holds it: rounded to its step, within its bounds. */
function held(setting: Setting, value: SettingValue): SettingValue {
  return setting.kind === 'number' && typeof value === 'number' ? roundTo(setting, value) : value
}

/** Whether a value read from a file says anything. */
const says = (value: SettingValue | null | undefined): value is SettingValue =>
  value !== null && value !== undefined && (typeof value !== 'number' || Number.isFinite(value))

/**
 * Where a path file differs from the recipe. Only settings the reader can tell from moves are compared, and
 * only beyond what rounding in the file explains; how, the registry says.
 */
export function compareWithRecipe(reading: PathReading, recipe: ValuesOnly): FileDifference[] {
  const out: FileDifference[] = []
  for (const key of SETTING_KEYS) {
    const inFile = inFileOf(key)
    if (!inFile || !settingApplies(key, recipe)) continue
    const file = inFile.read(reading)
    const { value } = recipe[key]
    if (!says(file) || inFile.agrees?.(value, file)) continue
    if (typeof file === 'number' && typeof value === 'number') {
      const { slack = 0 } = inFile
      const allowed = typeof slack === 'function' ? slack(value) : slack
      const apart = inFile.only === 'less' ? value - file : Math.abs(file - value)
      if (apart <= allowed) continue
    } else if (file === value) continue
    if (inFile.explained?.(reading, recipe)) continue
    const shown = typeof file === 'number' ? Number(file.toFixed(2)) : file
    out.push({ key, recipe: value, file: shown, leftover: inFile.leftover?.(file) ?? false })
  }
  return out
}

/** Values a print was made with, as far as its path file shows that they were not the recipe's. */
export type PrintedValues = { [K in SettingKey]?: SettingValue }

/**
 * The recipe as it was printed: where the path file departs from it the file's value, else the recipe's.
 * @returns the values, and the settings that come from the file
 */
export function asPrinted(
  recipe: ValuesOnly,
  reading: PathReading | null | undefined,
): { values: ValuesOnly; fromFile: ReadonlySet<SettingKey>; departs: FileDifference[] } {
  if (!reading) return { values: recipe, fromFile: new Set(), departs: [] }
  const departs = compareWithRecipe(reading, recipe)
  const fromFile = new Set<SettingKey>()
  for (const key of SETTING_KEYS) if (says(inFileOf(key)?.read(reading))) fromFile.add(key)
  if (!departs.length) return { values: recipe, fromFile, departs }
  const values: Partial<Record<SettingKey, { value: SettingValue }>> = { ...recipe }
  for (const { key, file } of departs) values[key] = { ...recipe[key], value: held(settingOf(key), file) }
  return { values: values as ValuesOnly, fromFile, departs }
}

/**
 * What a recipe takes over from a path file: every setting the reader recognises, rounded to its step and held to
 * the machine. A person who has only a file starts from it.
 */
export function valuesOfFile(reading: PathReading, machine: Machine): Changes {
  const out: Partial<Record<SettingKey, SettingValue>> = {}
  for (const key of SETTING_KEYS) {
    const inFile = inFileOf(key)
    const read = inFile && (inFile.taken ?? inFile.read)(reading)
    if (!says(read)) continue
    const value = held(settingOf(key), read)
    const limit = machineLimit(key, machine)
    out[key] = typeof value === 'number' && limit !== undefined ? Math.min(limit, value) : value
  }
  return out as Changes
}
