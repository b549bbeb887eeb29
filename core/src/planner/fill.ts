import type { Ring } from '../geometry/kernel'
import type { Point } from '../geometry/shapes'

/** A straight line of a filling. */
export type Line = readonly [from: Point, to: Point]

/**
 * Lines side by side across an area, clipped at its rings (even-odd), in rows from one side to the other.
 * @param angle of the lines to X, degrees
 * @param spacing mm from line to line
 * @param shift mm by which the comb of lines lies beside the origin, so that layers lie on each other
 * @returns rows of lines; each line from left to right as seen along the angle
 */
export function hatch(rings: readonly Ring[], angle: number, spacing: number, shift = 0): Line[][] {
  const turn = (angle * Math.PI) / 180
  const [c, s] = [Math.cos(turn), Math.sin(turn)]
  // seen along the lines they are level
  const level = rings.map((r) => r.map(([x, y]): Point => [x * c + y * s, y * c - x * s]))
  let low = Infinity
  let high = -Infinity
  for (const r of level)
    for (const [, y] of r) {
      if (y < low) low = y
      if (y > high) high = y
    }
  if (!(high > low)) return []
  const first = Math.ceil((low - shift) / spacing - 1e-9)
  const count = Math.floor((high - shift) / spacing + 1e-9) - first + 1
  if (count <= 0) return []
  const hits: number[][] = Array.from({ length: count }, () => [])
  for (const r of level)
    for (let i = 0; i < r.length; i++) {
      const [ax, ay] = r[i]
      const [bx, by] = r[(i + 1) % r.length]
      if (ay === by) continue
      const [from, to] = ay < by ? [ay, by] : [by, ay]
      // half open, so that a corner on a line counts once
      const k0 = Math.max(0, Math.ceil((from - shift) / spacing - 1e-12) - first)
      const k1 = Math.min(count - 1, Math.ceil((to - shift) / spacing - 1e-12) - 1 - first)
      for (let k = k0; k <= k1; k++) {
        const y = shift + (first + k) * spacing
        hits[k].push(ax + ((y - ay) / (by - ay)) * (bx - ax))
      }
    }
  return hits.map((xs, k) => {
    xs.sort((a, b) => a - b)
    const y = shift + (first + k) * spacing
    const back = (x: number): Point => [x * c - y * s, x * s + y * c]
    const row: Line[] = []
    for (let i = 0; i + 1 < xs.length; i += 2)
      if (xs[i + 1] - xs[i] > 1e-6) row.push([back(xs[i]), back(xs[i + 1])])
    return row
  })
}

/**
 * Lines of a hatch as paths to and fro: a line goes on to the one of the next row that lies beside its end, where no more than
 * `reach` is between them.
 * @param reach mm; 0 leaves every line by itself
 * @param within farther than that, to twice as far, only where the way between lies in this area
 */
export function toAndFro(
  rows: readonly (readonly Line[])[],
  reach: number,
  within: readonly Ring[] = [],
): Point[][] {
  const open = rows.map((row) => row.map((line) => ({ line, used: false })))
  const out: Point[][] = []
  for (let k = 0; k < open.length; k++)
    for (const start of open[k]) {
      if (start.used) continue
      start.used = true
      const path: Point[] = [start.line[0], start.line[1]]
      for (let row = k + 1; row < open.length; row++) {
        const [x, y] = path[path.length - 1]
        let best: { to: typeof start | null; first: Point; second: Point; way: number } | null = null
        for (const other of open[row]) {
          if (other.used) continue
          const forward = (row - k) % 2 === 0
          const [first, second] = forward ? other.line : [other.line[1], other.line[0]]
          const way = Math.hypot(first[0] - x, first[1] - y)
          if (best && way >= best.way) continue
          if (way <= reach || (way <= 2 * reach && isInside(within, (first[0] + x) / 2, (first[1] + y) / 2)))
            best = { to: other, first, second, way }
        }
        if (!best?.to) break
        best.to.used = true
        path.push(best.first, best.second)
      }
      out.push(path)
    }
  return out
}

/** How long lines are on the whole, mm. */
export const lengthOf = (rows: readonly (readonly Line[])[]): number =>
  rows.reduce((sum, row) => sum + row.reduce((s, [a, b]) => s + Math.hypot(b[0] - a[0], b[1] - a[1]), 0), 0)

/** Whether a place lies in an area, by the even-odd rule. */
export function isInside(rings: readonly Ring[], x: number, y: number): boolean {
  let inside = false
  for (const r of rings)
    for (let i = 0, j = r.length - 1; i < r.length; j = i++) {
      const [ax, ay] = r[i]
      const [bx, by] = r[j]
      if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) inside = !inside
    }
  return inside
}

/** Directions tried for a bridge, degrees. */
const BRIDGE_ANGLES = Array.from({ length: 12 }, (_, i) => i * 15)

/**
 * Direction in which lines over air are shortest with both ends on something: of those directions in which most of the
 * length is held at both ends, the one with the shortest lines.
 * @param over what lies over air, with what carries it round about
 * @param below what is there in the layer below
 * @returns degrees, and the longest stretch over air, mm; null where no line has both ends on something
 */
export function bridgeAngle(
  over: readonly Ring[],
  below: readonly Ring[],
  spacing: number,
): { angle: number; span: number } | null {
  let best: { angle: number; span: number; score: number } | null = null
  for (const angle of BRIDGE_ANGLES) {
    let held = 0
    let all = 0
    let longest = 0
    for (const row of hatch(over, angle, 2 * spacing))
      for (const [a, b] of row) {
        const way = Math.hypot(b[0] - a[0], b[1] - a[1])
        all += way
        // just beyond the ends
        const [ux, uy] = [(b[0] - a[0]) / way, (b[1] - a[1]) / way]
        const reach = spacing
        if (
          !isInside(below, a[0] - ux * reach, a[1] - uy * reach) ||
          !isInside(below, b[0] + ux * reach, b[1] + uy * reach)
        )
          continue
        held += way
        if (way > longest) longest = way
      }
    if (!all || held < 0.5 * all) continue
    const score = longest * (2 - held / all)
    if (!best || score < best.score - 1e-6) best = { angle, span: longest, score }
  }
  return best && { angle: best.angle, span: best.span }
}
