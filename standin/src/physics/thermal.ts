import { GAS, thickness, type Polymer } from '../polymer'
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

/** W/(m²·K) that a fresh bead gives to the cold plastic under it: its conductivity over half a line's width. From memory. */
const CONDUCTS = 120

/** s in which the face between a bead and what is under it cools: what lies there takes more than the air (Seppala & Migler 2016: a second or two). */
export const faceCooling = (polymer: Polymer, h: number, w: number, coefficient: number): number =>
  cooling(polymer, h, w, coefficient + CONDUCTS)

/** W/(m²·K) at which a bead evens out with the plastic under and beside it. From memory. */
const EVENS = 300

/** s in which a bead evens out with what is round it. */
export const evening = (polymer: Polymer, h: number, w: number, coefficient: number): number =>
  cooling(polymer, h, w, coefficient + EVENS)

/** Share of a bead's heat that is left in the wall once it has evened out with what is round it. */
const STAYS = 0.32

/** °C of a bead some time after it was laid: it first evens out with the plastic round it, then the wall as a whole cools. */
export function later(hot: number, air: number, seconds: number, soon: number, slow: number): number {
  return STAYS * cooled(hot, air, seconds, slow) + (1 - STAYS) * cooled(hot, air, seconds, soon)
}

/**
 * s at its reference thinness for which a melt flows while it cools down: the integral of its fluidity over time. For an
 * exponential fall it is τ / ((T − air) · E/(R·T²)), thinner in the measure of its heat.
 */
export function flowing(polymer: Polymer, hot: number, air: number, tau: number): number {
  if (hot <= polymer.glass) return 0
  const kelvin = hot + 273.15
  const steep = ((hot - air) * polymer.activation) / (GAS * kelvin * kelvin)
  return tau / Math.max(1, steep) / thickness(polymer, hot)
}

/** s until something has cooled to a temperature; nought where it is colder already, without end where the air is warmer. */
export function timeTo(from: number, to: number, air: number, tau: number): number {
  if (from <= to) return 0
  if (to <= air) return Infinity
  return tau * Math.log((from - air) / (to - air))
}
