import { MoveKind, type Program } from '../gcode/program'
import { medianHigh } from '../statistics/summary'
import { Feature } from './features'

/** A stretch of unbroken extrusion on one layer. */
export interface Stretch {
  layer: number
  /** First and last move, inclusive. */
  from: number
  to: number
  length: number
  /** Filament fed, mm. */
  fed: number
  closed: boolean
  /** mm², only for closed ones. */
  area: number
  minX: number
  minY: number
  maxX: number
  maxY: number
  feature: Feature
  /** Faces the open air from outside (not from a hole). */
  outermost: boolean
  /** Faces the open air at all: outside or in a hole. */
  boundary: boolean
  /** Object it belongs to; −1 where it is not known. */
  object: number
  /** Place in its wall, 0 outermost; −1 for holes and what is no wall. */
  place: number
}

/** Cuts the extrusion of a program into unbroken stretches and tells which close on themselves. */
export function findStretches(program: Program, layerOf: Int32Array): Stretch[] {
  const { count, x, y, e, kind } = program
  const stretches: Stretch[] = []
  let i = 0
  while (i < count) {
    if (kind[i] !== MoveKind.Extrude || layerOf[i] < 0) {
      i++
      continue
    }
    const from = i
    const layer = layerOf[i]
    const sx = i ? x[i - 1] : 0
    const sy = i ? y[i - 1] : 0
    let px = sx
    let py = sy
    let length = 0
    let fed = 0
    let twice = 0
    let minX = sx
    let maxX = sx
    let minY = sy
    let maxY = sy
    let widest = 0
    while (i < count && kind[i] === MoveKind.Extrude && layerOf[i] === layer) {
      const nx = x[i]
      const ny = y[i]
      const dx = nx - px
      const dy = ny - py
      length += Math.sqrt(dx * dx + dy * dy)
      fed += e[i]
      const ax = px - sx
      const ay = py - sy
      const bx = nx - sx
      const by = ny - sy
      twice += ax * by - bx * ay
      px = nx
      py = ny
      if (px < minX) minX = px
      else if (px > maxX) maxX = px
      if (py < minY) minY = py
      else if (py > maxY) maxY = py
      const away = bx * bx + by * by
      if (away > widest) widest = away
      i++
      // a path may go on from a loop that has just closed: cut it there
      if (away < 0.0004 && widest > 2.25 && length > 4) break
    }
    const gap = Math.hypot(px - sx, py - sy)
    const wide = Math.sqrt(widest)
    const area = Math.abs(twice) / 2
    // where feed stops early the head still goes on to where it began
    const glides =
      i < count && kind[i] === MoveKind.Travel && Math.hypot(x[i] - sx, y[i] - sy) < 0.05 && gap < 3
    // a hairpin of two lines of fill ends as far from its start as it is thick; a loop does not
    const closed =
      length > 3 &&
      area > 0.25 &&
      gap < Math.min(glides ? 3 : 1.2, wide / 3, (1.2 * area) / length) &&
      turnsOnce(program, from, i - 1, sx, sy)
    stretches.push({
      layer,
      from,
      to: i - 1,
      length,
      fed,
      closed,
      area: closed ? area : 0,
      minX,
      minY,
      maxX,
      maxY,
      feature: Feature.None,
      outermost: false,
      boundary: false,
      object: -1,
      place: -1,
    })
  }
  return stretches
}

/**
 * Whether a path that comes back to its start goes round once: the turns of a simple loop add up to ±360°,
 * those of a zigzag that ends near where it began do not.
 */
function turnsOnce(program: Program, from: number, to: number, sx: number, sy: number): boolean {
  const { x, y } = program
  let sum = 0
  let px = sx
  let py = sy
  let ux = 0
  let uy = 0
  let firstX = 0
  let firstY = 0
  let known = false
  const turn = (vx: number, vy: number) => {
    sum += Math.atan2(ux * vy - uy * vx, ux * vx + uy * vy)
    ux = vx
    uy = vy
  }
  for (let i = from; i <= to; i++) {
    const dx = x[i] - px
    const dy = y[i] - py
    if (dx * dx + dy * dy < 1e-8) continue
    if (known) turn(dx, dy)
    else {
      ux = firstX = dx
      uy = firstY = dy
      known = true
    }
    px = x[i]
    py = y[i]
  }
  const dx = sx - px
  const dy = sy - py
  if (dx * dx + dy * dy > 0.0025) turn(dx, dy)
  turn(firstX, firstY)
  return Math.abs(Math.abs(sum) - 2 * Math.PI) < 0.6
}

