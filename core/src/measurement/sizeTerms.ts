import type { SizeReading } from './types'

/**
 * What sizes are taken apart into: a constant of outsides and of insides, one in proportion along each axis, a constant
 * of heights, what the base stands out by, the angle between the axes, what rounded corners take from a diagonal, and
 * what each 10 mm/s of speed moves a face by.
 */
export const SIZE_TERMS = [
  'contour',
  'hole',
  'scaleX',
  'scaleY',
  'height',
  'scaleZ',
  'flare',
  'skew',
  'corner',
  'speed',
] as const
export type SizeTerm = (typeof SIZE_TERMS)[number]

/** A size as the terms see it. */
export type SizeShape = Pick<SizeReading, 'axis' | 'kind' | 'place' | 'round' | 'nominal'> & {
  /** Tens of mm/s its faces were printed faster than the others on average; left out where speeds do not enter. */
  pace?: number
}

/** How a term enters a size. */
export function columnsOf(r: SizeShape): Partial<Record<SizeTerm, number>> {
  const { axis, kind, nominal: length } = r
  const across = axis === 'd1' || axis === 'd2'
  // faces at both ends of a square's diagonal move out by √2 of what its sides do
  const ends = across && !r.round ? Math.SQRT2 : 1
  const skew = axis === 'd1' ? length / 2 : -length / 2
  return {
    ...(axis === 'x' && { scaleX: length }),
    ...(axis === 'y' && { scaleY: length }),
    ...(axis === 'z' && { scaleZ: length }),
    // a bead has round ends: a corner never reaches the drawn one. From one diagonal alone that is not told from the angle
    ...(across && !r.round && { corner: 1 }),
    ...(across && { scaleX: length / 2, scaleY: length / 2, skew }),
    ...(axis === 'z' && kind === 'outside' && { height: 1 }),
    ...(axis !== 'z' && kind === 'outside' && { contour: ends }),
    ...(axis !== 'z' && kind === 'inside' && { hole: ends }),
    ...(axis !== 'z' && kind === 'outside' && r.place === 'base' && { flare: ends }),
    // a bead that is wider makes outsides larger and insides smaller
    ...(axis !== 'z' &&
      r.pace !== undefined &&
      (kind === 'outside' || kind === 'inside') && { speed: (kind === 'outside' ? ends : -ends) * r.pace }),
  }
}

/** A size as a row of a design over some terms. */
export const rowOf = (r: SizeShape, terms: readonly SizeTerm[]): number[] => {
  const columns = columnsOf(r)
  return terms.map((t) => columns[t] ?? 0)
}

/** Fastest over slowest face from which on speeds are taken apart from the rest. Common practice, no source. */
const SPEEDS_APART = 1.15

/** Readings with how much faster than the others their faces were printed; as they are where that is not known or alike. */
export function paced(readings: readonly SizeReading[]): (SizeReading & { pace?: number })[] {
  const told = readings.filter((r) => r.axis !== 'z' && r.kind !== 'wall').flatMap((r) => r.speed ?? [])
  if (told.length < 3 || Math.max(...told) < SPEEDS_APART * Math.min(...told)) return [...readings]
  const mean = told.reduce((s, v) => s + v, 0) / told.length
  // a face whose speed nobody knows stands at the mean
  return readings.map((r) => ({ ...r, pace: ((r.speed ?? mean) - mean) / 10 }))
}

/** A size that was measured, with its mean error and how much it counts. */
export interface Taken {
  reading: SizeReading & { pace?: number }
  error: number
  weight: number
}
