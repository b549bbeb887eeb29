import type { Machine } from '../machine/machine'
import type { Filament } from '../material/filament'
import { reasonsOf } from '../quantity/reason'
import type { FamilyId } from '../material/cards'
import { deriveRecipe, type Inherited, type RecipeValues } from './derive'
import { SETTING_KEYS, keysOf, type SettingKey, type SettingValue } from './settings'

/** A recipe on the shelf that a new one could start from. */
export interface RelativeCandidate {
  pairId: string
  machine: Machine
  /** Whether it is the very machine, with the very nozzle, of the new pair. */
  sameMachine: boolean
  filament: Filament
  tested: TestedValues
}

/** What of a recipe counts for others: its tested values, and what makes its family different. Small, and enough to rank by. */
export interface TestedValues {
  tested: Partial<Record<SettingKey, { value: SettingValue; source: 'measured' | 'mend' }>>
  ofFamily: Partial<Record<SettingKey, SettingValue>>
}
/** Raised whenever what is told of a recipe here changes. */
export const TESTED_SCHEMA = 1

/** What relatives need of a recipe. */
export function testedValues(values: RecipeValues): TestedValues {
  const tested: TestedValues['tested'] = {}
  for (const key of SETTING_KEYS) {
    const { source, value } = values[key]
    if ((source === 'measured' || source === 'mend') && !STAYS.has(key)) tested[key] = { value, source }
  }
  return { tested, ofFamily: Object.fromEntries(OF_FAMILY.map((key) => [key, values[key].value])) }
}

/** What a relative can have in common with a pair. */
export type Likeness = 'family' | 'finish' | 'maker' | 'machine' | 'drive' | 'label'

export interface RankedRelative {
  pairId: string
  name: string
  machineName: string
  /** 0 to 100: how near it stands. */
  nearness: number
  /** What it has in common with the new pair. */
  shared: Likeness[]
  family: FamilyId
  /** What it would bring: only tested values. */
  brings: Inherited
  /** Of another family: what this pair has otherwise, and why it is not taken over. */
  differs: { key: SettingKey; theirs: SettingValue; own: SettingValue }[]
}

/** Where a relative's value was found, with the values its sentence needs; no machine where it is the same. */
export interface RelativeReasons {
  'measured-on-relative': { filament: string; machine: string | null }
  'mended-on-relative': { filament: string; machine: string | null }
}
const reason = reasonsOf<RelativeReasons>()

/** Settings that belong to the plastic and travel to another machine; the rest stay with their machine. */
const TRAVELS: ReadonlySet<SettingKey> = new Set([
  'nozzle',
  'nozzleFirst',
  'bed',
  'bedFirst',
  'fan',
  'fanOverhang',
  'fanBridge',
  'fanOffLayers',
  'flowOuter',
  'flowSolid',
  'scaleX',
  'scaleY',
  'scaleZ',
] as const)
/** Settings that are of the machine: these alone are taken from another family's recipe. */
const OF_MACHINE: ReadonlySet<SettingKey> = new Set([
  'zOffset',
  'firstHeight',
  'outerAcceleration',
  'innerAcceleration',
  'firstAcceleration',
  'travelAcceleration',
  'travelSpeed',
  'zLift',
  'seamPlace',
  'seamDirection',
  'wallOrder',
] as const)
/** What makes the difference between two families. */
const OF_FAMILY = [
  'nozzle',
  'bedFirst',
  'bed',
  'fan',
  'fanOffLayers',
  'retract',
  'retractLength',
  'outerSpeed',
  'innerSpeed',
  'minLayerTime',
  'brimLines',
] as const satisfies readonly SettingKey[]
/** Settings found out on one roll that say nothing of another. */
const STAYS: ReadonlySet<SettingKey> = new Set(['diameter', 'density'] as const)

/**
 * Tested recipes of the same family, nearest first: same finish, same maker, same machine or drive, alike
 * labels, and how much was tested. Only measured values and mends that came out of cases are brought; what was
 * merely set by hand is not, since leftovers travel that way. Of another family on the same machine only what is the
 * machine's comes along, and what differs is listed. Weights are common practice, no source.
 */
export function rankRelatives(
  target: { machine: Machine; filament: Filament },
  candidates: readonly RelativeCandidate[],
): RankedRelative[] {
  const ranked: RankedRelative[] = []
  let own: RecipeValues | null = null
  const differencesTo = (theirs: TestedValues['ofFamily']): RankedRelative['differs'] => {
    own ??= deriveRecipe(target)
    return OF_FAMILY.flatMap((key) => {
      const [{ value }, their] = [own![key], theirs[key]]
      return their === undefined || value === their ? [] : [{ key, theirs: their, own: value }]
    })
  }
  for (const c of candidates) {
    const sameFamily = c.filament.family === target.filament.family
    if (!sameFamily && !c.sameMachine) continue
    const brings = sameFamily ? testedOf(c) : ofMachine(testedOf(c))
    const tested = keysOf(brings).length
    if (!tested) continue
    const shared: Likeness[] = sameFamily ? ['family'] : []
    let nearness = sameFamily ? 30 : 0
    const add = (is: boolean, points: number, likeness: Likeness) => {
      if (!is) return
      nearness += points
      shared.push(likeness)
    }
    add(c.filament.finish === target.filament.finish, 20, 'finish')
    add(
      c.filament.maker !== '' && c.filament.maker.toLowerCase() === target.filament.maker.toLowerCase(),
      20,
      'maker',
    )
    if (c.sameMachine) add(true, 20, 'machine')
    else add(c.machine.drive.kind === target.machine.drive.kind, 6, 'drive')
    const a = c.filament.label.nozzle
    const b = target.filament.label.nozzle
    if (a && b) {
      const overlap = Math.max(0, Math.min(a.max, b.max) - Math.max(a.min, b.min))
      add(overlap > 0.7 * (b.max - b.min), 5, 'label')
    }
    nearness += Math.min(5, tested)
    ranked.push({
      pairId: c.pairId,
      name: c.filament.name,
      machineName: c.machine.name,
      nearness,
      family: c.filament.family,
      shared,
      brings,
      differs: sameFamily ? [] : differencesTo(c.tested.ofFamily),
    })
  }
  return ranked.sort((x, y) => y.nearness - x.nearness || x.name.localeCompare(y.name))
}

/** Of anything by setting only what is the machine's: all that goes from one plastic to another. */
export const ofMachine = <T extends object>(bySetting: T): T =>
  Object.fromEntries(Object.entries(bySetting).filter(([key]) => OF_MACHINE.has(key as SettingKey))) as T

/** What a candidate's tests found out that holds for another roll. */
function testedOf(c: RelativeCandidate): Inherited {
  const brings: Partial<Record<SettingKey, unknown>> = {}
  for (const key of keysOf(c.tested.tested)) {
    const { source, value } = c.tested.tested[key]!
    if (!c.sameMachine && !TRAVELS.has(key)) continue
    brings[key] = {
      value,
      reason: reason(source === 'measured' ? 'measured-on-relative' : 'mended-on-relative', {
        filament: c.filament.name,
        machine: c.sameMachine ? null : c.machine.name,
      }),
    }
  }
  return brings as Inherited
}