/** Even-odd test of a point against a closed stretch. */
function insideStretch(program: Program, s: Stretch, px: number, py: number): boolean {
  if (px < s.minX || px > s.maxX || py < s.minY || py > s.maxY) return false
  const { x, y } = program
  let inside = false
  let ax = x[s.to]
  let ay = y[s.to]
  for (let i = s.from - 1; i <= s.to; i++) {
    const bx = i < 0 ? 0 : x[i]
    const by = i < 0 ? 0 : y[i]
    if (by > py !== ay > py && px < ((ax - bx) * (py - by)) / (ay - by) + bx) inside = !inside
    ax = bx
    ay = by
  }
  return inside
}

/** Distance from a point to a stretch's line, mm. */
export function distanceTo(program: Program, s: Stretch, px: number, py: number): number {
  const { x, y } = program
  let best = Infinity
  let ax = s.from ? x[s.from - 1] : 0
  let ay = s.from ? y[s.from - 1] : 0
  const first = { x: ax, y: ay }
  for (let i = s.from; i <= s.to + 1; i++) {
    const bx = i > s.to ? first.x : x[i]
    const by = i > s.to ? first.y : y[i]
    const dx = bx - ax
    const dy = by - ay
    const l = dx * dx + dy * dy
    const t = l ? Math.min(1, Math.max(0, ((px - ax) * dx + (py - ay) * dy) / l)) : 0
    const qx = ax + t * dx - px
    const qy = ay + t * dy - py
    const d = qx * qx + qy * qy
    if (d < best) best = d
    ax = bx
    ay = by
  }
  return Math.sqrt(best)
}

/** The smallest of several loops around a point, by index into `loops`, which go from large to small; −1 for none. */
function around(program: Program, loops: Stretch[], before: number, px: number, py: number): number {
  for (let j = before - 1; j >= 0; j--) if (insideStretch(program, loops[j], px, py)) return j
  return -1
}

/** Loops deeper than this in a row are fill laid in rings, not walls. */
const MOST_WALLS = 7

/**
 * Tells outer and inner walls, fill, and thin or supporting lines of one layer by how they lie in each other.
 *
 * Closed stretches nest by containment. A loop that runs beside the one around it, within one and three
 * quarters of their width, belongs to the same wall. Where a wall lies clear of the loop around it, it bounds
 * a hole when there is material between the two, and is a part of its own (inside a skirt, a draught wall or
 * a hole) when there is none. Open stretches inside a loop are fill: solid where neighbouring lines touch.
 *
 * @param stretches those of the layer, in the order they were laid
 * @param nozzle mm, stands in for a width the feed does not give
 * @param widthOf width of a stretch's bead, mm
 */
