import type { SettingKey } from '../recipe/settings'

export const PIECE_IDS = [
  'first-layer-sheet',
  'temperature-tower',
  'flow-box',
  'retraction-tower',
  'fan-tower',
  'melt-rate-run',
  'pressure-lines',
  'corner-columns',
  'seam-columns',
  'speed-fins',
  'layer-time-pair',
  'bridge-comb',
  'string-posts',
  'size-plate',
  'joint-ladder',
] as const
export type PieceId = (typeof PIECE_IDS)[number]

/** What is stepped from place to place: a setting, or a size that is drawn into the piece. */
export type VariedKey = SettingKey | 'meltRate' | 'gap' | 'span' | 'length' | 'posts'

/** mm on the bed, and in height. */
export interface CellBox {
  x0: number
  y0: number
  x1: number
  y1: number
  z0: number
  z1: number
}

/** One place of a piece that is looked at or measured by itself. */
export interface Cell {
  id: string
  name: string
  /** What is special here. */
  values: Partial<Record<VariedKey, number>>
  box: CellBox
  /** Ribs or ticks that tell it from the others on the printed piece; 0 for none. */
  marks: number
  /** What it should measure, mm, where it is measured. */
  nominal?: number
  /** What is measured: an outside size, a gap or hole, a wall, a weight in grams. */
  measure?: 'outside' | 'inside' | 'wall' | 'grams'
  axis?: 'x' | 'y' | 'z'
}

/** What is stepped, from where to where. */
export interface Steps {
  key: VariedKey
  from: number
  to: number
  count: number
}

/** What a piece is made from, besides machine and recipe. */
export interface PiecePlan {
  piece: PieceId
  steps: Steps
  /** A second thing stepped across, where the piece can. */
  across?: Steps
}

/** A place where plastic is laid over air on purpose. */
export type OpenPlace = CellBox

export interface Piece {
  id: PieceId
  gcode: string
  cells: Cell[]
  /** Seen from the front or from above, when it is drawn. */
  view: 'front' | 'above'
  box: CellBox
  /** Where the head lays over air on purpose: bridges, fins, rods. */
  open: OpenPlace[]
  /** Rough time, s, without ramps. */
  seconds: number
}

/** The values of evenly spaced steps, first to last. */
export function stepValues({ from, to, count }: Pick<Steps, 'from' | 'to' | 'count'>): number[] {
  if (count === 1) return [from]
  return Array.from({ length: count }, (_, i) => Number((from + ((to - from) * i) / (count - 1)).toFixed(6)))
}
