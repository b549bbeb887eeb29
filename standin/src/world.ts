import type { Machine } from '@verimend/core/machine'
import type { FamilyId } from '@verimend/core/material'
import { normalStream, randomStream } from '@verimend/core/statistics'

/** A repeated fault of a machine: how far, and how often. */
export interface Periodic {
  /** mm */
  amplitude: number
  /** mm of height, or of filament for the drive's gear; s for heat. */
  period: number
}

/**
 * What a machine and a roll are really like: the truth that nobody is told. The properties are physical; no fault is named.
 */
export interface World {
  seed: number
  family: FamilyId
  roll: {
    /** mm really, and how it wanders along the roll. */
    diameter: number
    wander: Periodic
    /** 0 is dry, 1 is soaked. */
    moisture: number
    /** °C by which this batch wants to be hotter than its family. */
    hotter: number
    /** Shrinks so many times as much as its family. */
    shrinks: number
    /** So many times its family's: how viscosity falls with heat, the time to weld, what melts through, what drips. */
    thins: number
    welds: number
    melts: number
    drools: number
  }
  hotEnd: {
    /** °C by which the nozzle is hotter than it says. */
    offset: number
    /** °C, s */
    swing: Periodic
    /** Share of the bore that is open. */
    open: number
    /** mm by which the bore is worn wider. */
    worn: number
    /** Softening creeps up: how much slower it melts after half an hour, 0 to 1. */
    creeps: number
  }
  drive: {
    /** mm of filament it really pushes for each that is asked. */
    steps: number
    /** mm that a tube gives before it pulls. */
    slack: number
    /** Pressure in the head relaxes so many times as slowly as with a direct drive. */
    soft: number
    /** N per … as a share: pressure at which the gear slips, 1 is sound. */
    grip: number
    gear: Periodic
  }
  bed: {
    /** mm by which the nozzle is too far off the bed, in the middle. */
    gap: number
    /** mm over the whole width and depth. */
    tilt: readonly [x: number, y: number]
    /** mm that the middle is higher than the edge. */
    bow: number
    /** °C by which its surface is colder than it says. */
    colder: number
    /** How well plastic holds on it, 1 is clean. */
    clean: number
  }
  frame: {
    /** Share by which an axis is longer than asked. */
    scale: readonly [x: number, y: number, z: number]
    /** mm of sideways play. */
    loose: number
    /** Hz, and mm it swings after a full stop at 1000 mm/s². */
    ripple: { frequency: number; amplitude: number }
    /** In Z. */
    screw: Periodic
    /** Across the way, once for each tooth of the belt that meshes. */
    belt: Periodic
    /** mm/s² above which steps are lost. */
    weakAt: number
    /** ° by which X and Y are not square. */
    skew: number
  }
  air: {
    /** °C round the part. */
    temperature: number
    /** W/(m²·K) without a fan, and with all of it. */
    still: number
    blown: number
    /** Moving air from one side, 0 to 1. */
    draught: number
  }
  /** mm a bead spreads beyond what it was given, to each side. */
  spread: number
}

/** A batch that behaves as its family does. */
export const ITS_FAMILY = { thins: 1, welds: 1, melts: 1, drools: 1 }
const still: Periodic = { amplitude: 0, period: 1 }

/** A sound machine with an honest roll: everything as it says. */
export function soundWorld(machine: Machine, family: FamilyId, seed = 1): World {
  const tube = machine.drive.kind === 'tube'
  return {
    seed,
    family,
    roll: {
      diameter: 1.75,
      wander: { amplitude: 0.008, period: 900 },
      moisture: 0.05,
      hotter: 0,
      shrinks: 1,
      ...ITS_FAMILY,
    },
    hotEnd: { offset: 0, swing: { amplitude: 0.6, period: 22 }, open: 1, worn: 0, creeps: 0 },
    drive: {
      steps: 1,
      slack: tube ? machine.drive.tubeLength * 0.004 : 0.05,
      soft: tube ? 1 + machine.drive.tubeLength / 220 : 1,
      grip: 1,
      gear: still,
    },
    bed: { gap: 0, tilt: [0, 0], bow: 0.01, colder: 0, clean: 1 },
    frame: {
      scale: [1, 1, 1],
      loose: 0,
      ripple: { frequency: 38, amplitude: machine.frame === 'open' ? 0.03 : 0.015 },
      screw: { amplitude: 0.003, period: machine.z.lead },
      belt: { amplitude: 0.002, period: machine.belt.pitch },
      weakAt: Infinity,
      skew: 0,
    },
    air: {
      temperature: machine.frame === 'enclosed' ? 34 : 23,
      still: 12,
      blown: machine.fan.present ? 12 + 58 * machine.fan.strength : 12,
      draught: machine.frame === 'enclosed' ? 0 : 0.15,
    },
    spread: 0.03,
  }
}

