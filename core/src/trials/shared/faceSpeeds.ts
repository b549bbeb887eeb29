import { MoveKind, type Program } from '../../gcode/program'
import type { MotionTimeline } from '../../motion/timeline'
import type { Cell } from '../types'

/** How near to a face the middle of its outer line runs, as a share of the line's width: half of it, and a little. */
const NEAR = 0.9
/** What frames and bores stand in from the box round them, mm. */
const RIM = 3

/** Whether a line from one place to another is a wall of a face that a size is taken between. */
function onFace(c: Cell, near: number, px: number, py: number, x: number, y: number): boolean {
  const { box, axis, measure, nominal = 0 } = c
  const [mx, my] = [(px + x) / 2, (py + y) / 2]
  if (mx < box.x0 || mx > box.x1 || my < box.y0 || my > box.y1) return false
  if (c.round) {
    const away = Math.hypot(mx - (box.x0 + box.x1) / 2, my - (box.y0 + box.y1) / 2)
    return Math.abs(away - nominal / 2) < near
  }
  const rim = measure === 'inside' ? RIM : 0
  const beside = (v: number, low: number, high: number) =>
    Math.abs(v - low - rim) < near || Math.abs(v - high + rim) < near
  const alongX = Math.abs(x - px) > 3 * Math.abs(y - py)
  const alongY = Math.abs(y - py) > 3 * Math.abs(x - px)
  const faceX = alongY && beside(mx, box.x0, box.x1)
  const faceY = alongX && beside(my, box.y0, box.y1)
  return axis === 'x' ? faceX : axis === 'y' ? faceY : faceX || faceY
}

/**
 * Cells with the speed their faces are printed at on this machine, mm/s: way over time of the walls, ramps and all. Heights
 * and bases have none of their own.
 * @param width of the outer wall's line, mm
 */
export function withFaceSpeeds(
  cells: readonly Cell[],
  { count, x, y, z, kind }: Program,
  { seconds }: MotionTimeline,
  width: number,
): Cell[] {
  const way = new Float64Array(cells.length)
  const time = new Float64Array(cells.length)
  const asked = cells.map((c) => c.axis !== undefined && c.axis !== 'z' && !c.base)
  for (let i = 1; i < count; i++) {
    if (kind[i] !== MoveKind.Extrude) continue
    const length = Math.hypot(x[i] - x[i - 1], y[i] - y[i - 1])
    // the lowest layers have speeds of their own
    if (length < 0.2 || z[i] < 1) continue
    cells.forEach((c, k) => {
      if (!asked[k] || z[i] > c.box.z1 + 0.01 || !onFace(c, NEAR * width, x[i - 1], y[i - 1], x[i], y[i]))
        return
      way[k] += length
      time[k] += seconds[i]
    })
  }
  return cells.map((c, k) => (time[k] > 0 ? { ...c, speed: Number((way[k] / time[k]).toFixed(1)) } : c))
}
