import type { SizeReading } from './types'

/**
 * What sizes are taken apart into: a constant of outsides and of insides, one in proportion along each axis, a constant
 * of heights, what the base stands out by, and the angle between the axes.
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
] as const
export type SizeTerm = (typeof SIZE_TERMS)[number]

/** How a term enters a size. */
export function columnsOf(
  r: Pick<SizeReading, 'axis' | 'kind' | 'place' | 'round' | 'nominal'>,
): Partial<Record<SizeTerm, number>> {
  const { axis, kind, nominal: length } = r
  const across = axis === 'd1' || axis === 'd2'
  // faces at both ends of a square's diagonal move out by √2 of what its sides do
  const ends = across && !r.round ? Math.SQRT2 : 1
  const skew = axis === 'd1' ? length / 2 : -length / 2
  return {
    ...(axis === 'x' && { scaleX: length }),
    ...(axis === 'y' && { scaleY: length }),
    ...(axis === 'z' && { scaleZ: length }),
    ...(across && { scaleX: length / 2, scaleY: length / 2, skew }),
    ...(axis === 'z' && kind === 'outside' && { height: 1 }),
    ...(axis !== 'z' && kind === 'outside' && { contour: ends }),
    ...(axis !== 'z' && kind === 'inside' && { hole: ends }),
    ...(axis !== 'z' && kind === 'outside' && r.place === 'base' && { flare: ends }),
  }
}

/** A size as a row of a design over some terms. */
export const rowOf = (r: Parameters<typeof columnsOf>[0], terms: readonly SizeTerm[]): number[] => {
  const columns = columnsOf(r)
  return terms.map((t) => columns[t] ?? 0)
}

/** A size that was measured, with its mean error and how much it counts. */
export interface Taken {
  reading: SizeReading
  error: number
  weight: number
}
