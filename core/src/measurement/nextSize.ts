import { invert } from './elimination'
import { SIZE_TERMS, columnsOf, rowOf, type SizeTerm, type Taken } from './sizeTerms'
import type { SizeReading } from './types'

/** A size worth measuring next, and the term it tells of. */
export interface SizeSuggestion {
  axis: SizeReading['axis']
  kind: 'outside' | 'inside' | 'wall'
  place: SizeReading['place']
  nominal: number
  term: SizeTerm
}

/** A wall, which tells what of a contour is the flow's. @param width mm of a line */
export const wallNext = (width = 0.45): SizeSuggestion => ({
  axis: 'x',
  kind: 'wall',
  place: 'above',
  nominal: Number(width.toFixed(2)),
  term: 'contour',
})

/** Lengths a caliper reads well, mm. */
const SUGGESTED = [10, 20, 40, 60, 100]

/**
 * The one more size that shrinks the widest open interval most: a rank-one update of the inverse information
 * (Sherman & Morrison 1950), with next to nothing known of what cannot be told apart yet.
 */
export function bestNext(
  taken: readonly Taken[],
  present: readonly SizeTerm[],
  sd: number,
): SizeSuggestion | null {
  const terms = SIZE_TERMS.filter(
    (t) => present.includes(t) || t === 'contour' || t === 'scaleX' || t === 'scaleY',
  )
  // widths that would matter: a twentieth of a millimetre, or a tenth of a percent
  const matters: Record<SizeTerm, number> = {
    contour: 0.05,
    hole: 0.05,
    flare: 0.05,
    // it says nothing of what a recipe can change
    corner: Infinity,
    height: 0.1,
    scaleX: 0.001,
    scaleY: 0.001,
    scaleZ: 0.002,
    skew: 0.001,
    speed: 0.02,
  }
  const n = terms.length
  const information = Array.from({ length: n }, (_, i) =>
    Array.from({ length: n }, (_, j) => (i === j ? (0.02 * sd * sd) / matters[terms[i]] ** 2 : 0)),
  )
  for (const { reading, weight } of taken) {
    const x = rowOf(reading, terms)
    for (let i = 0; i < n; i++) for (let j = 0; j < n; j++) information[i][j] += weight * x[i] * x[j]
  }
  const inverse = invert(information)
  if (!inverse) return null
  const width = (j: number) => (sd * Math.sqrt(Math.max(0, inverse[j][j]))) / matters[terms[j]]
  let open = 0
  for (let j = 1; j < n; j++) if (width(j) > 1.1 * width(open)) open = j
  if (width(open) < 0.6) return null
  let best: SizeSuggestion | null = null
  let gain = 0
  for (const axis of ['x', 'y', 'z', 'd1'] as const)
    for (const kind of ['outside', 'inside'] as const)
      for (const place of ['above', 'base'] as const)
        for (const nominal of SUGGESTED) {
          if (kind === 'inside' && (axis === 'z' || axis === 'd1' || place === 'base')) continue
          const shape = { axis, kind, place, round: false, nominal }
          // what brings a term of its own tells nothing of the others
          const own = columnsOf(shape)
          if (SIZE_TERMS.some((t) => own[t] !== undefined && !terms.includes(t))) continue
          const x = rowOf(shape, terms)
          const v = inverse.map((r) => r.reduce((s, a, j) => s + a * x[j], 0))
          const shrink = v[open] ** 2 / (1 + x.reduce((s, a, j) => s + a * v[j], 0))
          if (shrink > gain * 1.02) {
            gain = shrink
            best = { axis, kind, place, nominal, term: terms[open] }
          }
        }
  return best
}
