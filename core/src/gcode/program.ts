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

export interface ReadingFault {
  line: number
  text: string
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

export type GcodeFaultCode = 'empty' | 'binary' | 'packed' | 'too-large' | 'not-gcode' | 'no-movement'

/** A file that cannot be read; the message is one sentence for the person. */
export class GcodeError extends Error {
  constructor(
    readonly code: GcodeFaultCode,
    message: string,
  ) {
    super(message)
    this.name = 'GcodeError'
  }
}
