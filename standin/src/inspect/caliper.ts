import { normalStream, randomStream } from '@verimend/core/statistics'
import { polymerOf } from '../polymer'
import type { PrintedPart } from '../part'
import type { World } from '../world'
import { within, type Region } from './look'

/** What can be measured with a caliper: over it, within it, or the thickness of its walls. */
export type Span = 'outside' | 'inside' | 'wall'
export type Axis = 'x' | 'y' | 'z' | 'd1' | 'd2'

/** mm a caliper's reading scatters by hand. From memory. */
const HAND = 0.012
/** Jaws rest on what stands out, not on the farthest speck: this share of the length lies inside them. From memory. */
const RESTS_ON = 0.8

/** The value below which a share of the weight lies. */
function quantile(list: { at: number; weight: number }[], share: number): number {
  list.sort((a, b) => a.at - b.at)
  const total = list.reduce((s, v) => s + v.weight, 0)
  let sum = 0
  for (const v of list) {
    sum += v.weight
    if (sum >= share * total - 1e-12) return v.at
  }
  return list[list.length - 1].at
}

/**
 * What lies between the jaws, mm, as it is: outermost plastic over a region, innermost within it, or the thickness of the walls
 * round it. Cold, so with what has shrunk, and with what a bead spreads.
 * @returns null where there is nothing between the jaws
 */
export function spanOf(
  part: PrintedPart,
  world: World,
  region: Region,
  axis: Axis,
  span: Span,
): number | null {
  const { x0, y0, x1, y1, z, h, width, count } = part
  const own = 1 - (polymerOf(world.family).shrinks / 100) * world.roll.shrinks
  // walls that stand free are not pushed outwards by what lies within
  const spread = span === 'wall' ? 0 : world.spread
  if (axis === 'z') {
    let [low, high] = [Infinity, -Infinity]
    for (let i = 0; i < count; i++) {
      if (!within(region, (x0[i] + x1[i]) / 2, (y0[i] + y1[i]) / 2, z[i])) continue
      low = Math.min(low, z[i] - h[i])
      high = Math.max(high, z[i])
    }
    return high > low ? (high - low) * (1 - (1 - own) * 0.5) * world.frame.scale[2] : null
  }
  // across the axis: how far along it a stretch reaches, and where its middle lies
  const [ux, uy] =
    axis === 'x'
      ? [1, 0]
      : axis === 'y'
        ? [0, 1]
        : axis === 'd1'
          ? [Math.SQRT1_2, Math.SQRT1_2]
          : [Math.SQRT1_2, -Math.SQRT1_2]
  const along = (x: number, y: number) => x * ux + y * uy
  const crossing: { a: number; b: number; half: number; weight: number }[] = []
  const [lows, highs, innerLows, innerHighs]: { at: number; weight: number }[][] = [[], [], [], []]
  for (let i = 0; i < count; i++) {
    if (!within(region, (x0[i] + x1[i]) / 2, (y0[i] + y1[i]) / 2, z[i])) continue
    const d = Math.hypot(x1[i] - x0[i], y1[i] - y0[i])
    if (!(d > 0)) continue
    const [a, b] = [along(x0[i], y0[i]), along(x1[i], y1[i])]
    const half = width[i] / 2 + spread
    // of lines that cross the jaws only; a round thing touches them with what is near its outermost place
    const across = 1 - Math.abs(b - a) / d
    if (across < 0.15) continue
    crossing.push({ a, b, half, weight: d * across })
  }
  // faces lie to both sides of the middle of what is between the jaws, wherever the region lies
  const ends = crossing.flatMap(({ a, b }) => [a, b])
  const middle =
    (ends.reduce((m, v) => Math.min(m, v), Infinity) + ends.reduce((m, v) => Math.max(m, v), -Infinity)) / 2
  for (const { a, b, half, weight } of crossing) {
    const [low, high] = [Math.min(a, b) - half, Math.max(a, b) + half]
    if ((a + b) / 2 < middle) {
      lows.push({ at: low, weight })
      innerLows.push({ at: high, weight })
    } else {
      highs.push({ at: high, weight })
      innerHighs.push({ at: low, weight })
    }
  }
  if (!lows.length || !highs.length) return null
  const outermost = edge(highs, 1) - edge(lows, -1)
  if (span === 'outside') return outermost > 0 ? outermost * own : null
  const inner = edge(innerHighs, -1) - edge(innerLows, 1)
  if (span === 'inside') return inner > 0 ? inner * own : null
  return ((outermost - inner) / 2) * own
}

/** mm within which plastic belongs to one face. */
const FACE = 0.3

/** Where a jaw rests on one side: on most of what lies at the outermost face. */
function edge(list: { at: number; weight: number }[], side: 1 | -1): number {
  const far = list.reduce((m, v) => (side * v.at > side * m ? v.at : m), list[0].at)
  const face = list.filter((v) => side * (far - v.at) < FACE)
  return quantile(face, side > 0 ? RESTS_ON : 1 - RESTS_ON)
}

/**
 * What a caliper says of what lies between its jaws, with a hand that is never quite the same.
 * @param size mm, as it is: of `spanOf`
 * @param step of the display, mm
 * @param repeat which reading of the same place it is
 */
export function caliper(size: number, world: World, step = 0.01, repeat = 0): number {
  const normal = normalStream(
    randomStream((world.seed ^ (repeat * 2654435761) ^ Math.round(size * 1e4)) >>> 0),
  )
  return Number((Math.round((size + HAND * normal()) / step) * step).toFixed(4))
}

/** g of what lies in a region: heaps and threads counted, as a scale shows it. */
export function weigh(part: PrintedPart, density: number, region: Region, step = 0.01): number {
  const heaps = part.heaps.filter(
    (b) => b.x >= region.x0 && b.x <= region.x1 && b.y >= region.y0 && b.y <= region.y1,
  )
  const grams = (heaps.reduce((s, b) => s + b.volume, 0) * density) / 1000
  return Number((Math.round(grams / step) * step).toFixed(3))
}
