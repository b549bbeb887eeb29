import { tubeRetraction, type Machine } from '../../machine/machine'
import type { FamilyId, MaterialCard } from '../../material/cards'
import type { Filament, RollFit } from '../../material/filament'
import { cardFor } from '../../material/filling'
import { usualTubeRetraction } from '../derive/retraction'
import type { RecipeValues } from '../derive'
import type { NumberKey, SettingKey, SomeValues } from '../settings'

export type Severity = 'fault' | 'caution' | 'note'

/** Chapters of the handbook that a warning points to; ids of the knowledge above. */
export type Remedy = 'cover-frame' | 'dry-filament' | 'join-roll' | 'change-surface'

/** What a warning says, with the values its two sentences need; units as in the settings. */
export interface LintReasons {
  'machine-too-cool': { machine: string; limit: number; least: number }
  'bed-too-cool': { machine: string; limit: number; wanted: number; family: FamilyId }
  'label-needed': object
  'soft-through-tube': { family: FamilyId; tubeLength: number }
  'chips-glass': { family: FamilyId }
  'liner-unknown': { nozzle: number; bears: number }
  'filled-nozzle': { small: boolean; brass: boolean; nozzle: number }
  'nozzle-off-label': {
    settings: readonly SettingKey[]
    of: 'label' | 'card'
    min: number
    max: number
    above: boolean
  }
  'bed-above-card': { bed: number; top: number }
  'bed-first-above-card': { bed: number; top: number; family: FamilyId }

  'first-flow-left': { flow: number }
  'flow-far': { flow: number }
  'feature-flow-far': { settings: readonly SettingKey[]; flows: readonly number[] }
  'over-melt-cap': { setting: SettingKey; rate: number; cap: number }

  'first-thicker-than-nozzle': { height: number }
  'first-height-far': { residual: number }
  'first-thin': { height: number; least: number; of: 'nozzle' | 'layer' }
  'melt-cap-far': { cap: number; usual: number; believed: number }
  'first-too-fast': { speed: number }

  'retraction-beyond-drive': { length: number; tubeLength: number | null; most: number }
  'retraction-short': { length: number; usual: number }
  'soft-pulled-in-tube': { family: FamilyId }
  'early-stop-long': { volume: number }

  'fan-on-shrinking': { duty: number; family: FamilyId }
  'fan-early': object
  'layer-time-swings': { seconds: number; floor: number }
  'floor-low': { speed: number }

  'layer-too-thick': { height: number }
  'layer-off-step': { height: number; step: number }
  'line-narrow': { settings: readonly SettingKey[]; nozzle: number }
  'line-wide': { settings: readonly SettingKey[]; nozzle: number }
  'seam-on-flexing': { family: FamilyId; stacked: boolean }

  'travel-slow': { speed: number }
  'speeds-apart': { ratio: number }
  'outer-fastest': object
  'over-label-speed': { most: number }
  'held-at-limit': { settings: readonly SettingKey[] }

  'brim-on-soft': { lines: number; family: FamilyId }
  'raft-on-soft': { family: FamilyId }
  'nothing-primes': object
  'open-and-draughty': { family: FamilyId }

  'contour-left': { settings: readonly SettingKey[]; offsets: readonly number[] }

  'wet-roll': { family: FamilyId; days: number | null; bears: number; temperature: number; hours: number }
  'roll-too-light': { part: string; needed: number; left: number; fits: RollFit['fits'] }
}
export type LintCode = keyof LintReasons

/** What a rule found. */
export interface Found {
  code: LintCode
  values: LintReasons[LintCode]
  /** Settings it is about, the first one first. */
  keys: SettingKey[]
  /** Values that put it right. */
  mend?: SomeValues
  /** The hand's part. */
  remedy?: Remedy
  /** What else the finding hangs on, besides the values of its keys. */
  on?: string | number
}
export function found<Code extends LintCode>(
  code: Code,
  values: LintReasons[Code],
  keys: SettingKey[],
  more: Pick<Found, 'mend' | 'remedy' | 'on'> = {},
): Found {
  return { code, values, keys, ...more }
}

export interface LintContext {
  machine: Machine
  filament: Filament
  values: RecipeValues
  /** ISO date. */
  today: string
  /** The part to be printed, where one is known. */
  part?: { name: string; grams: number } | null
}
/** What rules look at. */
export interface Scope extends LintContext {
  card: MaterialCard
  n: (key: NumberKey) => number
  measured: (key: SettingKey) => boolean
}
export const scopeOf = (context: LintContext): Scope => ({
  ...context,
  card: cardFor(context.filament),
  n: (key) => context.values[key].value,
  measured: (key) => context.values[key].source === 'measured',
})

export interface LintRule {
  severity: Severity
  find: (s: Scope) => Found | null
}
export type LintRules = Record<string, LintRule>

/** Pull-back that a pair's drive usually wants, mm. Common practice, no source. */
export const usualRetraction = ({ card, machine }: Scope) =>
  machine.drive.kind === 'direct'
    ? card.retraction.direct
    : card.retraction.tube === null
      ? tubeRetraction(machine.drive.tubeLength)
      : usualTubeRetraction(machine.drive.tubeLength, card.retraction.tube)

/** A value for each of some numeric settings. */
export function valuesFor<K extends NumberKey>(keys: readonly K[], value: (key: K) => number) {
  return Object.fromEntries(keys.map((k) => [k, value(k)])) as Record<K, number>
}
