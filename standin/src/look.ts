import { normalStream, randomStream } from '@verimend/core/statistics'
import type { PrintedPart } from './part'
import type { World } from './world'

/** A block of a part that is looked at, mm on the bed. */
export interface Region {
  x0: number
  x1: number
  y0: number
  y1: number
  z0: number
  z1: number
}

/** What is to be seen in a region; nought is none. */
export interface Seen {
  /** mm³ of threads. */
  threads: number
  /** Mean growing together, 0 to 1; null where nothing lies on anything. */
  bond: number | null
  /** mm that what hangs has sagged, on the mean and at most. */
  sag: number
  deepest: number
  /** Gloss, and how unlike its layers are in it. */
  gloss: number
  unevenGloss: number
  /** mm by which the face is rough: widths that differ, and swings after corners. */
  rough: number
  ripples: number
  /** What came out against what was asked. */
  fed: number
  /** mm³ too much, and too little, where lines begin. */
  bumps: number
  dents: number
}

const within = (r: Region, x: number, y: number, z: number, margin = 0) =>
  x >= r.x0 - margin &&
  x <= r.x1 + margin &&
  y >= r.y0 - margin &&
  y <= r.y1 + margin &&
  z > r.z0 - 1e-6 &&
  z <= r.z1 + 1e-6

/** mm round a region in which threads still belong to it. */
const REACH = 4

/** Looks at a region of a part. */
export function lookAt(part: PrintedPart, region: Region): Seen {
  const { x0, y0, x1, y1, z, width, h, bond, sag, gloss, ripple, fed, seen, over, count } = part
  let [welds, weldWay, hung, hungWay, deepest] = [0, 0, 0, 0, 0]
  let [faceWay, shine, shine2, wide, wide2, swing, came, way] = [0, 0, 0, 0, 0, 0, 0, 0]
  const byLayer = new Map<number, { way: number; gloss: number }>()
  for (let i = 0; i < count; i++) {
    if (!within(region, (x0[i] + x1[i]) / 2, (y0[i] + y1[i]) / 2, z[i])) continue
    const d = Math.hypot(x1[i] - x0[i], y1[i] - y0[i])
    way += d
    came += d * fed[i]
    if (over[i]) {
      hung += d * sag[i]
      hungWay += d
      deepest = Math.max(deepest, sag[i])
    } else if (z[i] > h[i] + 1e-3) {
      welds += d * bond[i]
      weldWay += d
    }
    if (!seen[i]) continue
    faceWay += d
    shine += d * gloss[i]
    wide += d * width[i]
    wide2 += d * width[i] * width[i]
    swing += d * ripple[i]
    const layer = byLayer.get(z[i]) ?? { way: 0, gloss: 0 }
    layer.way += d
    layer.gloss += d * gloss[i]
    byLayer.set(z[i], layer)
  }
  const mean = faceWay ? shine / faceWay : 0
  for (const l of byLayer.values()) shine2 += l.way * (l.gloss / l.way - mean) ** 2
  const w = faceWay ? wide / faceWay : 0
  const blobs = part.blobs.filter((b) => within(region, b.x, b.y, b.z, 1))
  return {
    threads: part.strings
      .filter((s) => within(region, (s.x0 + s.x1) / 2, (s.y0 + s.y1) / 2, s.z, REACH))
      .reduce((sum, s) => sum + s.volume, 0),
    bond: weldWay ? welds / weldWay : null,
    sag: hungWay ? hung / hungWay : 0,
    deepest,
    gloss: mean,
    unevenGloss: faceWay ? Math.sqrt(shine2 / faceWay) : 0,
    rough: faceWay ? Math.sqrt(Math.max(0, wide2 / faceWay - w * w)) / 2 : 0,
    ripples: faceWay ? swing / faceWay : 0,
    fed: way ? came / way : 0,
    bumps: blobs.reduce((s, b) => s + Math.max(0, b.volume), 0),
    dents: blobs.reduce((s, b) => s + Math.max(0, -b.volume), 0),
  }
}

/** mm a caliper's reading scatters by hand. From memory. */
const HAND = 0.015

/**
 * What a caliper says between two faces of a part: the outermost plastic within a region across an axis, with the bead's spread,
 * what has shrunk, and a hand that is never quite the same.
 * @param step of the display, mm
 * @param repeat which reading of the same place it is
 * @returns null where there is nothing between the jaws
 */
export function caliper(
  part: PrintedPart,
  world: World,
  shrinks: number,
  region: Region,
  axis: 'x' | 'y' | 'z',
  step = 0.01,
  repeat = 0,
): number | null {
  let [low, high] = [Infinity, -Infinity]
  const { x0, y0, x1, y1, z, h, width, count } = part
  for (let i = 0; i < count; i++) {
    if (!within(region, (x0[i] + x1[i]) / 2, (y0[i] + y1[i]) / 2, z[i])) continue
    if (axis === 'z') {
      low = Math.min(low, z[i] - h[i])
      high = Math.max(high, z[i])
      continue
    }
    const [a, b] = axis === 'x' ? [x0[i], x1[i]] : [y0[i], y1[i]]
    const half = width[i] / 2
    low = Math.min(low, a - half, b - half)
    high = Math.max(high, a + half, b + half)
  }
  if (!(high > low)) return null
  const spread = axis === 'z' ? 0 : 2 * world.spread
  const size = (high - low) * (1 - (shrinks / 100) * world.roll.shrinks) + spread
  const normal = normalStream(
    randomStream((world.seed ^ (repeat * 2654435761) ^ Math.round(size * 1e4)) >>> 0),
  )
  return Number((Math.round((size + HAND * normal()) / step) * step).toFixed(4))
}
