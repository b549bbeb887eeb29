import type { Commands } from './commands'
import type { CornerRule } from './cornerRule'
import type { Range, Surface } from '../material/cards'

/** A levelling screw. mm from the bed's origin. */
export interface BedScrew {
  name: string
  x: number
  y: number
}
/** How a bed is levelled by hand. */
export interface BedScrews {
  screws: BedScrew[]
  /** mm a turn */
  pitch: number
  /** Which way the bed goes when a knob is turned clockwise, seen from below where the knobs are. */
  clockwise: 'up' | 'down'
}

/** A machine as its owner describes it. */
export interface Machine {
  name: string
  nozzle: {
    diameter: number
    material: 'brass' | 'hardened'
    /** ISO date of the last change; null: not noted. */
    changedOn: string | null
  }
  drive: {
    kind: 'direct' | 'tube'
    /** mm of guide tube; 0 for direct. */
    tubeLength: number
    /** mm of filament a turn of the drive's gear feeds; null or left out: not known. */
    gear?: number | null
    /** Steps of the drive for a millimetre of filament; null or left out: not known. */
    steps?: number | null
  }
  frame: 'open' | 'enclosed'
  /** Whether the tube's liner reaches down to the nozzle; null: not known. */
  hotEnd: 'lined' | 'all-metal' | null
  /** Melt zone: longer or with a core through it for high flow; left out: the usual. */
  meltZone?: 'usual' | 'high-flow'
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
    /** Screws under it; null or left out: not described. */
    screws?: BedScrews | null
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
  /** Values that were taken from its kind and that nobody has looked at, by their place: `limits.nozzle`. */
  assumed?: string[]
  notes: string
}

/** Smallest height the Z screw moves in full motor steps, mm. */
export function fullStep(machine: Pick<Machine, 'z'>): number {
  return machine.z.lead / machine.z.stepsPerTurn
}

/** Heat above which a liner that reaches the nozzle suffers, °C. Common practice, no source. */
export const LINER_HEAT = 240

/**
 * Air round the part, °C: a room, a closed frame, or a chamber as warm as it is set. What a chamber could reach warms
 * nothing. Common practice, no source.
 * @param chamber what the chamber is set to, °C; 0: off
 */
export const airOf = (machine: Pick<Machine, 'frame'>, chamber: number): number =>
  Math.max(chamber, machine.frame === 'enclosed' ? 40 : 25)

/** How far a height may be from a whole number of full steps and still count as on one, in steps. */
export const FULL_STEP_TOLERANCE = 0.02
/** The same for heights read off a file, which are known to a thousandth of a millimetre, in steps. */
export const READ_STEP_TOLERANCE = 0.04

/** How far a layer height lies from the nearest whole number of full steps, in steps: 0 to 0.5. */
export function offFullStep(height: number, machine: Pick<Machine, 'z'>): number {
  const steps = height / fullStep(machine)
  return Math.abs(steps - Math.round(steps))
}

/** The height on a full step that is nearest, at least one step, mm. */
export function nearestFullStep(height: number, machine: Pick<Machine, 'z'>): number {
  const step = fullStep(machine)
  return Math.max(1, Math.round(height / step)) * step
}

/** Thinnest layer, mm: under a quarter of the nozzle, or under 0.06 mm, a line is smeared more than laid. Common practice, no source. */
export function thinnestLayer(machine: Pick<Machine, 'nozzle'>): number {
  return Math.max(0.06, 0.25 * machine.nozzle.diameter)
}

/** Multiples of the screw's full step between two heights, mm, lowest first. */
export function fullStepsBetween(least: number, most: number, machine: Pick<Machine, 'z'>): number[] {
  const step = fullStep(machine)
  const first = Math.max(1, Math.ceil(least / step - 1e-6))
  const last = Math.floor(most / step + 1e-6)
  return Array.from({ length: Math.max(0, last - first + 1) }, (_, i) => (first + i) * step)
}

/** Thickest layer that is still pressed onto the one below: three quarters of the nozzle, mm. Common practice, no source. */
export function thickestLayer(machine: Pick<Machine, 'nozzle'>): number {
  return 0.75 * machine.nozzle.diameter
}

/** Usual pull-back of a tube-fed drive, mm: 10 mm for each metre of tube and 1 mm for the drive. Common practice, no source. */
export function tubeRetraction(tubeLength: number): number {
  return (10 * tubeLength) / 1000 + 1
}

/**
 * Melt cap in mm³/s for this hot end from the card's value at 0.4 mm. Scales with the bore to the power 1.2,
 * bounded to 0.4 and 2.2 times. A hardened nozzle conducts less: 10 % off. A melt zone for high flow melts about twice
 * as much. Common practice, no source.
 */
export function meltCap(cardRate: number, machine: Pick<Machine, 'nozzle' | 'meltZone'>): number {
  const { nozzle } = machine
  const scale = Math.min(2.2, Math.max(0.4, (nozzle.diameter / 0.4) ** 1.2))
  return (
    cardRate *
    scale *
    (nozzle.material === 'hardened' ? 0.9 : 1) *
    (machine.meltZone === 'high-flow' ? HIGH_FLOW : 1)
  )
}
/** How much more a melt zone for high flow melts. Common practice, no source. */
const HIGH_FLOW = 2

/** Clips a value into a range; says whether it had to. */
export function clip(value: number, range: Range): { value: number; clipped: boolean } {
  const v = Math.min(range.max, Math.max(range.min, value))
  return { value: v, clipped: v !== value }
}
