import type { Polymer } from '../polymer'
import type { World } from '../world'
import type { FootOfPart } from '../part'

/** J/m² it takes to peel a sound foot off a clean bed. From memory: tens to a few hundred. */
const PEEL = 180

export interface Lift {
  /** mm a corner comes up. */
  by: number
  /** J/m² that pulls at it, and that holds it. */
  pulls: number
  holds: number
}

/**
 * How far a corner of a foot lifts: shrinking stores energy in the lowest millimetres, which a corner gives free as it peels
 * (thin film on a plate: energy release rate E·ε²·h/2, Hutchinson & Suo 1992); where that is more than the bed holds, the part
 * bends up as a strip whose sides shrink unequally does (Timoshenko 1925).
 * @param reach mm from the middle of the part to the corner
 * @param height mm of the part
 * @param bed °C of its surface
 */
export function lift(
  polymer: Polymer,
  world: World,
  { holds: grip }: Pick<FootOfPart, 'holds'>,
  reach: number,
  height: number,
  bed: number,
): Lift {
  const around = Math.max(world.air.temperature, 0.4 * bed + 0.6 * world.air.temperature)
  // what has cooled below the glass transition has shrunk; a bed near it lets little arise
  const cold = Math.max(0, Math.min(1, (polymer.glass - around) / Math.max(10, polymer.glass - 20)))
  const strain = (polymer.shrinks / 100) * world.roll.shrinks * cold * (1 + 0.4 * world.air.draught)
  const stressed = Math.min(height, 6)
  // GPa · mm = 1e6 J/m²
  const corner = Math.min(1, reach / 60)
  const pulls = 0.5 * polymer.stiffness * 1e6 * strain * strain * stressed * corner
  const holds = PEEL * grip
  if (pulls <= holds) return { by: 0, pulls, holds }
  const curvature = (1.5 * strain) / Math.max(2, height)
  const free = (curvature * reach * reach) / 2
  return { by: free * (1 - holds / pulls), pulls, holds }
}
