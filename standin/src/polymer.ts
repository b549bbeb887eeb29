import type { FamilyId } from '@verimend/core/material'

/**
 * How a family's plastic behaves, for the physics here alone: none of it is what a recipe is derived with. Values from memory,
 * of the size that textbooks on extrusion and polymer welding give.
 */
export interface Polymer {
  /** °C below which it is solid enough to carry. */
  glass: number
  /** kJ/mol: how viscosity falls with heat (Arrhenius). */
  activation: number
  /** °C at which the melt figures below hold. */
  reference: number
  /** mm³/s that a 0.4 mm brass nozzle melts through at the reference before it falls behind. */
  melts: number
  /** s: pressure in the head of a direct drive relaxes by a factor of e at the reference. */
  relaxes: number
  /** s that two faces at the reference need to grow together (reptation). */
  welds: number
  /** mm³/s that drip from an open nozzle at the reference, dry. */
  drools: number
  /** °C above which it degrades, froths and discolours. */
  degrades: number
  /** Linear shrinking on the way down, %. */
  shrinks: number
  /** GPa when cold. */
  stiffness: number
  /** kJ/(m³·K) */
  heat: number
  /** How much worse moisture makes it ooze: a wet roll drools so many times more. */
  thirst: number
}

const POLYMERS: Record<'pla' | 'petg' | 'abs' | 'asa' | 'tpu' | 'pa' | 'pc' | 'pp', Polymer> = {
  pla: { glass: 57, activation: 80, reference: 205, melts: 13, relaxes: 0.05, welds: 0.09, drools: 0.025, degrades: 235, shrinks: 0.28, stiffness: 3.2, heat: 2200, thirst: 2.5 },
  petg: { glass: 78, activation: 95, reference: 240, melts: 10, relaxes: 0.06, welds: 0.12, drools: 0.05, degrades: 265, shrinks: 0.35, stiffness: 2.1, heat: 2300, thirst: 3 },
  abs: { glass: 103, activation: 90, reference: 243, melts: 12, relaxes: 0.05, welds: 0.11, drools: 0.03, degrades: 275, shrinks: 0.7, stiffness: 2.2, heat: 2100, thirst: 2 },
  asa: { glass: 104, activation: 90, reference: 250, melts: 12, relaxes: 0.05, welds: 0.11, drools: 0.03, degrades: 280, shrinks: 0.62, stiffness: 2.1, heat: 2100, thirst: 2 },
  tpu: { glass: 45, activation: 110, reference: 225, melts: 4, relaxes: 0.16, welds: 0.08, drools: 0.06, degrades: 245, shrinks: 0.75, stiffness: 0.04, heat: 2200, thirst: 4 },
  pa: { glass: 60, activation: 60, reference: 258, melts: 10, relaxes: 0.05, welds: 0.1, drools: 0.06, degrades: 290, shrinks: 1.2, stiffness: 2.4, heat: 2400, thirst: 5 },
  pc: { glass: 145, activation: 105, reference: 285, melts: 9, relaxes: 0.06, welds: 0.14, drools: 0.03, degrades: 320, shrinks: 0.6, stiffness: 2.4, heat: 1900, thirst: 3 },
  pp: { glass: 95, activation: 45, reference: 232, melts: 9, relaxes: 0.06, welds: 0.1, drools: 0.05, degrades: 270, shrinks: 1.7, stiffness: 1.3, heat: 2000, thirst: 1.2 },
} // prettier-ignore

/** The plastic of a family; what has no entry of its own behaves as its nearest kin. */
export function polymerOf(family: FamilyId): Polymer {
  switch (family) {
    case 'pla':
    case 'pla-silk':
    case 'pva':
      return POLYMERS.pla
    case 'petg':
    case 'pet':
      return POLYMERS.petg
    case 'abs':
    case 'hips':
      return POLYMERS.abs
    case 'tpu-95a':
    case 'tpu-85a':
    case 'peba':
      return POLYMERS.tpu
    case 'asa':
    case 'pa':
    case 'pc':
    case 'pp':
      return POLYMERS[family]
    case 'other':
      return POLYMERS.petg
  }
}

const GAS = 8.314e-3

/** How many times thicker a melt is at a temperature than at its reference (Arrhenius). */
export function thickness({ activation, reference }: Polymer, temperature: number): number {
  return Math.exp((activation / GAS) * (1 / (temperature + 273.15) - 1 / (reference + 273.15)))
}
