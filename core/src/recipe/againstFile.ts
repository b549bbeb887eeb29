import type { PathReading } from '../toolpath/reading'
import { settingApplies } from './applies'
import type { ValuesOnly } from './derive'
import { SETTING_KEYS, settingOf, type SettingKey, type SettingValue } from './settings'

/** A setting that the path file does not carry out as the recipe has it. */
export interface FileDifference {
  key: SettingKey
  recipe: SettingValue
  file: SettingValue
}

/**
 * Where a path file differs from the recipe. Only settings the reader can tell from moves are compared, and
 * only beyond what rounding in the file explains; how, the registry says.
 */
export function compareWithRecipe(reading: PathReading, recipe: ValuesOnly): FileDifference[] {
  const out: FileDifference[] = []
  for (const key of SETTING_KEYS) {
    const { inFile } = settingOf(key)
    if (!inFile || !settingApplies(key, recipe)) continue
    const file = inFile.read(reading)
    const { value } = recipe[key]
    if (file === null || file === undefined) continue
    if (typeof file === 'number' && typeof value === 'number') {
      if (!Number.isFinite(file)) continue
      const { slack = 0 } = inFile
      const allowed = typeof slack === 'function' ? slack(value) : slack
      const apart = inFile.only === 'less' ? value - file : Math.abs(file - value)
      if (apart > allowed) out.push({ key, recipe: value, file: Number(file.toFixed(2)) })
    } else if (file !== value) out.push({ key, recipe: value, file })
  }
  return out
}
