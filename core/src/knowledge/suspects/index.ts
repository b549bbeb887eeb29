import type { Suspect } from '../types'
import { COOLING } from './cooling'
import { FEED } from './feed'
import { FIRST_LAYER } from './firstLayer'
import { HEAT } from './heat'
import { MACHINE } from './machine'
import { SEAM } from './seam'
import { SIZE } from './size'
import { STRENGTH_GROUP } from './strength'

/** Every suspect. Ids are stable: added to, never renamed. Links and shifts are from memory. */
export const SUSPECTS = {
  ...HEAT,
  ...FEED,
  ...FIRST_LAYER,
  ...COOLING,
  ...SEAM,
  ...MACHINE,
  ...SIZE,
  ...STRENGTH_GROUP,
}
export type SuspectId = keyof typeof SUSPECTS
export const SUSPECT_IDS = Object.keys(SUSPECTS) as SuspectId[]

/** The suspect of an id, widened. */
export function suspectOf(id: SuspectId): Suspect {
  return SUSPECTS[id]
}

/** True when the text names a suspect. */
export function isSuspectId(id: string): id is SuspectId {
  return Object.hasOwn(SUSPECTS, id)
}

/** Faults of the plastic that show at the base, and faults of the machine that are about feed. */
const OF_PLASTIC: ReadonlySet<SuspectId> = new Set([
  'shrink-stress',
  'wrong-surface',
  'bed-too-cold',
  'bed-too-hot',
  'draught',
] as const)
const OF_MACHINE: ReadonlySet<SuspectId> = new Set([
  'partial-blockage',
  'feed-slip',
  'feed-path-drag',
  'nozzle-worn-or-wrong',
  'temperature-swing',
  'nozzle-reads-off',
  'tube-play',
  'heat-creep',
  'liner-gap',
  'nozzle-leaks',
  'part-fan-weak',
  'feed-steps-off',
  'drive-gear-runout',
  'travel-too-slow',
] as const)

/** Whether a fault is the machine's or the plastic's: what a cured case teaches stays with that. */
export function belongsTo(id: SuspectId): 'machine' | 'family' {
  if (OF_MACHINE.has(id)) return 'machine'
  const { group } = suspectOf(id)
  return (group === 'machine' || group === 'first-layer') && !OF_PLASTIC.has(id) ? 'machine' : 'family'
}
