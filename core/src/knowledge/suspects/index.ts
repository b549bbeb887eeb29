import type { Suspect } from '../types'
import { COOLING } from './cooling'
import { FIRST_LAYER } from './firstLayer'
import { HEAT_AND_FEED } from './heatAndFeed'
import { MACHINE } from './machine'
import { SEAM } from './seam'
import { SIZE } from './size'

/** Every suspect. Ids are stable: added to, never renamed. Links and shifts are from memory. */
export const SUSPECTS = { ...HEAT_AND_FEED, ...FIRST_LAYER, ...COOLING, ...SEAM, ...MACHINE, ...SIZE }
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
