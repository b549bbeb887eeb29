import { Feature, LINE_STRIDE, START_STRIDE, TRAVEL_STRIDE, type LayerPlan } from '@verimend/core/toolpath'
import { cividis } from '../drawing/cividis'
import type { Scale } from '../drawing/scales'
import { PALETTES, type Mode } from '../theme/theme'
import { INK, type Shade } from './layerInk'

/** How a layer is laid on the canvas. */
export interface LayerFrame {
  /** From mm to px. */
  x: Scale
  y: Scale
  width: number
  height: number
  shade: Shade
  mode: Mode
}

/** Draws a layer: beads at their true width, crossings of the air, starts of outlines. */
export function paintLayer(g: CanvasRenderingContext2D, plan: LayerPlan, frame: LayerFrame): void {
  const { x: X, y: Y, width, height, shade, mode } = frame
  const scale = Math.abs(X(1) - X(0))
  const p = PALETTES[mode]
  const dark = mode === 'dark' ? 1 : 0
  // the dark end of the ramp needs a lighter ground
  g.fillStyle = shade === 'speed' && dark ? '#4a5551' : p.sheet
  g.fillRect(0, 0, width, height)
  // a rule of round millimetres under everything
  g.strokeStyle = p.rule
  g.lineWidth = 0.5
  g.beginPath()
  for (const x of X.ticks(width / 60)) {
    g.moveTo(X(x), 0)
    g.lineTo(X(x), height)
  }
  for (const y of Y.ticks(height / 60)) {
    g.moveTo(0, Y(y))
    g.lineTo(width, Y(y))
  }
  g.stroke()
  const { lines } = plan
  let least = Infinity
  let most = 0
  if (shade === 'speed')
    for (let i = 6; i < lines.length; i += LINE_STRIDE) {
      least = Math.min(least, lines[i])
      most = Math.max(most, lines[i])
    }
  // lines run round at their ends, drawn through: where two lie over each other it is darker
  g.lineCap = 'round'
  for (let i = 0; i < lines.length; i += LINE_STRIDE) {
    const f = lines[i + 5]
    const ink = INK[f] ?? INK[0]
    g.globalAlpha = shade === 'speed' ? 0.85 : ink.alpha
    g.strokeStyle =
      shade === 'speed' ? cividis(most > least ? (lines[i + 6] - least) / (most - least) : 1) : ink.tint[dark]
    g.lineWidth = Math.max(0.6, lines[i + 4] * scale)
    g.setLineDash(f === Feature.Support || f === Feature.Skirt ? [6, 4] : [])
    if (f === Feature.Support || f === Feature.Skirt) g.lineCap = 'butt'
    else g.lineCap = 'round'
    g.beginPath()
    g.moveTo(X(lines[i]), Y(lines[i + 1]))
    g.lineTo(X(lines[i + 2]), Y(lines[i + 3]))
    g.stroke()
  }
  g.globalAlpha = 1
  for (const [kind, colour, dash, w] of [
    [0, p.faint, [1, 3], 0.7],
    [1, p.info, [5, 3], 1],
    [2, p.fault, [], 1.6],
  ] as const) {
    g.strokeStyle = colour
    g.setLineDash([...dash])
    g.lineWidth = w
    g.beginPath()
    for (let i = 0; i < plan.travels.length; i += TRAVEL_STRIDE) {
      if (plan.travels[i + 4] !== kind) continue
      g.moveTo(X(plan.travels[i]), Y(plan.travels[i + 1]))
      g.lineTo(X(plan.travels[i + 2]), Y(plan.travels[i + 3]))
    }
    g.stroke()
  }
  g.setLineDash([])
  const { starts } = plan
  for (let i = 0; i < starts.length; i += START_STRIDE) {
    const sx = X(starts[i])
    const sy = Y(starts[i + 1])
    // an early stop shows as a gap between the end of the feed and the start
    const gap = Math.hypot(starts[i + 2] - starts[i], starts[i + 3] - starts[i + 1])
    if (gap > 0.03) {
      g.strokeStyle = p.caution
      g.lineWidth = 2
      g.beginPath()
      g.moveTo(X(starts[i + 2]), Y(starts[i + 3]))
      g.lineTo(sx, sy)
      g.stroke()
    }
    g.fillStyle = p.action
    g.strokeStyle = p.sheet
    g.lineWidth = 1
    g.beginPath()
    g.arc(sx, sy, 3.6, 0, 2 * Math.PI)
    g.fill()
    g.stroke()
    const line = lineAt(lines, starts[i], starts[i + 1])
    if (line >= 0) {
      // which way it goes
      const dx = lines[line + 2] - lines[line]
      const dy = lines[line + 3] - lines[line + 1]
      const d = Math.hypot(dx, dy) || 1
      g.strokeStyle = p.action
      g.lineWidth = 1.6
      g.beginPath()
      g.moveTo(sx, sy)
      g.lineTo(sx + (dx / d) * 12, sy - (dy / d) * 12)
      g.stroke()
    }
  }
}

function lineAt(lines: Float32Array, x: number, y: number): number {
  for (let i = 0; i < lines.length; i += LINE_STRIDE)
    if (Math.abs(lines[i] - x) < 1e-3 && Math.abs(lines[i + 1] - y) < 1e-3) return i
  return -1
}

/** Lines that tell where a layer's edges are. */
const EDGES: number[] = [Feature.Outer, Feature.Inner, Feature.Brim, Feature.Skirt, Feature.Thin]

/** Draws the edges of a layer as thin strokes over what is there. */
export function paintStrokes(
  g: CanvasRenderingContext2D,
  { lines }: LayerPlan,
  { x: X, y: Y, mode }: LayerFrame,
): void {
  g.strokeStyle = PALETTES[mode].fault
  g.lineWidth = 1
  g.setLineDash([4, 2])
  g.globalAlpha = 0.85
  g.beginPath()
  for (let i = 0; i < lines.length; i += LINE_STRIDE) {
    if (!EDGES.includes(lines[i + 5])) continue
    g.moveTo(X(lines[i]), Y(lines[i + 1]))
    g.lineTo(X(lines[i + 2]), Y(lines[i + 3]))
  }
  g.stroke()
  g.setLineDash([])
  g.globalAlpha = 1
}

/** Two places that come near each other, mm on the bed. */
export interface Mark {
  from: readonly [x: number, y: number]
  to: readonly [x: number, y: number]
}

/** Draws where two places come near each other. */
export function paintMark(
  g: CanvasRenderingContext2D,
  { from, to }: Mark,
  { x: X, y: Y, mode }: LayerFrame,
): void {
  const p = PALETTES[mode]
  const [ax, ay, bx, by] = [X(from[0]), Y(from[1]), X(to[0]), Y(to[1])]
  g.strokeStyle = p.fault
  g.lineWidth = 2
  g.beginPath()
  g.moveTo(ax, ay)
  g.lineTo(bx, by)
  g.stroke()
  g.beginPath()
  g.arc((ax + bx) / 2, (ay + by) / 2, Math.max(12, Math.hypot(bx - ax, by - ay)), 0, 2 * Math.PI)
  g.stroke()
}
