import type { Ring } from '../geometry/kernel'
import { perimeterOf, startedAt, type Point } from '../geometry/shapes'
import { solidSpacing } from '../extrusion/bead'
import { bridgeAngle, hatch, isInside, toAndFro, type Line } from './fill'
import { gyroidLines } from './gyroid'
import { isOuter, turnAt, widthsOf, type LayerRegions, type Patch } from './regions'
import type { PartSettings } from './settings'

/** What a line is laid for. */
export type StrokeKind =
  | 'skirt'
  | 'brim'
  | 'draught-wall'
  | 'raft-bottom'
  | 'raft-top'
  | 'support'
  | 'outer'
  | 'inner'
  | 'solid'
  | 'top'
  | 'bridge'
  | 'sparse'

/** A line that is laid without a stop. */
export interface Stroke {
  kind: StrokeKind
  points: Point[]
  /** Returns to its first point. */
  closed: boolean
  /** mm */
  width: number
  /** Times the flow of its kind: lines that were moved to fill a patch exactly lie a little closer or wider. */
  share: number
  /** A wall that hangs past so many degrees from upright for a good part of its way. */
  hangs?: 45 | 60
  /** Rises by the layer's height on its way. */
  rises?: true
  /** A loop short enough to be laid at the speed of small loops. */
  small: boolean
}

/** A layer with its lines, in the order they are laid. */
export interface StrokeLayer {
  index: number
  /** Top over the bed, and height, mm. */
  z: number
  h: number
  strokes: Stroke[]
  /** The part's first layer, where it lies on a raft. */
  overRaft?: boolean
}

/** Degrees to X that solid layers take in turn. */
export const SOLID_ANGLES = [45, 135]
/** A seam is tucked into a corner that turns at least so much, degrees. Common practice, no source. */
const CORNER = 25

/** Where the loops of a layer begin. */
export interface SeamMemory {
  /** Where the last seam was, to stay near it. */
  last: Point | null
}

/** Lines of a layer's regions: walls island by island, then what fills them. */
export function strokesOf(l: LayerRegions, s: PartSettings, seam: SeamMemory): StrokeLayer {
  const first = l.index === 0
  const widths = widthsOf(s, first)
  const strokes: Stroke[] = []
  for (const island of islandsOf(l.walls)) strokes.push(...wallStrokes(island, s, l, widths, seam))
  for (const { points, closed, width } of l.thin)
    strokes.push({ kind: 'outer', points, closed, width, share: 1, small: false })
  const close = solidSpacing(widths.solid, l.h)
  const angle = SOLID_ANGLES[l.index % 2]
  const patch = (kind: 'solid' | 'bridge' | 'top', p: Patch, a: number) => {
    const width = kind === 'top' ? widths.top : widths.solid
    strokes.push(...closeStrokes(kind, p, a, solidSpacing(width, l.h), width))
  }
  for (const p of l.solid) patch('solid', p, angle)
  for (const p of l.bridge) {
    const found = bridgeAngle(p, l.below, close)
    patch('bridge', p, found?.angle ?? angle)
  }
  for (const p of l.top) patch('top', p, angle)
  if (s.sparseDensity > 0 && l.sparse.length) {
    const apart = (solidSpacing(widths.sparse, l.h) * 100) / s.sparseDensity
    for (const points of sparseLines(s.sparseKind, l.sparse.flat(), apart, l))
      strokes.push({ kind: 'sparse', points, closed: false, width: widths.sparse, share: 1, small: false })
  }
  return { index: l.index, z: l.z, h: l.h, strokes: ordered(strokes) }
}

/** Lines of the infill: one direction a layer, both in each, or the waves of a gyroid. */
function sparseLines(
  kind: PartSettings['sparseKind'],
  inside: readonly Ring[],
  apart: number,
  { index, z, h }: LayerRegions,
): Point[][] {
  if (kind === 'gyroid') return gyroidLines(inside, apart, z - h / 2)
  if (kind === 'grid')
    return SOLID_ANGLES.flatMap((angle) => toAndFro(hatch(inside, angle, 2 * apart), 3.2 * apart, inside))
  // across the one below; joined along the wall where they are near
  return toAndFro(hatch(inside, SOLID_ANGLES[index % 2], apart), 1.6 * apart, inside)
}

