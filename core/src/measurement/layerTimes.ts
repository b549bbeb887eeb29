import { correlate } from '../toolpath/correlate'
import type { LayerTable } from '../toolpath/table'

/** Layers at bands take longer or shorter than the others. */
export interface LayerTimeStep {
  /** s a layer takes at the bands, and elsewhere. */
  inside: number
  outside: number
  /** Chance of so strong a match if the bands lay anywhere else. */
  p: number
}

/** A band is read to about so many layers up and down. */
const READ_TO = 1.5
/** Chance, and strength of the match, from which on the times account for the bands. Common practice, no source. */
const BY_ACCIDENT = 0.05
const STRONG = 0.3

/**
 * Whether the time of layers steps where bands stand: the same correlation as for heights marked beside a path file.
 * @param heights mm from the bed
 * @returns null where it does not, or too few layers lie at them
 */
export function stepsOfLayerTime(heights: readonly number[], layers: LayerTable): LayerTimeStep | null {
  if (!heights.length || layers.z.length < 6) return null
  const half = READ_TO * (layers.height[Math.floor(layers.height.length / 2)] ?? 0.2)
  const marks = heights.map((h) => ({ from: h - half, to: h + half }))
  const time = correlate(layers, marks).find((c) => c.id === 'seconds')
  if (!time || time.p > BY_ACCIDENT || time.strength < STRONG) return null
  return { inside: time.inside, outside: time.outside, p: time.p }
}
