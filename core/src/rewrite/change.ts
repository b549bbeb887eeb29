import { reasonsOf, type Reason, type ReasonArguments } from '../quantity/reason'
import type { Feature } from '../toolpath/features'

/** The lines that a change of speed, flow or acceleration is about. */
export type Lines = 'first' | 'all' | Feature

/** What can be stepped up a finished file: the speed and acceleration of outer walls, among others. */
export type Stepped = 'nozzle' | 'fan' | 'speed' | 'acceleration' | 'retract-length' | 'pressure'

/** One thing to change in a finished file, in the terms of what the file does. */
export type FileChange =
  /** °C, while the first layer goes down, or above it. */
  | { kind: 'nozzle' | 'bed'; where: 'first' | 'rest'; value: number }
  /** Duty, 0 to 1: of the layers with their usual duty, or of bridges. */
  | { kind: 'fan'; where: 'rest' | 'bridge'; value: number }
  /** Layers at the base without fan. */
  | { kind: 'fan-off-layers'; value: number }
  /** How much more is fed: 1.05 is 5 % more. */
  | { kind: 'flow'; where: Lines; ratio: number }
  /** mm, mm/s, mm, mm */
  | { kind: 'retract-length' | 'retract-speed' | 'restart-extra' | 'z-lift'; value: number }
  | { kind: 'retract-off' }
  /** Pulls back where the head crosses the open without it. */
  | { kind: 'retract-on'; length: number; speed: number; extra: number }
  /** mm/s */
  | { kind: 'speed'; where: 'first' | 'travel' | Feature; value: number }
  /** Nothing is laid faster below this height; mm, mm/s. */
  | { kind: 'slow-zone'; height: number; speed: number }
  /** mm/s²; the rest is all lines but outer walls. */
  | { kind: 'acceleration'; where: 'first' | 'outer' | 'rest' | 'travel'; value: number }
  /** s */
  | { kind: 'pressure'; value: number }
  /** Where loops that face the air start; degrees, counter-clockwise from +X, for those that are turned away. */
  | { kind: 'seam'; place: 'stacked' | 'tucked' | 'turned-away' | 'scattered'; direction: number }
  /** mm³ left out where loops that face the air close. */
  | { kind: 'early-stop'; volume: number }
  /** mm the head goes on along such a loop once it is closed. */
  | { kind: 'wipe'; length: number }
  /** s that a layer takes at least, by laying it slower, but no slower than the floor; s, mm/s. */
  | { kind: 'layer-time'; seconds: number; floor: number }
  /**
   * Bands of the height between two, each as high, the first value lowest; below and above, all as it was. °C, duty, mm/s, mm/s²,
   * mm, s; the heights in mm.
   */
  | { kind: 'steps'; of: Stepped; values: readonly number[]; from: number; to: number }
  /** Waits, for another roll, before the first layer that ends above a height; mm. */
  | { kind: 'pause'; height: number; command: 'M600' | 'M0' }
  /** Lines round what the first layer draws, laid before it; mm between them and the part. */
  | { kind: 'brim'; lines: number; gap: number }
  /** Loops of a skirt, and lines of a wall round the part on every layer. */
  | { kind: 'skirt' | 'draught-wall'; lines: number }
  /** Round tabs under the corners of the first layer, mm across. */
  | { kind: 'tabs'; diameter: number }
  /** mm that the whole print is moved by. */
  | { kind: 'move'; x: number; y: number; z: number }

/** Why a change cannot be written into a file, with the values its sentence needs. */
export interface ChangeFaults {
  /** The file does not say what it was. */
  'change-not-told': object
  /** There are fewer layers than a band needs. */
  'change-bands-low': { count: number; layers: number; least: number }
  /** There is nothing in the file that it would change. */
  'change-does-nothing': object
  /** The nozzle would touch the bed. */
  'change-into-bed': { height: number }
  /** The machine has no command for it. */
  'change-no-command': object
  /** The length is set on the machine. */
  'change-on-machine': object
  /** More than the machine allows: °C, mm/s or mm/s². */
  'change-beyond-machine': { limit: number; unit: string }
  /** There is more of it in the file than it is to have. */
  'change-only-more': { have: number }
  /** The bed has no room for it. */
  'change-no-room': object
  /** The file prints something else where it would lie. */
  'change-lies-there': object
  /** The file does not go up layer by layer. */
  'change-one-by-one': object
  /** Lines would lie elsewhere. */
  'change-laid-anew': object
  /** The new file did not read as it should. */
  'change-not-clean': object
}
const reason = reasonsOf<ChangeFaults>()

/** A change that a file does not take. */
export class ChangeError extends Error {
  readonly reason: Reason

  constructor(...given: ReasonArguments<ChangeFaults>) {
    super(given[0])
    this.name = 'ChangeError'
    this.reason = reason(...given)
  }
}
