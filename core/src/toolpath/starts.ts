import { MoveKind } from '../gcode/program'
import type { Analysis } from './analysis'
import { distanceTo, type Stretch } from './loops'

/** The head goes on along a loop for no longer than this to wipe, mm. */
const LONGEST_WIPE = 12

/** Notes where a boundary loop starts, what corner that is, and how its end is treated. */
export function startOf(a: Analysis, s: Stretch, layer: number): void {
  const { x, y, kind, count, e } = a.program
  const sx = s.from ? x[s.from - 1] : 0
  const sy = s.from ? y[s.from - 1] : 0
  const cx = (s.minX + s.maxX) / 2
  const cy = (s.minY + s.maxY) / 2
  const angle = ((Math.atan2(sy - cy, sx - cx) * 180) / Math.PI + 360) % 360
  const after = direction(x, y, s.from - 1, s.to, 1)
  const before = direction(x, y, s.to, s.from, -1)
  let turn =
    (Math.atan2(-(before.x * after.y - before.y * after.x), before.x * after.x + before.y * after.y) * 180) /
    Math.PI
  // turns count outward: a convex corner of the part is positive whichever way round it is laid
  let twice = 0
  for (let i = s.from; i <= s.to; i++) twice += (x[i - 1] ?? 0) * y[i] - x[i] * (y[i - 1] ?? 0)
  turn *= twice > 0 ? -1 : 1
  if (!s.outermost) turn = -turn
  const end = Math.hypot(x[s.to] - sx, y[s.to] - sy)
  let wipe = 0
  let i = s.to + 1
  // the head going on close along the loop, without feed or pulling back
  while (
    i < count &&
    wipe < LONGEST_WIPE &&
    (kind[i] === MoveKind.Travel || kind[i] === MoveKind.RetractMoving)
  ) {
    const d = Math.hypot(x[i] - x[i - 1], y[i] - y[i - 1])
    const far = (px: number, py: number) => distanceTo(a.program, s, px, py) > 0.08
    if (e[i] > 0 || far(x[i], y[i]) || far((x[i] + x[i - 1]) / 2, (y[i] + y[i - 1]) / 2)) break
    wipe += d
    i++
  }
  a.starts.push({
    layer,
    object: s.object,
    stretch: s.from,
    x: sx,
    y: sy,
    angle,
    turn,
    early: end > 0.03 ? end : 0,
    wipe: end > 0.03 ? Math.max(0, wipe - end) : wipe,
    hole: !s.outermost,
  })
}

/** Direction of a path over its next half millimetre from a place. */
function direction(x: Float32Array, y: Float32Array, from: number, to: number, step: 1 | -1) {
  const ax = from < 0 ? 0 : x[from]
  const ay = from < 0 ? 0 : y[from]
  let dx = 0
  let dy = 0
  for (let i = from + step; step > 0 ? i <= to : i >= to - 1 && i >= 0; i += step) {
    dx = (x[i] - ax) * step
    dy = (y[i] - ay) * step
    if (dx * dx + dy * dy > 0.25) break
  }
  const d = Math.hypot(dx, dy) || 1
  return { x: dx / d, y: dy / d }
}
