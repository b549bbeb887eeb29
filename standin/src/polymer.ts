import type { FamilyId } from '@verimend/core/material'
import type { World } from './world'

/**
 * How a family's plastic behaves, for the physics here alone: none of it is what a recipe is derived with. Values from memory,
 * of the size that textbooks on extrusion and polymer welding give.
 */
export interface Polymer {
  /** °C below which it is solid enough to carry. */
  glass: number
  /** °C from which a part gives way under its own weight. */
  softens: number
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
  /** How layers of a plain body hold together when all is well, 0 to 1: what a thumb is used to. */
  holds: number
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
  /** Gloss against that of a plain filament, 1 is alike. */
  shine: number
  /** How readily a bead over air drops against one of PLA. */
  runs: number
  /** How much worse moisture makes it ooze: a wet roll drools so many times more. */
  thirst: number
}

const POLYMERS: Record<'pla' | 'petg' | 'abs' | 'asa' | 'tpu' | 'pa' | 'pc' | 'pp', Polymer> = {
  pla: { glass: 57, softens: 58, activation: 80, reference: 205, melts: 13, relaxes: 0.05, welds: 0.0351, holds: 0.6, drools: 0.025, degrades: 235, shrinks: 0.28, stiffness: 3.2, heat: 2200, thirst: 2.5, shine: 1, runs: 1 },
  petg: { glass: 78, softens: 79, activation: 95, reference: 240, melts: 10, relaxes: 0.06, welds: 0.01333, holds: 0.57, drools: 0.035, degrades: 265, shrinks: 0.35, stiffness: 2.1, heat: 2300, thirst: 3, shine: 1, runs: 1 },
  abs: { glass: 103, softens: 104, activation: 90, reference: 243, melts: 12, relaxes: 0.05, welds: 0.02116, holds: 0.64, drools: 0.03, degrades: 275, shrinks: 0.7, stiffness: 2.2, heat: 2100, thirst: 2, shine: 1, runs: 0.65 },
  asa: { glass: 104, softens: 104, activation: 90, reference: 250, melts: 12, relaxes: 0.05, welds: 0.02116, holds: 0.65, drools: 0.03, degrades: 280, shrinks: 0.62, stiffness: 2.1, heat: 2100, thirst: 2, shine: 1, runs: 0.6 },
  tpu: { glass: 45, softens: 80, activation: 110, reference: 225, melts: 4, relaxes: 0.11, welds: 0.00357, holds: 0.6, drools: 0.06, degrades: 245, shrinks: 0.75, stiffness: 0.04, heat: 2200, thirst: 4, shine: 0.8, runs: 0.9 },
  pa: { glass: 60, softens: 110, activation: 60, reference: 258, melts: 10, relaxes: 0.05, welds: 0.1125, holds: 0.74, drools: 0.05, degrades: 290, shrinks: 1.2, stiffness: 2.4, heat: 2400, thirst: 5, shine: 1, runs: 0.35 },
  pc: { glass: 145, softens: 145, activation: 105, reference: 285, melts: 9, relaxes: 0.06, welds: 0.023, holds: 0.6, drools: 0.03, degrades: 320, shrinks: 0.6, stiffness: 2.4, heat: 1900, thirst: 3, shine: 1, runs: 0.6 },
  pp: { glass: 95, softens: 105, activation: 45, reference: 232, melts: 9, relaxes: 0.06, welds: 0.11, holds: 0.7, drools: 0.05, degrades: 270, shrinks: 1.7, stiffness: 1.3, heat: 2000, thirst: 1.2, shine: 1, runs: 0.6 },
} // prettier-ignore

/** PLA whose finish is its gloss: less of it is seen at once. */
const SILK: Polymer = { ...POLYMERS.pla, shine: 1.3 }

/** The plastic of a family; what has no entry of its own behaves as its nearest kin. */
export function polymerOf(family: FamilyId): Polymer {
  switch (family) {
    case 'pla':
    case 'pva':
      return POLYMERS.pla
    case 'pla-silk':
      return SILK
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

/** The plastic on this roll: its family's, as this batch of it behaves. */
export function plasticOf({ family, roll }: Pick<World, 'family' | 'roll'>): Polymer {
  const p = polymerOf(family)
  return {
    ...p,
    activation: p.activation * roll.thins,
    welds: p.welds * roll.welds,
    melts: p.melts * roll.melts,
    drools: p.drools * roll.drools,
  }
}

/** kJ/(mol·K) */
export const GAS = 8.314e-3

/** How many times thicker a melt is at a temperature than at its reference (Arrhenius). */
export function thickness({ activation, reference }: Polymer, temperature: number): number {
  return Math.exp((activation / GAS) * (1 / (temperature + 273.15) - 1 / (reference + 273.15)))
}
