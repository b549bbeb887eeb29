import { beadArea } from './bead'

export interface CoolingInput {
  /** Temperature the plastic leaves the nozzle at, °C. */
  nozzle: number
  /** Temperature to fall to before the next layer may lie on it, °C. */
  target: number
  /** Air at the bead, °C. */
  air: number
  /** Bead width and height, mm. */
  width: number
  height: number
  /** Density, g/cm³. */
  density: number
  /** Specific heat, J/(kg·K). */
  heatCapacity: number
  /** Convective coefficient, W/(m²·K). */
  coefficient: number
}

/**
 * Convective coefficient at the bead from the fan's duty, W/(m²·K).
 * Linear between still air and a full part fan. From memory: 20 to 30 in the still air under a hot head,
 * about 100 in the jet of a small blower; no published source.
 * @param duty 0 to 1
 * @param strength how strong this machine's fan is, 1 = usual
 */
export function fanCoefficient(duty: number, strength = 1): number {
  return 25 + 75 * Math.min(1, Math.max(0, duty)) * strength
}

/**
 * Time constant of a bead that cools through its exposed sides, s: τ = ρ·c·A/(h·P). Lumped capacitance
 * (any heat-transfer text), valid while the Biot number h·L/k is under 0.1. The exposed perimeter is the
 * top and one side: the bead lies on the layer below and beside its neighbour.
 */
export function coolingTimeConstant(input: CoolingInput): number {
  const area = beadArea(input.width, input.height) * 1e-6
  const perimeter = (input.width + input.height) * 1e-3
  return (input.density * 1000 * input.heatCapacity * area) / (input.coefficient * perimeter)
}

/**
 * Time for the bead to fall from the nozzle's temperature to the target, s:
 * t = τ·ln((T0 − T∞)/(T − T∞)).
 * @returns Infinity when the air is at or above the target
 */
export function coolingTime(input: CoolingInput): number {
  if (input.air >= input.target) return Infinity
  if (input.nozzle <= input.target) return 0
  return coolingTimeConstant(input) * Math.log((input.nozzle - input.air) / (input.target - input.air))
}

/** Temperature of the bead after `seconds`, °C: T = T∞ + (T0 − T∞)·e^(−t/τ). */
export function beadTemperature(input: CoolingInput, seconds: number): number {
  return input.air + (input.nozzle - input.air) * Math.exp(-seconds / coolingTimeConstant(input))
}
