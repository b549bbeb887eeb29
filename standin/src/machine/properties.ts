import type { Machine } from '@verimend/core/machine'
import type { FamilyId } from '@verimend/core/material'
import { randomStream } from '@verimend/core/statistics'
import { drawnWorld, type Spread, type World } from '../world'

/** Something of a machine or a roll that can be off without anybody being told. */
export interface Property {
  label: string
  unit: string
  digits: number
  of: 'machine' | 'roll'
  read: (w: World) => number
  /** Beyond these it is broken rather than as they come. */
  sound: (w: World, machine: Machine) => readonly [low: number, high: number]
  /** Breaks it, more or less, by a number from 0 to 1. */
  hide: (w: World, amount: number, machine: Machine) => World
  /** Some machines cannot have it. */
  fits?: (machine: Machine, family: FamilyId) => boolean
}

const between = (low: number, high: number, amount: number) => low + (high - low) * amount
/** One way or the other, by the last bits of the amount. */
const either = (amount: number) => (Math.floor(Math.abs(amount) * 1e4) % 2 ? 1 : -1)

/** Everything that can be hidden. What each does to a print is the physics' affair alone. */
export const PROPERTIES = {
  moisture: {
    label: 'Moisture in the roll',
    unit: 'of soaked',
    digits: 2,
    of: 'roll',
    read: (w) => w.roll.moisture,
    sound: () => [0, 0.25],
    hide: (w, a) => ({ ...w, roll: { ...w.roll, moisture: between(0.65, 1, a) } }),
  },
  diameter: {
    label: 'Filament diameter',
    unit: 'mm',
    digits: 3,
    of: 'roll',
    read: (w) => w.roll.diameter,
    sound: () => [1.71, 1.79],
    hide: (w, a) => ({ ...w, roll: { ...w.roll, diameter: 1.75 + either(a) * between(0.06, 0.1, a) } }),
  },
  hotter: {
    label: 'Heat this roll wants over its family',
    unit: '°C',
    digits: 0,
    of: 'roll',
    read: (w) => w.roll.hotter,
    sound: () => [-11, 11],
    hide: (w, a) => ({ ...w, roll: { ...w.roll, hotter: either(a) * between(22, 28, a) } }),
  },
  offset: {
    label: 'Nozzle hotter than it says',
    unit: '°C',
    digits: 0,
    of: 'machine',
    read: (w) => w.hotEnd.offset,
    sound: () => [-8, 8],
    hide: (w, a) => ({ ...w, hotEnd: { ...w.hotEnd, offset: either(a) * between(24, 30, a) } }),
  },
  open: {
    label: 'Bore that is open',
    unit: 'of it',
    digits: 2,
    of: 'machine',
    read: (w) => w.hotEnd.open,
    sound: () => [0.9, 1],
    hide: (w, a) => ({ ...w, hotEnd: { ...w.hotEnd, open: between(0.62, 0.48, a) } }),
  },
  worn: {
    label: 'Bore worn wider',
    unit: 'mm',
    digits: 2,
    of: 'machine',
    read: (w) => w.hotEnd.worn,
    sound: () => [0, 0.05],
    hide: (w, a) => ({ ...w, hotEnd: { ...w.hotEnd, worn: between(0.16, 0.24, a) } }),
  },
  creeps: {
    label: 'Melting lost after half an hour',
    unit: 'of it',
    digits: 2,
    of: 'machine',
    read: (w) => w.hotEnd.creeps,
    sound: () => [0, 0.05],
    hide: (w, a) => ({ ...w, hotEnd: { ...w.hotEnd, creeps: between(0.75, 0.9, a) } }),
  },
  steps: {
    label: 'Filament pushed for each that is asked',
    unit: 'mm/mm',
    digits: 3,
    of: 'machine',
    read: (w) => w.drive.steps,
    sound: () => [0.975, 1.025],
    hide: (w, a) => ({ ...w, drive: { ...w.drive, steps: 1 + either(a) * between(0.06, 0.1, a) } }),
  },
  slack: {
    label: 'Slack of the tube',
    unit: 'mm',
    digits: 2,
    of: 'machine',
    read: (w) => w.drive.slack,
    sound: (_, m) => [0, m.drive.kind === 'tube' ? m.drive.tubeLength * 0.006 : 0.1],
    hide: (w, a, m) => ({
      ...w,
      drive: {
        ...w.drive,
        slack: m.drive.kind === 'tube' ? m.drive.tubeLength * between(0.014, 0.018, a) : between(0.9, 1.3, a),
      },
    }),
    fits: (m) => m.drive.kind === 'tube',
  },
  grip: {
    label: 'Hold of the drive gear',
    unit: 'of sound',
    digits: 2,
    of: 'machine',
    read: (w) => w.drive.grip,
    sound: () => [0.8, 1],
    hide: (w, a) => ({ ...w, drive: { ...w.drive, grip: between(0.14, 0.08, a) } }),
  },
  gear: {
    label: 'Runout of the drive gear',
    unit: 'of its feed',
    digits: 3,
    of: 'machine',
    read: (w) => w.drive.gear.amplitude,
    sound: () => [0, 0.01],
    hide: (w, a, m) => ({
      ...w,
      drive: { ...w.drive, gear: { amplitude: between(0.035, 0.055, a), period: m.drive.gear ?? 22 } },
    }),
  },
  gap: {
    label: 'Nozzle too far off the bed',
    unit: 'mm',
    digits: 3,
    of: 'machine',
    read: (w) => w.bed.gap,
    sound: () => [-0.035, 0.035],
    hide: (w, a) => ({ ...w, bed: { ...w.bed, gap: either(a) * between(0.09, 0.13, a) } }),
  },
  tilt: {
    label: 'Tilt of the bed',
    unit: 'mm over it',
    digits: 2,
    of: 'machine',
    read: (w) => Math.hypot(...w.bed.tilt),
    sound: () => [0, 0.12],
    hide: (w, a) => {
      const angle = a * 40
      const by = between(0.8, 1.2, a)
      return { ...w, bed: { ...w.bed, tilt: [by * Math.cos(angle), by * Math.sin(angle)] } }
    },
  },
  bow: {
    label: 'Bow of the bed',
    unit: 'mm',
    digits: 2,
    of: 'machine',
    read: (w) => w.bed.bow,
    sound: () => [0, 0.1],
    hide: (w, a) => ({ ...w, bed: { ...w.bed, bow: between(0.35, 0.5, a) } }),
  },
  colder: {
    label: 'Bed colder than it says',
    unit: '°C',
    digits: 0,
    of: 'machine',
    read: (w) => w.bed.colder,
    sound: () => [-3, 8],
    hide: (w, a) => ({ ...w, bed: { ...w.bed, colder: between(24, 34, a) } }),
  },
  clean: {
    label: 'Cleanness of the bed',
    unit: 'of clean',
    digits: 2,
    of: 'machine',
    read: (w) => w.bed.clean,
    sound: () => [0.8, 1],
    hide: (w, a) => ({ ...w, bed: { ...w.bed, clean: between(0.42, 0.25, a) } }),
  },
  loose: {
    label: 'Play of an axis',
    unit: 'mm',
    digits: 2,
    of: 'machine',
    read: (w) => w.frame.loose,
    sound: () => [0, 0.03],
    hide: (w, a) => ({ ...w, frame: { ...w.frame, loose: between(0.18, 0.3, a) } }),
  },
  screw: {
    label: 'Wobble of the screw',
    unit: 'mm',
    digits: 3,
    of: 'machine',
    read: (w) => w.frame.screw.amplitude,
    sound: () => [0, 0.01],
    hide: (w, a) => ({
      ...w,
      frame: { ...w.frame, screw: { ...w.frame.screw, amplitude: between(0.05, 0.08, a) } },
    }),
  },
  belt: {
    label: 'Jolts of the belt’s teeth',
    unit: 'mm',
    digits: 3,
    of: 'machine',
    read: (w) => w.frame.belt.amplitude,
    sound: () => [0, 0.01],
    hide: (w, a) => ({
      ...w,
      frame: { ...w.frame, belt: { ...w.frame.belt, amplitude: between(0.04, 0.07, a) } },
    }),
  },
  weakAt: {
    label: 'Acceleration at which steps are lost',
    unit: 'mm/s²',
    digits: 0,
    of: 'machine',
    read: (w) => w.frame.weakAt,
    sound: (_, m) => [m.limits.travelAcceleration, Infinity],
    hide: (w, a, m) => ({
      ...w,
      frame: { ...w.frame, weakAt: m.limits.travelAcceleration * between(0.2, 0.12, a) },
    }),
  },
  skew: {
    label: 'X and Y off square',
    unit: '°',
    digits: 2,
    of: 'machine',
    read: (w) => Math.abs(w.frame.skew),
    sound: () => [0, 0.1],
    hide: (w, a) => ({ ...w, frame: { ...w.frame, skew: either(a) * between(0.4, 0.7, a) } }),
  },
  scale: {
    label: 'An axis longer than asked',
    unit: 'of it',
    digits: 4,
    of: 'machine',
    read: (w) => Math.max(...w.frame.scale.map((s) => Math.abs(s - 1))),
    sound: () => [0, 0.0025],
    hide: (w, a) => {
      const by = 1 + either(a) * between(0.01, 0.014, a)
      const [x, y, z] = w.frame.scale
      return { ...w, frame: { ...w.frame, scale: [x * by, y, z] } }
    },
  },
  draught: {
    label: 'Draught',
    unit: 'of a door left open',
    digits: 2,
    of: 'machine',
    read: (w) => w.air.draught,
    sound: () => [0, 0.4],
    hide: (w, a) => ({ ...w, air: { ...w.air, draught: between(1.4, 2, a) } }),
    fits: (m, f) => m.frame === 'open' && ['abs', 'asa', 'pc', 'hips', 'pa', 'pp'].includes(f),
  },
  blown: {
    label: 'Fan’s cooling',
    unit: 'W/(m²·K)',
    digits: 0,
    of: 'machine',
    read: (w) => w.air.blown,
    sound: (_, m) => [12 + 44 * m.fan.strength, 12 + 75 * m.fan.strength],
    hide: (w, a) => ({
      ...w,
      air: { ...w.air, blown: w.air.still + (w.air.blown - w.air.still) * between(0.28, 0.15, a) },
    }),
    fits: (m, f) => m.fan.present && ['pla', 'pla-silk'].includes(f),
  },
  spread: {
    label: 'Spread of a bead beyond its edge',
    unit: 'mm',
    digits: 3,
    of: 'machine',
    read: (w) => w.spread,
    sound: () => [0, 0.08],
    hide: (w, a) => ({ ...w, spread: between(0.13, 0.18, a) }),
  },
  shrinks: {
    label: 'Shrinking against its family',
    unit: 'times',
    digits: 2,
    of: 'roll',
    read: (w) => w.roll.shrinks,
    sound: () => [0.8, 1.25],
    hide: (w, a) => ({ ...w, roll: { ...w.roll, shrinks: between(1.8, 2.3, a) } }),
    fits: (_, f) => ['abs', 'asa', 'pa', 'pc', 'pp'].includes(f),
  },
  swing: {
    label: 'Swing of the nozzle’s heat',
    unit: '°C',
    digits: 1,
    of: 'machine',
    read: (w) => w.hotEnd.swing.amplitude,
    sound: () => [0, 1.5],
    hide: (w, a) => ({
      ...w,
      hotEnd: { ...w.hotEnd, swing: { amplitude: between(9, 13, a), period: between(40, 70, a) } },
    }),
  },
} as const satisfies Record<string, Property>
export type PropertyId = keyof typeof PROPERTIES
export const PROPERTY_IDS = Object.keys(PROPERTIES) as PropertyId[]
export const propertyOf = (id: PropertyId): Property => PROPERTIES[id]

