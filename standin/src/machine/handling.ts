import { ITS_FAMILY, type World } from '../world'

/** °C of the air under a cover over a heated bed. From memory. */
const COVERED = 36

/** mm that a tube gives way which is held fast, by its bends alone. From memory. */
const HELD_FAST = 1.8

/** What can be done to a machine or a roll by hand. */
export const HANDLINGS = {
  'wash-bed': (w: World) => ({ ...w, bed: { ...w.bed, clean: 1 } }),
  // screws stand at the corners, which a bow lowers; a gap is set in the middle, which it raises
  'level-bed': (w: World) => ({
    ...w,
    bed: { ...w.bed, tilt: [0.01, -0.01] as const, gap: 0.005 - 0.28 * w.bed.bow },
  }),
  'set-gap': (w: World) => ({ ...w, bed: { ...w.bed, gap: 0.005 + w.bed.bow } }),
  'flatten-bed': (w: World) => ({ ...w, bed: { ...w.bed, bow: 0.03, gap: 0.03 } }),
  'mend-bed-heater': (w: World) => ({ ...w, bed: { ...w.bed, colder: 1 } }),
  'dry-roll': (w: World) => ({ ...w, roll: { ...w.roll, moisture: 0.03 } }),
  'another-roll': (w: World) => ({
    ...w,
    roll: { ...w.roll, moisture: 0.05, diameter: 1.75, hotter: 0, shrinks: 1, ...ITS_FAMILY },
  }),
  'clear-nozzle': (w: World) => ({ ...w, hotEnd: { ...w.hotEnd, open: 1 } }),
  'replace-nozzle': (w: World) => ({ ...w, hotEnd: { ...w.hotEnd, open: 1, worn: 0 } }),
  'cool-cold-end': (w: World) => ({ ...w, hotEnd: { ...w.hotEnd, creeps: 0 } }),
  'seat-heat-sensor': (w: World) => ({ ...w, hotEnd: { ...w.hotEnd, offset: 0 } }),
  'tune-heater': (w: World) => ({ ...w, hotEnd: { ...w.hotEnd, swing: { amplitude: 0.5, period: 22 } } }),
  'clean-gear': (w: World) => ({ ...w, drive: { ...w.drive, grip: 1 } }),
  'reseat-gear': (w: World) => ({ ...w, drive: { ...w.drive, gear: { ...w.drive.gear, amplitude: 0 } } }),
  // a tube held fast still bends a little
  'fix-tube': (w: World) => ({ ...w, drive: { ...w.drive, slack: Math.min(w.drive.slack, HELD_FAST) } }),
  'set-feed-steps': (w: World) => ({ ...w, drive: { ...w.drive, steps: 1 } }),
  'tension-belts': (w: World) => ({
    ...w,
    frame: { ...w.frame, loose: 0, weakAt: Infinity, belt: { ...w.frame.belt, amplitude: 0.003 } },
  }),
  'straighten-screw': (w: World) => ({
    ...w,
    frame: { ...w.frame, screw: { ...w.frame.screw, amplitude: 0.003 } },
  }),
  'square-frame': (w: World) => ({ ...w, frame: { ...w.frame, skew: 0 } }),
  'set-axis-steps': (w: World) => ({ ...w, frame: { ...w.frame, scale: [1, 1, 1] as const } }),
  // a box over a warm bed keeps the draught out and the warmth in
  'cover-frame': (w: World) => ({
    ...w,
    air: { ...w.air, draught: 0.05, temperature: Math.max(w.air.temperature, COVERED) },
  }),
  'mend-fan': (w: World) => ({ ...w, air: { ...w.air, blown: w.air.still + 58 } }),
} satisfies Record<string, (w: World) => World>
export type Handling = keyof typeof HANDLINGS
export const HANDLING_IDS = Object.keys(HANDLINGS) as Handling[]

/** What becomes of a world after something was done by hand. */
export const handled = (world: World, what: Handling): World => HANDLINGS[what](world)
