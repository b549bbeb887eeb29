import { reasonsOf, type Reason, type ReasonArguments } from '../quantity/reason'

/** What a move is. Kept as small integers so that a million moves stay small. */
export const MoveKind = {
  /** Position is set without a known path (homing). */
  Jump: 0,
  /** Moves without feeding. */
  Travel: 1,
  /** Moves and feeds. */
  Extrude: 2,
  /** Pulls filament back, head still. */
  Retract: 3,
  /** Feeds with the head still: the restart after a pull-back, or a purge. */
  Feed: 4,
  /** Head still for the time in `speed` (seconds). */
  Dwell: 5,
  /** Moves while pulling back. */
  RetractMoving: 6,
} as const
export type MoveKind = (typeof MoveKind)[keyof typeof MoveKind]

/** What the machine was set to when a move ran; moves share these by index. */
export interface MachineState {
  tool: number
  /** °C targets; null until the file sets one. */
  nozzle: number | null
  bed: number | null
  chamber: number | null
  /** Fan duty, 0 to 1. */
  fan: number
  /** mm/s²; null until set. */
  printAcceleration: number | null
  travelAcceleration: number | null
  /** Pressure compensation, s; null until set. */
  pressure: number | null
}

/** What can be wrong with a line without ending the reading, with the values its sentence needs. */
export interface LineFaults {
  'no-word': object
  exponent: object
  'exponent-unclear': object
  'axis-twice': object
  'axis-without-number': object
  'off-machine': { coordinate: number }
  'much-filament': { length: number }
  'arc-plane': object
  'arc-radius-small': object
  'arc-without-centre': object
}
export interface ReadingFault {
  line: number
  reason: Reason
}

/** A file's moves as a structure of arrays, in mm, mm/s and mm of filament. Move i starts where i − 1 ends. */
export interface Program {
  count: number
  x: Float32Array
  y: Float32Array
  z: Float32Array
  /** Filament fed by the move, mm; negative while pulling back. */
  e: Float32Array
  /** mm/s asked for; seconds for a dwell. */
  speed: Float32Array
  kind: Uint8Array
  line: Uint32Array
  state: Uint32Array
  states: MachineState[]
  /** S of the fan command at full duty: 255, or 1 where the file speaks in fractions. */
  fanScale: number
  /** Heaters are spoken to by their tool: each tool has its own. */
  heaterPerTool: boolean
  lines: number
  bytes: number
  /** Words and codes that mean nothing to this reader, with how often they stood. */
  unknown: Map<string, number>
  faultCount: number
  /** The first faults, for the person. */
  faults: ReadingFault[]
  style: {
    inches: boolean
    arcs: boolean
    comments: boolean
    relativeFeed: boolean
    absoluteFeed: boolean
    firmwareRetraction: boolean
    /** mm, from the file's own M207; null where the file does not say. */
    firmwareRetractLength: number | null
    volumetric: boolean
    pauses: number
    tools: number
  }
}

/** Why a file cannot be read at all, with the values its sentence needs. */
export interface GcodeFaults {
  empty: object
  binary: object
  packed: object
  'too-large': { bytes: number }
  'too-many-moves': { moves: number }
  'not-gcode': object
  'no-movement': object
  'nothing-fed': object
}
const fault = reasonsOf<GcodeFaults>()

/** A file that cannot be read. */
export class GcodeError extends Error {
  readonly reason: Reason

  constructor(...given: ReasonArguments<GcodeFaults>) {
    super(given[0])
    this.name = 'GcodeError'
    this.reason = fault(...given)
  }
}