/** Properties that this machine with this plastic can have broken. */
export const hideable = (machine: Machine, family: FamilyId): PropertyId[] =>
  PROPERTY_IDS.filter((id) => propertyOf(id).fits?.(machine, family) ?? true)

/** A world as they come, with some properties broken. */
export function worldWith(
  machine: Machine,
  family: FamilyId,
  seed: number,
  hidden: readonly PropertyId[],
  spread?: Spread,
): World {
  return broken(drawnWorld(machine, family, seed, spread), machine, seed, hidden, spread)
}

/** How far below the least of what is plainly broken a slight fault goes, as a share of the range from least to most. */
const SLIGHT = 0.4

/** A world with some properties broken, each as far as the seed says: from slight to strong where the spread is wide. */
export function broken(
  world: World,
  machine: Machine,
  seed: number,
  hidden: readonly PropertyId[],
  spread?: Spread,
): World {
  const random = randomStream(seed ^ 0x5eed)
  const amount = () => (spread === 'wide' ? (1 + SLIGHT) * random() - SLIGHT : random())
  return hidden.reduce((w, id) => propertyOf(id).hide(w, amount(), machine), world)
}

/** So many properties to break, drawn by a seed. */
export function drawnFaults(machine: Machine, family: FamilyId, seed: number, count: number): PropertyId[] {
  const random = randomStream(seed ^ 0xfa17)
  const open = hideable(machine, family)
  const out: PropertyId[] = []
  while (out.length < count && open.length) out.push(...open.splice(Math.floor(random() * open.length), 1))
  return out
}

export interface Truth {
  id: PropertyId
  label: string
  unit: string
  digits: number
  value: number
  broken: boolean
  /** As it was drawn, before anybody put anything right. */
  wasBroken: boolean
}
/**
 * What a world is really like, property by property.
 * @param origin the same as it was drawn
 */
export function truthOf(world: World, origin: World, machine: Machine): Truth[] {
  return PROPERTY_IDS.filter((id) => propertyOf(id).fits?.(machine, world.family) ?? true).map((id) => {
    const { label, unit, digits, read, sound } = propertyOf(id)
    const value = read(world)
    const [low, high] = sound(world, machine)
    const off = (v: number) => v < low || v > high
    return {
      id,
      label,
      unit,
      digits,
      value: Number.isFinite(value) ? value : 1e6,
      broken: off(value),
      wasBroken: off(read(origin)),
    }
  })
}