export function classifyLayer(
  program: Program,
  stretches: Stretch[],
  nozzle: number,
  widthOf: (s: Stretch) => number,
): void {
  const { x, y, speed } = program
  const loops = stretches.filter((s) => s.closed).sort((a, b) => b.area - a.area)
  const open = stretches.filter((s) => !s.closed)
  const n = loops.length
  const near = new Uint8Array(n)
  const parent = new Int32Array(n).fill(-1)
  const width = loops.map((s) => Math.min(2.5 * nozzle, Math.max(0.5 * nozzle, widthOf(s))))
  for (let i = 0; i < n; i++) {
    const s = loops[i]
    const p = around(program, loops, i, x[s.from], y[s.from])
    parent[i] = p
    if (p < 0) continue
    const reach = 1.75 * ((width[i] + width[p]) / 2)
    // a few places of the loop decide: walls may part at corners and join in necks
    let beside = 0
    const places = 4
    for (let k = 0; k < places; k++) {
      const at = s.from + Math.floor(((s.to - s.from) * k) / places)
      if (distanceTo(program, loops[p], x[at], y[at]) < reach) beside++
    }
    near[i] = beside * 2 >= places ? 1 : 0
  }
  const filled = new Float64Array(n)
  // a long stretch of fill may cut across a hole: a few of its places say where it lies
  const enclosed = open.map((s) => {
    const places = Math.min(5, s.to - s.from + 1)
    let within = 0
    for (let k = 0; k < places; k++) {
      const i = s.from + Math.floor(((s.to - s.from) * (k + 0.5)) / places)
      const p = around(program, loops, n, i ? (x[i] + x[i - 1]) / 2 : x[i], i ? (y[i] + y[i - 1]) / 2 : y[i])
      if (p < 0) continue
      within++
      filled[p] += s.length / places
    }
    return within * 2 > places
  })
  const nearChild = new Uint8Array(n)
  for (let i = 0; i < n; i++) if (near[i]) nearChild[parent[i]] = 1
  // walls from outside in
  const hole = new Uint8Array(n)
  const place = new Int32Array(n)
  const top = new Int32Array(n)
  for (let i = 0; i < n; i++) {
    const s = loops[i]
    const p = parent[i]
    if (p >= 0 && near[i]) {
      top[i] = top[p]
      place[i] = place[p] + 1
      hole[i] = hole[p]
    } else {
      top[i] = i
      place[i] = 0
      hole[i] = p >= 0 && filled[p] > 2 * nozzle ? 1 : 0
    }
    const last = !nearChild[i]
    if (!hole[i]) s.place = place[i]
    if (hole[i]) {
      s.boundary = last
    } else {
      s.outermost = place[i] === 0
      s.boundary = s.outermost
      // a tube's inner face ends its wall; its own speed gives it away where walls have more than one
      if (last && place[i] > 1 && filled[i] === 0) {
        const own = speed[s.from]
        const face = speed[loops[top[i]].from]
        const beside = speed[loops[p].from]
        if (Math.abs(own - face) < 0.5 && Math.abs(beside - face) > 0.5) s.boundary = true
      }
    }
    s.feature = s.boundary ? Feature.Outer : place[i] > MOST_WALLS ? Feature.Solid : Feature.Inner
  }
  fillOf(program, open, enclosed, nozzle, widthOf)
}

/** Solid or sparse for open stretches inside loops; thin walls and support outside. */
function fillOf(
  program: Program,
  open: Stretch[],
  enclosed: boolean[],
  nozzle: number,
  widthOf: (s: Stretch) => number,
): void {
  const { x, y } = program
  // the last few lines, so that a line finds its neighbour past the short piece that joins them
  const RECENT = 4
  const recent = new Float64Array(RECENT * 4)
  let seen = 0
  const gaps: number[] = []
  for (let k = 0; k < open.length; k++) {
    const s = open[k]
    gaps.length = 0
    let straight = 0
    for (let i = s.from; i <= s.to; i++) {
      const ax = i ? x[i - 1] : 0
      const ay = i ? y[i - 1] : 0
      const dx = x[i] - ax
      const dy = y[i] - ay
      const d = Math.sqrt(dx * dx + dy * dy)
      if (d < 1.2 * nozzle) continue
      const vx = dx / d
      const vy = dy / d
      const cx = (ax + x[i]) / 2
      const cy = (ay + y[i]) / 2
      for (let b = 1; b <= RECENT && b <= seen; b++) {
        const at = ((seen - b) % RECENT) * 4
        if (Math.abs(vx * recent[at + 1] - vy * recent[at]) >= 0.14) continue
        const gap = Math.abs((cx - recent[at + 2]) * -vy + (cy - recent[at + 3]) * vx)
        if (gap > 0.3 * nozzle && gap < 25 * nozzle) {
          gaps.push(gap)
          straight += d
          break
        }
      }
      const at = (seen++ % RECENT) * 4
      recent[at] = vx
      recent[at + 1] = vy
      recent[at + 2] = cx
      recent[at + 3] = cy
    }
    const gap = gaps.length ? medianHigh(gaps) : 0
    const touching = gap === 0 || gap < 1.4 * Math.max(nozzle * 0.6, widthOf(s))
    if (enclosed[k]) s.feature = touching ? Feature.Solid : Feature.Infill
    else s.feature = !touching && straight > 0.5 * s.length ? Feature.Support : Feature.Thin
    if (s.feature === Feature.Thin) s.boundary = true
  }
}
