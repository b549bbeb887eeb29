import type { Block } from '../geometry/shapes'
import type { SizeAxis } from '../measurement/types'
import { TRIAL_IDS, type TrialId } from '../knowledge/checks'
import type { NumberKey } from '../recipe/settings'
import type { CriterionId } from './criteria'
import type { DrawnUnit } from '../geometry/mesh/units'
import type { Layout } from '../planner/layout'
import type { Changes } from '../recipe/edits'

/** A trial that is a test piece; a designed set is prints of the part itself. Ids are stable. */
export type PieceId = Exclude<TrialId, 'designed-set'>
/** Every test piece, in the order a pair is usually tuned. */
export const PIECE_IDS = TRIAL_IDS.filter((id): id is PieceId => id !== 'designed-set')

/** Sizes that are drawn into a piece, besides the settings that can be stepped. */
export const DRAWN_KEYS = ['meltRate', 'gap', 'span', 'length', 'posts'] as const
/** What is stepped from place to place: a setting, or a size that is drawn into the piece. */
export type VariedKey = NumberKey | (typeof DRAWN_KEYS)[number]

/** One place of a piece that is looked at or measured by itself. */
export interface Cell {
  id: string
  name: string
  /** What is special here. */
  values: Partial<Record<VariedKey, number>>
  box: Block
  /** Ribs or ticks that tell it from the others on the printed piece; 0 for none. */
  marks: number
  /** What it should measure, mm, where it is measured. */
  nominal?: number
  /** What is measured: an outside size, a gap or hole, a wall, a weight in grams. */
  measure?: 'outside' | 'inside' | 'wall' | 'grams'
  axis?: SizeAxis
  /** Measured within the lowest layers. */
  base?: boolean
  /** A pin or a bore. */
  round?: boolean
  /** mm/s the walls it is measured between are printed at. */
  speed?: number
  /** What kind of joint it is. */
  joint?: JointShape
}

/** Kinds of joint: a pin or a tongue in a gap of its own shape, upright or lying on its side. */
export const JOINT_SHAPES = ['round-upright', 'flat-upright', 'flat-lying', 'round-lying'] as const
export type JointShape = (typeof JOINT_SHAPES)[number]
/** What each kind is called. */
export const JOINT_WORDS: Record<JointShape, string> = {
  'round-upright': 'Upright pin',
  'flat-upright': 'Upright tongue',
  'flat-lying': 'Lying tongue',
  'round-lying': 'Lying axle',
}

/** What is stepped, from where to where. */
export interface Steps {
  key: VariedKey
  from: number
  to: number
  count: number
}

/** A person's own part as the piece: the steps go up its height. */
export interface OnPart {
  partId: string
  name: string
  version: number
  sha256: string
  unit: DrawnUnit
  layout: Layout
  /** What of the recipe is otherwise for this part. */
  own: Changes
  /** Heights between which the steps lie, mm. */
  from: number
  to: number
}

/** A finished file as the piece: the steps go up its height, and all else in it stays as it is. */
export interface OnFile {
  name: string
  sha256: string
  /** Heights between which the steps lie, mm. */
  from: number
  to: number
}

/** What a piece is made from, besides machine and recipe. */
export interface PiecePlan {
  piece: PieceId
  steps: Steps
  /** A second thing stepped across, where the piece can. */
  across?: Steps
  /** A first look with lower bands, or as many steps as there can be; usual where it is left out. */
  extent?: Extent
  /** The person's own part instead of ours. */
  onPart?: OnPart
  /** A finished file instead of ours. */
  onFile?: OnFile
  /** Kinds of joint; upright pins where it is left out. */
  joints?: JointShape[]
}

export const EXTENTS = ['quick', 'usual', 'thorough'] as const
export type Extent = (typeof EXTENTS)[number]

export interface Piece {
  id: PieceId
  gcode: string
  cells: Cell[]
  /** Seen from the front or from above, when it is drawn. */
  view: 'front' | 'above'
  box: Block
  /** Where the head lays over air on purpose: bridges, fins, rods. */
  open: Block[]
  /** Rough time, s, without ramps. */
  seconds: number
}

/** What a person noted of one cell. */
export interface CellReading {
  grades: Partial<Record<CriterionId, number>>
  /** Repeated measurements, in mm or g as the cell says. */
  measures: number[]
  /** Looked at, but not to be told. */
  unsure: boolean
  /** Left out on purpose. */
  skipped: boolean
  note: string
}
export const NO_READING: CellReading = { grades: {}, measures: [], unsure: false, skipped: false, note: '' }
export type Readings = Partial<Record<string, CellReading>>

/** A trial as far as its outcome needs it. */
export interface ReadTrial {
  number: number
  plan: PiecePlan
  cells: readonly Cell[]
  readings: Readings
  /** Step of the caliper's or scale's display. */
  resolution: number
  /** ISO time it was made. */
  createdAt?: string
}

/** The values of evenly spaced steps, first to last. */
export function stepValues({ from, to, count }: Pick<Steps, 'from' | 'to' | 'count'>): number[] {
  if (count === 1) return [from]
  return Array.from({ length: count }, (_, i) => Number((from + ((to - from) * i) / (count - 1)).toFixed(6)))
}