/** Walls that belong together: an outer edge with its holes, and the walls inside of them. */
function islandsOf(walls: readonly Ring[][]): Ring[][][] {
  const [outer = [], ...inner] = walls
  const edges = outer.filter(isOuter)
  if (edges.length < 2) return [walls.map((w) => [...w])]
  const boxes = edges.map(boxOf)
  // the smallest edge round a ring is the one it belongs to
  const home = (ring: Ring) => {
    const [x, y] = ring[0]
    let best = 0
    let least = Infinity
    boxes.forEach((b, k) => {
      const size = (b.x1 - b.x0) * (b.y1 - b.y0)
      if (x >= b.x0 - 1e-6 && x <= b.x1 + 1e-6 && y >= b.y0 - 1e-6 && y <= b.y1 + 1e-6 && size < least) {
        best = k
        least = size
      }
    })
    return best
  }
  return edges.map((edge, k) => [
    [edge, ...outer.filter((r) => !isOuter(r) && home(r) === k)],
    ...inner.map((w) => w.filter((r) => home(r) === k)),
  ])
}

function boxOf(ring: Ring) {
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity]
  for (const [x, y] of ring) {
    x0 = Math.min(x0, x)
    x1 = Math.max(x1, x)
    y0 = Math.min(y0, y)
    y1 = Math.max(y1, y)
  }
  return { x0, y0, x1, y1 }
}

function wallStrokes(
  walls: readonly Ring[][],
  s: PartSettings,
  { index: layer, past45, past60, rises }: LayerRegions,
  widths: { outer: number; inner: number },
  seam: SeamMemory,
): Stroke[] {
  const order = walls.map((_, k) => k)
  if (s.wallOrder === 'inside-first') order.reverse()
  return order.flatMap((k) =>
    walls[k].map((ring): Stroke => {
      const begins = k === 0 && !rises ? seamStart(ring, s, layer, seam) : nearestTo(ring, seam.last)
      const points = startedAt(ring, begins)
      if (k === 0) seam.last = points[0]
      const hangs = k === 0 ? steepness(points, widths.outer, past45, past60) : null
      return {
        kind: k === 0 ? 'outer' : 'inner',
        points,
        closed: true,
        width: k === 0 ? widths.outer : widths.inner,
        share: 1,
        ...(hangs && { hangs }),
        ...(rises && { rises }),
        small: perimeterOf(points) <= s.smallLoopLength,
      }
    }),
  )
}

/** A wall hangs when so much of its way lies over nothing. Common practice, no source. */
const HANGS = 0.12
/** How far apart a wall is looked at, mm. */
const LOOK = 1

/** Past which steepness a wall hangs for more than a small share of its way. */
function steepness(
  points: readonly Point[],
  width: number,
  past45: readonly Ring[],
  past60: readonly Ring[],
): 45 | 60 | null {
  if (!past45.length || hangingShare(points, width, past45) <= HANGS) return null
  return past60.length && hangingShare(points, width, past60) > HANGS ? 60 : 45
}

/** Near the edge of a line, as a share of half its width. */
const TO_EDGE = 0.94

/** Share of a loop's way whose outer edge lies in an area; the part is to the left of its walls. */
function hangingShare(points: readonly Point[], width: number, area: readonly Ring[]): number {
  let all = 0
  let over = 0
  const out = (TO_EDGE * width) / 2
  points.forEach(([ax, ay], i) => {
    const [bx, by] = points[(i + 1) % points.length]
    const way = Math.hypot(bx - ax, by - ay)
    const looks = Math.max(1, Math.round(way / LOOK))
    for (let k = 0; k < looks; k++) {
      const t = (k + 0.5) / looks
      all += way / looks
      const [x, y] = [ax + (bx - ax) * t, ay + (by - ay) * t]
      if (isInside(area, x + (out * (by - ay)) / way, y - (out * (bx - ax)) / way)) over += way / looks
    }
  })
  return all ? over / all : 0
}

const nearestTo = (ring: Ring, to: Point | null): number => {
  if (!to) return 0
  let best = 0
  let least = Infinity
  ring.forEach(([x, y], i) => {
    const way = Math.hypot(x - to[0], y - to[1])
    if (way < least) [best, least] = [i, way]
  })
  return best
}

