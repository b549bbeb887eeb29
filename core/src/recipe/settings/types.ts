import type { FileChange } from '../../rewrite/change'
import type { PathReading } from '../../toolpath/reading'

/** Bare values of some settings, by key. */
export type ValuesByKey = Readonly<Record<string, { value: SettingValue }>>

/** Groups of settings, in the order tables show them. */
export const GROUPS = [
  { id: 'temperature', label: 'Temperatures' },
  { id: 'filament', label: 'Filament and flow' },
  { id: 'first-layer', label: 'First layer' },
  { id: 'retraction', label: 'Retraction and pressure' },
  { id: 'cooling', label: 'Cooling' },
  { id: 'walls', label: 'Layers and walls' },
  { id: 'speed', label: 'Speeds' },
  { id: 'grip', label: 'Grip on the bed' },
  { id: 'size', label: 'Size' },
] as const
export type GroupId = (typeof GROUPS)[number]['id']

export type SettingValue = number | boolean | string

/** How a setting shows in a path file. */
export interface InFile<Value extends SettingValue> {
  /** What the file does; null where it cannot be told. */
  read: (reading: PathReading) => Value | null | undefined
  /** What rounding in the file explains, in the setting's unit; or from the recipe's value. */
  slack?: number | ((recipe: number) => number)
  /** Only a smaller value in the file counts. */
  only?: 'less'
  /** What the recipe takes over from the file, where it is not what is compared; null where nothing can be taken. */
  taken?: (reading: PathReading) => Value | null
  /** Two different values that come to the same in a file. */
  agrees?: (recipe: Value, file: Value) => boolean
  /** Something else in the recipe brings the file to differ, as the slow-down for layer time does with speeds. */
  explained?: (reading: PathReading, recipe: ValuesByKey) => boolean
  /** A value that is hardly ever meant: left over from another job. */
  leftover?: (file: Value) => boolean
}

/** How a setting is written into a finished file: what it was printed with, and the recipe as it is to be. */
export type WriteIntoFile<Value extends SettingValue> = (
  value: Value,
  from: Value | null,
  recipe: ValuesByKey,
) => FileChange | null

interface Common<Value extends SettingValue> {
  label: string
  group: GroupId
  /** What the setting does, one sentence. */
  what: string
  /** The trade's other words for it: search finds it by them, the label stays ours. */
  aka?: readonly string[]
  /** What more and less of it bring; empty for choices. */
  up?: string
  down?: string
  /** The setting only matters while another one has this value, or has not. */
  when?: { key: string; is: SettingValue | 'above-zero' } | { key: string; not: SettingValue }
  inFile?: InFile<Value>
  /** Left out where the part has to be laid anew for it. Null: not from this value. */
  write?: WriteIntoFile<Value>
}
export interface NumberSetting extends Common<number> {
  kind: 'number'
  unit: string
  min: number
  max: number
  /** Rounding step; also what the arrow keys move by. */
  step: number
  /** What a share of this value is shown against: the nozzle's diameter or another setting. */
  shareOf?: 'nozzle-diameter' | string
  /** For values that are themselves percentages: what 100 % is. */
  percentOf?: string
}
export interface SwitchSetting extends Common<boolean> {
  kind: 'switch'
}
export interface ChoiceSetting<Value extends string = string> extends Common<Value> {
  kind: 'choice'
  choices: readonly { value: Value; label: string }[]
}

type Extra<S> = Partial<Omit<S, 'kind' | 'label' | 'group' | 'what' | 'unit' | 'min' | 'max' | 'step'>>

/** Makes the entries of one group. */
export function entriesOf(group: GroupId) {
  return {
    number: (
      label: string,
      unit: string,
      bounds: readonly [min: number, max: number, step: number],
      what: string,
      extra: Extra<NumberSetting> = {},
    ): NumberSetting => ({
      kind: 'number',
      label,
      group,
      unit,
      min: bounds[0],
      max: bounds[1],
      step: bounds[2],
      what,
      ...extra,
    }),
    toggle: (label: string, what: string, extra: Extra<SwitchSetting> = {}): SwitchSetting => ({
      kind: 'switch',
      label,
      group,
      what,
      ...extra,
    }),
    choice: <Value extends string>(
      label: string,
      what: string,
      choices: readonly { value: Value; label: string }[],
      extra: Extra<ChoiceSetting<Value>> = {},
    ): ChoiceSetting<Value> => ({ kind: 'choice', label, group, what, choices, ...extra }),
  }
}

export const whenOn = (key: string) => ({ when: { key, is: true } })
export const whenSome = (key: string) => ({ when: { key, is: 'above-zero' as const } })
