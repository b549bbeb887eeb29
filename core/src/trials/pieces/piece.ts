import type { PrintSettings } from '../../gcode/printSettings'
import { commandsOf } from '../../machine/commands'
import type { Machine } from '../../machine/machine'
import type { SuspectId } from '../../knowledge/suspects'
import type { Range } from '../../material/cards'
import { cardFor } from '../../material/filling'
import type { Filament } from '../../material/filament'
import type { Builder } from '../../planner/builder'
import type { Reason } from '../../quantity/reason'
import { machineLimit, type RecipeValues } from '../../recipe/derive'
import { isNumberKey, roundTo, settingOf, type NumberKey } from '../../recipe/settings'
import type { CriterionId } from '../criteria'
import type { OutcomeRule } from '../outcome'
import { pieceFault } from '../reasons'
import type { Cell, PiecePlan, Steps, VariedKey } from '../types'

export interface PairOnBench {
  machine: Machine
  filament: Filament
  recipe: RecipeValues
}
/** Steps that are worth printing, and why. */
export interface StepProposal {
  steps: Steps
  across?: Steps
  reason: Reason
}
/** What a build gives back besides the lines it laid. */
export interface Laid {
  cells: Cell[]
  view: 'front' | 'above'
}

/** Everything there is to say of a test piece. */
export interface PieceDefinition {
  name: string
  /** What it finds out, one sentence. */
  what: string
  /** Bands, patches, columns: what one place is called, and several of them. */
  place: string
  places: string
  /** What can be stepped; the first is usual. */
  keys: readonly VariedKey[]
  /** What can be stepped across as well. */
  across: readonly VariedKey[]
  counts: { min: number; max: number; usual: number }
  criteria: readonly CriterionId[]
  /** Settings an outcome may set. */
  settles: readonly NumberKey[]
  /** Suspects it speaks about when the value in use lies above or below what was found. */
  above: readonly SuspectId[]
  below: readonly SuspectId[]
  propose: (pair: PairOnBench, key: VariedKey) => StepProposal
  build: (b: Builder, plan: PiecePlan) => Laid
  outcome: OutcomeRule
  /** Each place is to know how long a layer of it takes. */
  timed?: boolean
  /** Each place is to know how fast its faces are printed. */
  speeds?: boolean
  /** What this machine or roll lacks for it; null when it can be printed. */
  lacks?: (pair: PairOnBench) => Reason | null
}

export const stepsOf = (key: VariedKey, from: number, to: number, count: number): Steps => ({
  key,
  from,
  to,
  count,
})

/** One stepped value, as settings to print with. */
export const stepped = (key: VariedKey, value: number) => ({ [key]: value }) as Partial<PrintSettings>

/** °C the roll stands: its label's word before the card's; null for settings a roll does not bound. */
function heatRange(key: NumberKey, filament: Filament): Range | null {
  const card = cardFor(filament)
  if (key === 'nozzle' || key === 'nozzleFirst') return filament.label.nozzle ?? card.nozzle
  if (key === 'bed' || key === 'bedFirst')
    return { min: 0, max: Math.max(card.bed.top, filament.label.bed?.max ?? 0) }
  return null
}

/** Ends that steps of a setting keep to on a pair: the setting's own, the machine's, and what the roll stands. */
export function boundsOf(
  { machine, filament }: Pick<PairOnBench, 'machine' | 'filament'>,
  key: NumberKey,
): Range {
  const { min, max } = settingOf(key)
  const range = heatRange(key, filament)
  const top = Math.min(max, machineLimit(key, machine) ?? Infinity, range?.max ?? Infinity)
  return { min: Math.min(top, Math.max(min, range?.min ?? -Infinity)), max: top }
}

/** Steps moved into the bounds of their setting and of the machine, rounded as the setting is. */
export function stepsWithin(machine: Machine, s: Steps): Steps {
  if (!isNumberKey(s.key)) return s
  const { min, max } = settingOf(s.key)
  return clamped(s, { min, max: Math.min(max, machineLimit(s.key, machine) ?? Infinity) })
}

/** Steps that are proposed: within the setting, the machine and what the roll stands. */
export const stepsOnRoll = (pair: Pick<PairOnBench, 'machine' | 'filament'>, s: Steps): Steps =>
  isNumberKey(s.key) ? clamped(s, boundsOf(pair, s.key)) : s

function clamped(s: Steps, { min, max }: Range): Steps {
  const setting = settingOf(s.key as NumberKey)
  const to = (v: number) => roundTo(setting, Math.min(max, Math.max(min, v)))
  return { ...s, from: to(s.from), to: to(s.to) }
}

/** Steps round the value in use, within the setting's and the machine's bounds. */
export function stepsAround(pair: PairOnBench, key: NumberKey, half: number, count: number): Steps {
  const now = pair.recipe[key].value
  return stepsOnRoll(pair, stepsOf(key, now - half, now + half, count))
}

/** Pressure compensation needs a command for it. */
export const lacksPressure = ({ machine }: PairOnBench): Reason | null =>
  commandsOf(machine).pressure === 'none' ? pieceFault('no-pressure-command') : null

/** The most a piece may pull the bead about: what a drive may need, s. Common practice, no source. */
export const mostPressure = (machine: Machine) => (machine.drive.kind === 'direct' ? 0.1 : 1)
