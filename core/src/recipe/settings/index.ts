import { reasonsOf, type Reason } from '../../quantity/reason'
import { COOLING } from './cooling'
import { FILAMENT } from './filament'
import { FIRST_LAYER } from './firstLayer'
import { GRIP } from './grip'
import { RETRACTION } from './retraction'
import { SIZE } from './size'
import { SPEED } from './speed'
import { TEMPERATURE } from './temperature'
import {
  GROUPS,
  type ChoiceSetting,
  type GroupId,
  type NumberSetting,
  type SettingValue,
  type SwitchSetting,
} from './types'
import { WALLS } from './walls'

export { GROUPS }
export type { ChoiceSetting, GroupId, NumberSetting, SettingValue, SwitchSetting }

/**
 * The one list of settings. Tables, validation, comparison, file against recipe, import and export are read from it:
 * adding a setting is adding an entry to its group, and a line to the group of the same name in `derive`.
 */
export const SETTINGS = {
  ...TEMPERATURE,
  ...FILAMENT,
  ...FIRST_LAYER,
  ...RETRACTION,
  ...COOLING,
  ...WALLS,
  ...SPEED,
  ...GRIP,
  ...SIZE,
}
type Registry = typeof SETTINGS

export type SettingKey = keyof Registry
/** The kind of value a setting takes. */
export type ValueOf<K extends SettingKey> = Registry[K] extends NumberSetting
  ? number
  : Registry[K] extends SwitchSetting
    ? boolean
    : Registry[K] extends ChoiceSetting<infer Value>
      ? Value
      : never
type KeyOf<Kind> = { [K in SettingKey]: Registry[K] extends Kind ? K : never }[SettingKey]
/** Settings that are numbers. */
export type NumberKey = KeyOf<NumberSetting>
/** A value for each of some settings. */
export type SomeValues = { [K in SettingKey]?: ValueOf<K> }
/** The setting that another one hangs on, by name. */
interface Hanging {
  when?: { key: SettingKey; is: SettingValue | 'above-zero' }
}
/** An entry of any kind. */
export type Setting = (NumberSetting | SwitchSetting | ChoiceSetting) & Hanging

/** All settings, group by group. */
export const SETTING_KEYS = keysOf(SETTINGS)

/** Settings that are numbers, group by group. */
export const NUMBER_KEYS = SETTING_KEYS.filter(isNumberKey)

/** The keys of an object, typed; only for objects that hold no others. */
export function keysOf<K extends string>(record: Partial<Record<K, unknown>>): K[] {
  return Object.keys(record) as K[]
}

/** The entry of a setting. */
export function settingOf(key: NumberKey): NumberSetting & Hanging
export function settingOf(key: SettingKey): Setting
export function settingOf(key: SettingKey): Setting {
  return SETTINGS[key] as Setting
}

/** True when the text names a setting. Safe against inherited names such as "constructor". */
export function isSettingKey(key: string): key is SettingKey {
  return Object.hasOwn(SETTINGS, key)
}

/** True when the text names a setting that is a number. */
export function isNumberKey(key: string): key is NumberKey {
  return isSettingKey(key) && settingOf(key).kind === 'number'
}

/** Decimals worth showing for a numeric setting, from its rounding step. */
export function digitsOf(setting: Pick<NumberSetting, 'step'>): number {
  const text = String(setting.step)
  return text.includes('.') ? text.split('.')[1].length : 0
}

/** Rounds to the setting's step and holds the result within its bounds. */
export function roundTo(setting: NumberSetting, value: number): number {
  const stepped = Number((Math.round(value / setting.step) * setting.step).toFixed(digitsOf(setting)))
  return Math.min(setting.max, Math.max(setting.min, stepped))
}

/** Rounds down to the setting's step: for values that must not land above what they have to stay under. */
export function roundDown(setting: NumberSetting, value: number): number {
  return roundTo(setting, Math.floor(value / setting.step + 1e-9) * setting.step)
}

/** What can be wrong with a value for a setting. */
export interface ValueFaults {
  'not-on-off': { setting: SettingKey }
  'no-such-choice': { setting: SettingKey }
  'not-a-number': { setting: SettingKey }
  'out-of-bounds': { setting: SettingKey }
}
const fault = reasonsOf<ValueFaults>()

/** Checks a value for a setting; null when it fits. */
export function faultOf(key: SettingKey, value: unknown): Reason<keyof ValueFaults> | null {
  const s = settingOf(key)
  switch (s.kind) {
    case 'switch':
      return typeof value === 'boolean' ? null : fault('not-on-off', { setting: key })
    case 'choice':
      return s.choices.some((c) => c.value === value) ? null : fault('no-such-choice', { setting: key })
    case 'number':
      if (typeof value !== 'number' || !Number.isFinite(value)) return fault('not-a-number', { setting: key })
      return value < s.min || value > s.max ? fault('out-of-bounds', { setting: key }) : null
  }
}
