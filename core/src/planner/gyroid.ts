import type { Ring } from '../geometry/kernel'
import type { Point } from '../geometry/shapes'
import { isInside } from './fill'

/** Way from point to point along a wave, as a share of its period. */
const STEP = 1 / 12
// taken once: they are called very often
const { acos, atan2, cos, hypot, sin } = Math

/** Halvings until the edge is met. */
const HALVINGS = 12

/**
 * Length of a gyroid's lines in a level cut times its period, over the area: the mean over all heights, by adding up the
 * waves below over 400 of them (checked by a test).
 */
export const GYROID_LENGTH = 2.4586

/**
 * Lines in which a level plane cuts a gyroid, sin x cos y + sin y cos z + sin z cos x = 0 (Schoen 1970), clipped at rings.
 * @param apart mm between straight lines that would fill as densely
 * @param z height of the plane, mm
 */
export function gyroidLines(rings: readonly Ring[], apart: number, z: number): Point[][] {
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity]
  for (const ring of rings)
    for (const [x, y] of ring) {
      x0 = Math.min(x0, x)
      x1 = Math.max(x1, x)
      y0 = Math.min(y0, y)
      y1 = Math.max(y1, y)
    }
  if (!(x1 > x0)) return []
  const period = GYROID_LENGTH * apart
  const toAngle = (2 * Math.PI) / period
  const [sz, cz] = [sin(z * toAngle), cos(z * toAngle)]
  // where the height's cosine leads, y follows from x, else x from y: there the root below never fails
  const along = Math.abs(cz) >= Math.abs(sz)
  const [from, to, low, high] = along ? [x0, x1, y0, y1] : [y0, y1, x0, x1]
  const count = Math.max(2, Math.ceil((to - from) / (period * STEP)))
  const out: Point[][] = []
  const place = (t: number, branch: 1 | -1, turn: number): Point => {
    const a = t * toAngle
    // A cos b + B sin b = C, by the angle of (A, B)
    const [A, B, C] = along ? [sin(a), cz, -sz * cos(a)] : [sz, cos(a), -cz * sin(a)]
    const length = hypot(A, B)
    // of (A, B) one keeps its sign, so that its angle, told on that side, never jumps
    const middle = atan2(B, A)
    const b =
      (A < 0 && middle < 0 && !along ? middle + 2 * Math.PI : middle) +
      branch * acos(Math.max(-1, Math.min(1, C / length)))
    const v = b / toAngle + turn * period
    return along ? [t, v] : [v, t]
  }
  const turns = [Math.floor(low / period) - 1, Math.ceil(high / period) + 1]
  let forth = true
  for (let turn = turns[0]; turn <= turns[1]; turn++)
    for (const branch of [-1, 1] as const) {
      const points = Array.from({ length: count + 1 }, (_, i) =>
        place(from + ((to - from) * i) / count, branch, turn),
      )
      const pieces = clipped(points, rings)
      if (!forth) {
        pieces.reverse()
        for (const p of pieces) p.reverse()
      }
      if (pieces.length) forth = !forth
      out.push(...pieces)
    }
  return out
}

/** What of a line lies within rings. */
function clipped(points: readonly Point[], rings: readonly Ring[]): Point[][] {
  const out: Point[][] = []
  let run: Point[] = []
  let wasIn = false
  points.forEach((p, i) => {
    const isIn = isInside(rings, p[0], p[1])
    if (i && isIn !== wasIn) {
      // from outside to inside
      let [a, b] = isIn ? [points[i - 1], p] : [p, points[i - 1]]
      for (let k = 0; k < HALVINGS; k++) {
        const middle: Point = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2]
        if (isInside(rings, middle[0], middle[1])) b = middle
        else a = middle
      }
      run.push(b)
    }
    if (isIn) run.push(p)
    else {
      if (run.length > 1) out.push(run)
      run = []
    }
    wasIn = isIn
  })
  if (run.length > 1) out.push(run)
  return out
}
