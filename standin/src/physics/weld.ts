import { thickness, type Polymer } from '../polymer'
import { timeTo } from './thermal'

/** Longest that two faces count as hot together, s. */
const LONGEST = 60

/**
 * How well a bead grows together with what lies under it, 0 to 1: chains creep across while both are above the glass
 * transition, and strength grows with the fourth root of that time over the time of reptation (Wool & O'Connor 1981, de Gennes
 * 1971). The face between them has the mean of both temperatures at first.
 * @param tau s of cooling
 */
export function weld(polymer: Polymer, hot: number, under: number, air: number, tau: number): number {
  const face = 0.5 * (hot + under)
  if (face <= polymer.glass) return 0.02
  // the face cools: added up in steps of a tenth of the way down
  let grown = 0
  const steps = 10
  for (let i = 0; i < steps; i++) {
    const from = face - ((face - polymer.glass) * i) / steps
    const to = face - ((face - polymer.glass) * (i + 1)) / steps
    const seconds = Math.min(LONGEST, timeTo(from, to, air, tau))
    const mid = 0.5 * (from + to)
    grown += seconds / (polymer.welds * thickness(polymer, mid))
  }
  return Math.min(1, grown ** 0.25)
}