/** A world as it was kept, with what it did not have yet as on a sound machine. */
export const upgradedWorld = (kept: World, machine: Machine): World => {
  const sound = soundWorld(machine, kept.family, kept.seed)
  return { ...kept, roll: { ...sound.roll, ...kept.roll }, frame: { ...sound.frame, ...kept.frame } }
}

/**
 * How far rolls of one family differ. Labels of one family span 20 to 40 °C from make to make: *wide* draws from rolls of all
 * makes (standard deviation 8 °C), *usual* from those that a card was made for. From memory.
 */
export type Spread = 'usual' | 'wide'

/** A world as they come: nothing is quite as it says, and nothing is broken. */
export function drawnWorld(
  machine: Machine,
  family: FamilyId,
  seed: number,
  spread: Spread = 'usual',
): World {
  const random = randomStream(seed)
  const normal = normalStream(random)
  const between = (a: number, b: number) => a + (b - a) * random()
  const w = soundWorld(machine, family, seed)
  return {
    ...w,
    roll: {
      ...w.roll,
      diameter: 1.75 + 0.012 * normal(),
      wander: { amplitude: between(0.003, 0.014), period: between(500, 1600) },
      moisture: between(0.02, 0.2),
      hotter: 3 * normal(),
      shrinks: between(0.85, 1.2),
    },
    hotEnd: {
      ...w.hotEnd,
      offset: 2 * normal(),
      swing: { amplitude: between(0.3, 1), period: between(15, 30) },
    },
    drive: {
      ...w.drive,
      steps: 1 + 0.008 * normal(),
      slack: w.drive.slack * between(0.7, 1.4),
      soft: w.drive.soft * between(0.85, 1.25),
    },
    bed: {
      ...w.bed,
      gap: 0.008 * normal(),
      tilt: [0.03 * normal(), 0.03 * normal()],
      bow: Math.abs(0.015 * normal()),
      colder: between(0, 4),
      clean: between(0.85, 1),
    },
    frame: {
      ...w.frame,
      scale: [1 + 0.0006 * normal(), 1 + 0.0006 * normal(), 1],
      ripple: { frequency: between(26, 52), amplitude: w.frame.ripple.amplitude * between(0.6, 1.5) },
      screw: { amplitude: between(0.001, 0.006), period: machine.z.lead },
    },
    air: {
      ...w.air,
      temperature: w.air.temperature + 2 * normal(),
      blown: w.air.blown * between(0.85, 1.15),
    },
    spread: between(0.01, 0.07),
    ...(spread === 'wide' && { roll: otherMake(w, random, normal) }),
  }
}

/** A roll of any make: its window lies elsewhere, and is wider on one side than on the other. */
function otherMake(w: World, random: () => number, normal: () => number): World['roll'] {
  const times = (scatter: number) => Math.exp(scatter * normal())
  return {
    ...w.roll,
    diameter: 1.75 + 0.015 * normal(),
    wander: { amplitude: 0.003 + 0.015 * random(), period: 500 + 1100 * random() },
    moisture: 0.02 + 0.2 * random(),
    hotter: 8 * normal(),
    shrinks: times(0.15),
    thins: times(0.2),
    welds: times(0.4),
    melts: times(0.15),
    drools: times(0.4),
  }
}
