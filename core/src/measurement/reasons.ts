import { reasonsOf } from '../quantity/reason'

/** What a measurement says, doubts or cannot: with the values its sentence needs. Lengths in mm unless named. */
export interface MeasurementReasons {
  /** A term of the sizes stands out, with half its interval. */
  'term-stands': { term: string; value: number; plusMinus: number }
  'not-apart': { terms: readonly string[] }
  'axes-alike': { value: number; plusMinus: number }
  'axes-differ': { x: number; y: number; p: number }
  'like-shrink': { value: number; card: number; family: string }
  'machine-scale': { axis: string; value: number }
  'part-of-flow': { wall: number; contour: number }
  'speeds-unequal': { ratio: number }
  /** mm/s of the slowest and fastest faces; by how much the fast ones stand out further, mm. */
  'speed-spreads': { slow: number; fast: number; spread: number }
  'wall-would-tell': object
  'zero-would-tell': object
  'not-round': { spread: number; nominal: number }
  'as-scale-or-contour': { scale: number; contour: number }
  'soft-takes-scale': object
  'leaves-after': { plusMinus: number }
  'nothing-significant': object

  'too-few-sizes': { count: number }
  'no-number': object
  'below-zero': object
  'maybe-inches': { value: number; as: number }
  'maybe-swapped': { other: string }
  'far-off': { nominal: number; value: number }
  'repeats-apart': { spread: number }

  'grid-empty': object
  'grid-row-short': { row: number; count: number; wanted: number }
  'grid-not-number': { row: number; text: string }
  'grid-commas': { row: number }
  'grid-too-large': object
  'grid-no-shape': object
  'grid-far': { value: number }
  'bed-too-few': { count: number }
  'bed-in-line': object
  'bed-tilt': { across: number; plusMinus: number }
  'bed-flat': { plusMinus: number }
  'bed-bow': { bow: number; u: number }
  'bed-odd': { x: number; y: number; off: number }
  'bow-not-cured': { bow: number }
  'screw-turn': { screw: string; turns: number; clockwise: boolean; up: boolean; move: number }
  'screw-stays': { screw: string }
  'first-height-buries': { height: number; residual: number }
  'nothing-buries': { residual: number; most: number }
  'gap-mean': { gap: number; change: number }
  'screw-drifts': { screw: string; perWeek: number; p: number }

  'feed-factor': { factor: number; plusMinus: number; steps: number | null }
  'feed-right': { plusMinus: number }
  'read-once-more': object
  'repeats-enough': { count: number; wanted: number }
  'repeats-more': { count: number; wanted: number }
  'purge-share': { share: number; plusMinus: number }
  'density-is': { density: number; plusMinus: number }
  'water-lost': { share: number; plusMinus: number }
  'dry-enough': object
  'was-wet': object
  'gained-weight': object
  'metres-left': { metres: number; grams: number }
  'diameter-is': { mean: number; plusMinus: number; count: number; nominal: number }
  /** % of the area that the nominal diameter has; the flow that makes up for it, % of what stands. */
  'diameter-area': { share: number; flow: number }
  'diameter-right': object
  'diameter-uneven': { spread: number }
  'diameter-oval': { ovality: number }
  'bore-is': { bore: number; plusMinus: number; nominal: number }
  'bore-worn': object
  'bore-narrow': object
  'bore-fits': object
  'heater-swing': { mean: number; swing: number; period: number | null }
  'heater-steady': { mean: number; swing: number }
  'too-few-readings': { count: number; wanted: number }

  'spacing-is': { spacing: number; plusMinus: number; count: number }
  'no-spacing': { p: number }
  'cause-fits': { cause: string; period: number; off: number }
  'none-fits': object
  /** s a layer takes at the bands and between them. */
  'layer-times-step': { inside: number; outside: number; p: number }
  'frequency-constant': { frequency: number; plusMinus: number }
  'spacing-constant': { spacing: number; pitch: number | null }
  'cannot-tell-ripples': object
  'acceleration-allows': { acceleration: number; allowed: number }
}
export const measuredReason = reasonsOf<MeasurementReasons>()