/** The corner of a ring that a layer's loop begins at. */
function seamStart(ring: Ring, s: PartSettings, layer: number, seam: SeamMemory): number {
  switch (s.seamPlace) {
    case 'scattered':
      // golden steps: never near the one below
      return Math.floor(((layer * 0.618_034) % 1) * ring.length)
    case 'turned-away': {
      const a = (s.seamDirection * Math.PI) / 180
      return extreme(ring, Math.cos(a), Math.sin(a))
    }
    case 'tucked': {
      // inward corners hide most, then outward ones; the nearest to the one below among those alike
      let best = -1
      let most = -Infinity
      for (let i = 0; i < ring.length; i++) {
        const turn = turnAt(ring, i)
        if (Math.abs(turn) < CORNER) continue
        const near = seam.last ? Math.hypot(ring[i][0] - seam.last[0], ring[i][1] - seam.last[1]) : 0
        const worth = (turn < 0 ? 60 : 0) + Math.min(90, Math.abs(turn)) / 3 - 2 * Math.min(near, 50)
        if (worth > most) [best, most] = [i, worth]
      }
      return best >= 0 ? best : extreme(ring, 0, 1)
    }
    case 'stacked':
      return extreme(ring, 0.35, 1)
  }
}

/** The corner farthest in a direction. */
function extreme(ring: Ring, ux: number, uy: number): number {
  let best = 0
  let most = -Infinity
  ring.forEach(([x, y], i) => {
    const v = x * ux + y * uy
    if (v > most + 1e-9) [best, most] = [i, v]
  })
  return best
}

/**
 * Lines that fill a patch exactly: from edge to edge, as many as come nearest to their distance, moved a little closer or
 * wider, with so much less or more fed.
 */
export function closeStrokes(
  kind: StrokeKind,
  patch: Patch,
  angle: number,
  spacing: number,
  width: number,
): Stroke[] {
  const turn = (angle * Math.PI) / 180
  const [c, s] = [Math.cos(turn), Math.sin(turn)]
  let low = Infinity
  let high = -Infinity
  for (const ring of patch)
    for (const [x, y] of ring) {
      const v = y * c - x * s
      low = Math.min(low, v)
      high = Math.max(high, v)
    }
  const across = high - low
  const gaps = Math.max(1, Math.round(across / spacing))
  const own = across > spacing / 2 ? across / gaps : spacing
  // a hair inside, so that lines along an edge are found
  const eps = 1e-4
  const rows: Line[][] =
    across > spacing / 2
      ? hatch(patch, angle, own * (1 - (2 * eps) / Math.max(own, across)), low + eps)
      : hatch(patch, angle, spacing, (low + high) / 2)
  return toAndFro(rows, 2.2 * spacing, patch).map((points) => ({
    kind,
    points,
    closed: false,
    width,
    share: own / spacing,
    small: false,
  }))
}

/** Kinds in the order they are laid, and within a kind each next to the one before. */
const TURN: readonly StrokeKind[] = [
  'skirt',
  'draught-wall',
  'brim',
  'inner',
  'outer',
  'solid',
  'sparse',
  'bridge',
  'top',
]

function ordered(strokes: readonly Stroke[]): Stroke[] {
  // walls stay as they are: their order is a setting
  const isWall = (k: StrokeKind) => k === 'inner' || k === 'outer'
  const walls = strokes.filter((t) => isWall(t.kind))
  const out = [...walls]
  let at: Point | null = walls.at(-1)?.points[0] ?? null
  for (const kind of TURN) {
    if (isWall(kind)) continue
    const left = strokes.filter((t) => t.kind === kind)
    while (left.length) {
      let best = 0
      let back = false
      let least = Infinity
      for (let i = 0; i < left.length; i++) {
        const { points, closed } = left[i]
        if (!at) break
        const [a, b] = [points[0], points[points.length - 1]]
        const there = Math.hypot(a[0] - at[0], a[1] - at[1])
        const other = closed ? Infinity : Math.hypot(b[0] - at[0], b[1] - at[1])
        if (Math.min(there, other) < least) {
          least = Math.min(there, other)
          best = i
          back = other < there
        }
      }
      const [next] = left.splice(best, 1)
      const stroke: Stroke = back ? { ...next, points: [...next.points].reverse() } : next
      out.push(stroke)
      at = stroke.closed ? stroke.points[0] : stroke.points[stroke.points.length - 1]
    }
  }
  return out
}
