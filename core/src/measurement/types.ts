import type { DiameterReading } from '../material/filament'
import type { Instrument } from './instruments'

/** Direction a length is taken in: along an axis, or across the bed at 45° and 135°. */
export const SIZE_AXES = ['x', 'y', 'z', 'd1', 'd2'] as const
export type SizeAxis = (typeof SIZE_AXES)[number]
/**
 * Outside and inside sizes; a step from one face to the next that looks the same way; the depth of a blind hole; the
 * thickness of a wall of one or more lines.
 */
export const SIZE_KINDS = ['outside', 'inside', 'step', 'depth', 'wall'] as const
export type SizeKind = (typeof SIZE_KINDS)[number]

/** One length of a part. */
export interface SizeReading {
  id: string
  name: string
  axis: SizeAxis
  kind: SizeKind
  /** Within the lowest layers, or above them. */
  place: 'base' | 'above'
  /** A pin or a bore. */
  round: boolean
  /** mm as drawn */
  nominal: number
  /** mm, repeats */
  measures: number[]
  /** mm/s its faces were printed at, where somebody knows. */
  speed?: number
}

/** A size of the real part, to be foretold. */
export interface WantedSize {
  name: string
  nominal: number
  kind: 'outside' | 'inside'
  axis: 'x' | 'y' | 'z'
}

/** A place of the bed. mm from the bed's origin; up is towards the nozzle. */
export interface BedPoint {
  x: number
  y: number
  /** Height of the surface, mm. */
  z: number
  /** Standard uncertainty, mm. */
  u: number
}
export const FEELS = ['loose', 'drags', 'tight'] as const
/** A gap felt with a sheet, or measured. */
export interface FeltGap {
  x: number
  y: number
  feel: (typeof FEELS)[number] | null
  /** mm, where it was measured. */
  gap: number | null
}

export interface RippleReading {
  /** mm/s */
  speed: number
  /** mm from crest to crest */
  spacing: number
  /** mm, height of the first crest; null: not told. */
  height: number | null
}

/** What was measured, as it was noted. */
export type Measured =
  | { kind: 'sizes'; instrument: Instrument; readings: SizeReading[]; wanted: WantedSize[] }
  | { kind: 'bed'; from: 'grid'; points: BedPoint[] }
  | { kind: 'bed'; from: 'felt'; sheet: number; gaps: FeltGap[] }
  | { kind: 'feed'; asked: number; fed: number[]; steps: number | null }
  | { kind: 'purge'; fed: number; grams: number[]; resolution: number }
  | { kind: 'drying'; before: number; after: number; spool: number | null; resolution: number }
  | { kind: 'roll'; gross: number; spool: number }
  | {
      kind: 'diameter'
      /** mm, one way across and the other where it was turned. */
      places: DiameterReading[]
      resolution: number
    }
  | { kind: 'thread'; diameters: number[]; resolution: number }
  | { kind: 'heater'; of: 'nozzle' | 'bed'; temperatures: number[]; interval: number }
  | {
      kind: 'bands'
      /** mm: heights, or places along a wall. */
      heights: number[]
      spacing: { value: number; u: number } | null
      /** Which way they follow one another; up the part where it is left out. */
      along?: 'height' | 'wall'
    }
  | { kind: 'ripples'; readings: RippleReading[]; allowed: number }
export type MeasuredKind = Measured['kind']
export const MEASURED_KINDS = [
  'sizes',
  'bed',
  'feed',
  'purge',
  'drying',
  'roll',
  'diameter',
  'thread',
  'heater',
  'bands',
  'ripples',
] as const satisfies readonly MeasuredKind[]
export type MeasuredOf<Kind extends MeasuredKind> = Extract<Measured, { kind: Kind }>
