import { beadWidth, filamentArea } from '../extrusion/bead'
import { MoveKind } from '../gcode/program'
import type { Analysis } from './analysis'

/** One layer from above, ready to be drawn: lines with their true width, travels, starts and ends of outlines. */
export interface LayerPlan {
  layer: number
  z: number
  height: number
  /** Per line: x1, y1, x2, y2, width, {@link Feature}, mm/s. */
  lines: Float32Array
  /** Per travel: x1, y1, x2, y2, kind: 0 inside, 1 in the open with a pull-back, 2 in the open without. */
  travels: Float32Array
  /** Per outline: x, y of its start, x, y of where its feed ends, mm of wipe. */
  starts: Float32Array
  box: { minX: number; minY: number; maxX: number; maxY: number }
}

/** Values a line, a travel and a start take up in their arrays. */
export const LINE_STRIDE = 7
export const TRAVEL_STRIDE = 5
export const START_STRIDE = 5

/** The moves of one layer, drawn to size. Flat arrays, so that they cross from a worker without copying. */
export function layerPlan(a: Analysis, layer: number): LayerPlan {
  const { program, index, featureOf, context } = a
  const { x, y, e, kind, count, speed } = program
  const area = filamentArea(context.filamentDiameter)
  const height = Math.max(0.02, index.height[layer] ?? 0.2)
  const lines: number[] = []
  const travels: number[] = []
  const open = a.travels.filter((t) => t.layer === layer)
  for (let i = 1; i < count; i++) {
    if (index.layerOf[i] !== layer) continue
    const k = kind[i]
    const dx = x[i] - x[i - 1]
    const dy = y[i] - y[i - 1]
    const d = Math.sqrt(dx * dx + dy * dy)
    if (d < 1e-6) continue
    if (k === MoveKind.Extrude)
      lines.push(
        x[i - 1],
        y[i - 1],
        x[i],
        y[i],
        Math.min(4, beadWidth((e[i] * area) / d, height)),
        featureOf[i],
        speed[i],
      )
    else if (k === MoveKind.Travel) {
      const air = open.find((t) => i >= t.from && i <= t.to)
      travels.push(x[i - 1], y[i - 1], x[i], y[i], air ? (air.retracted ? 1 : 2) : 0)
    }
  }
  const starts: number[] = []
  for (const s of a.starts) {
    if (s.layer !== layer) continue
    const stretch = stretchFrom(a, s.stretch)
    if (stretch) starts.push(s.x, s.y, x[stretch.to], y[stretch.to], s.wipe)
  }
  return {
    layer,
    z: index.z[layer],
    height,
    lines: Float32Array.from(lines),
    travels: Float32Array.from(travels),
    starts: Float32Array.from(starts),
    box: a.box,
  }
}

function stretchFrom(a: Analysis, from: number) {
  let low = 0
  let high = a.stretches.length - 1
  while (low <= high) {
    const mid = (low + high) >> 1
    const s = a.stretches[mid]
    if (s.from === from) return s
    if (s.from < from) low = mid + 1
    else high = mid - 1
  }
  return undefined
}
