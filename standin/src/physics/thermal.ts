import type { Polymer } from '../polymer'
import type { World } from '../world'

/** W/(m²·K) round a part: from still air to all of the fan. Forced convection grows with the 0.7th power of the air's speed. */
export const convection = ({ air }: World, fan: number): number =>
  air.still + air.still * 0.8 * air.draught + (air.blown - air.still) * Math.max(0, fan) ** 0.7

/**
 * s in which a bead loses all but 1/e of its heat over the air: its heat over what its free faces give off (lumped capacitance,
 * Incropera & DeWitt). A bead of a wall has its two sides and half of its top free.
 * @param h height of the layer, w width, mm
 */
export function cooling(polymer: Polymer, h: number, w: number, coefficient: number): number {
  const volume = h * w
  const free = h + 0.6 * w
  // kJ/(m³K) · mm = J/(m²K)
  return (polymer.heat * (volume / free)) / coefficient
}

/** °C after a time, towards the air's. */
export const cooled = (from: number, air: number, seconds: number, tau: number): number =>
  air + (from - air) * Math.exp(-seconds / tau)

/** s until something has cooled to a temperature; nought where it is colder already, without end where the air is warmer. */
export function timeTo(from: number, to: number, air: number, tau: number): number {
  if (from <= to) return 0
  if (to <= air) return Infinity
  return tau * Math.log((from - air) / (to - air))
}
