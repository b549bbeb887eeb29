import { cardOf } from '../materials/cards'
import type { Filament } from '../materials/filament'
import type { Machine } from '../materials/machine'
import type { Inherited, RecipeValues } from './derive'
import { SETTING_KEYS, settingOf, type SettingKey } from './settings'

/** A recipe on the shelf that a new one could start from. */
export interface RelativeCandidate {
  pairId: string
  machine: Machine
  /** Whether it is the very machine, with the very nozzle, of the new pair. */
  sameMachine: boolean
  filament: Filament
  values: RecipeValues
}

export interface RankedRelative {
  pairId: string
  name: string
  machineName: string
  /** 0 to 100: how near it stands. */
  nearness: number
  /** What it has in common with the new pair, in words. */
  shared: string[]
  /** What it would bring: only tested values, each with words. */
  brings: Inherited
}

/** Settings that belong to the plastic and travel to another machine; the rest stay with their machine. */
const TRAVELS: readonly SettingKey[] = [
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
]
/** Settings found out on one roll that say nothing of another. */
const STAYS: readonly SettingKey[] = ['diameter', 'density']

/**
 * Tested recipes of the same family, nearest first: same finish, same maker, same machine or drive, alike
 * labels, and how much was tested. Only measured values and mends that came out of cases are brought; what was
 * merely set by hand is not, since leftovers travel that way. Weights are common practice, no source.
 */
export function rankRelatives(
  target: { machine: Machine; filament: Filament },
  candidates: readonly RelativeCandidate[],
): RankedRelative[] {
  const ranked: RankedRelative[] = []
  for (const c of candidates) {
    if (c.filament.family !== target.filament.family) continue
    const brings: Inherited = {}
    for (const key of SETTING_KEYS) {
      const r = c.values[key]
      if (!r || (r.source !== 'measured' && r.source !== 'mend') || STAYS.includes(key)) continue
      if (!c.sameMachine && !TRAVELS.includes(key)) continue
      brings[key] = {
        value: r.value,
        words: `${r.source === 'measured' ? 'Measured' : 'Found in a case'} on ${c.filament.name}${c.sameMachine ? '' : ` with ${c.machine.name}`}: unproven on this roll.`,
      }
    }
    const tested = Object.keys(brings).length
    if (!tested) continue
    const shared = [cardOf(c.filament.family).name]
    let nearness = 30
    const add = (is: boolean, points: number, words: string) => {
      if (!is) return
      nearness += points
      shared.push(words)
    }
    add(c.filament.finish === target.filament.finish, 20, 'same finish')
    add(
      c.filament.maker !== '' && c.filament.maker.toLowerCase() === target.filament.maker.toLowerCase(),
      20,
      'same maker',
    )
    if (c.sameMachine) add(true, 20, 'same machine')
    else add(c.machine.drive.kind === target.machine.drive.kind, 6, 'same kind of drive')
    const a = c.filament.label.nozzle
    const b = target.filament.label.nozzle
    if (a && b) {
      const overlap = Math.max(0, Math.min(a.max, b.max) - Math.max(a.min, b.min))
      add(overlap > 0.7 * (b.max - b.min), 5, 'alike label')
    }
    nearness += Math.min(5, tested)
    ranked.push({
      pairId: c.pairId,
      name: c.filament.name,
      machineName: c.machine.name,
      nearness,
      shared,
      brings,
    })
  }
  return ranked.sort((x, y) => y.nearness - x.nearness || x.name.localeCompare(y.name))
}

/** "Nozzle, Flow, overall": what a relative would bring, for one line. */
export function bringsText(brings: Inherited): string {
  return (Object.keys(brings) as SettingKey[]).map((k) => settingOf(k).label).join(', ')
}
