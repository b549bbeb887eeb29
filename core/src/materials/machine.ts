import type { CornerRule } from '../motion/trapezoid'
import type { Range, Surface } from './cards'

/** A machine as its owner describes it. */
export interface Machine {
  name: string
  nozzle: {
    diameter: number
    material: 'brass' | 'hardened'
    /** ISO date of the last change; null: not noted. */
    changedOn: string | null
  }
  drive: { kind: 'direct' | 'tube'; /** mm of guide tube; 0 for direct. */ tubeLength: number }
  frame: 'open' | 'enclosed'
  /** Part fan: none, or its strength against the usual small blower (1). */
  fan: { present: boolean; strength: number }
  bed: {
    shape: 'rectangle' | 'round'
    /** mm; for a round bed both are the diameter and the origin is in the middle. */
    width: number
    depth: number
    surface: Surface
    levelling: 'screws' | 'probe'
    /** Prints since it was last levelled; null: not known. */
    printsSinceLevel: number | null
    /** Prints since the surface was washed; null: not known. */
    printsSinceWash: number | null
    /** Largest unevenness left after levelling, mm; null: not measured. */
    residual: number | null
  }
  /** mm of printable height. */
  height: number
  limits: {
    /** °C */
    nozzle: number
    bed: number
    /** mm/s */
    speed: number
    zSpeed: number
    /** mm/s² */
    acceleration: number
    travelAcceleration: number
    corner: CornerRule
  }
  /** Heated chamber's top temperature, °C; null: none. */
  chamber: number | null
  z: { /** mm per turn */ lead: number; stepsPerTurn: number }
  belt: { /** mm */ pitch: number; teeth: number }
  /** How its controller wants to be spoken to; left out: the usual. */
  commands?: Commands
  notes: string
}

/** How a controller spells what differs from one to the other. */
export interface Commands {
  feed: 'relative' | 'absolute'
  /** M106 S0–255, or S0–1. */
  fan: 'bytes' | 'fraction'
  /** M204 P… T… for printing and travelling apart, or M204 S… for both. */
  acceleration: 'split' | 'single' | 'none'
  /** M205 X… Y… as a change of speed, or M205 J… as a deviation. */
  corner: 'change' | 'deviation' | 'none'
  /** M900 K…, or M572 S…. */
  pressure: 'k' | 's' | 'none'
  /** G29 before each print, or M420 S1 for a kept grid. */
  level: 'probe' | 'kept' | 'none'
}
export const USUAL_COMMANDS: Commands = {
  feed: 'relative',
  fan: 'bytes',
  acceleration: 'split',
  corner: 'none',
  pressure: 'k',
  level: 'none',
}
/** A machine's commands, what is not said as usual. */
export const commandsOf = (machine: Pick<Machine, 'commands'>): Commands => ({
  ...USUAL_COMMANDS,
  ...machine.commands,
})

/** Smallest height the Z screw moves in full motor steps, mm. */
export function fullStep(machine: Pick<Machine, 'z'>): number {
  return machine.z.lead / machine.z.stepsPerTurn
}

/**
 * Melt cap in mm³/s for this nozzle from the card's value at 0.4 mm. Scales with the bore to the power 1.2,
 * bounded to 0.4 and 2.2 times; common practice, no source. A hardened nozzle conducts less: 10 % off.
 */
export function meltCap(cardRate: number, nozzle: Pick<Machine['nozzle'], 'diameter' | 'material'>): number {
  const scale = Math.min(2.2, Math.max(0.4, (nozzle.diameter / 0.4) ** 1.2))
  return cardRate * scale * (nozzle.material === 'hardened' ? 0.9 : 1)
}

/** Clips a value into a range; says whether it had to. */
export function clip(value: number, range: Range): { value: number; clipped: boolean } {
  const v = Math.min(range.max, Math.max(range.min, value))
  return { value: v, clipped: v !== value }
}
