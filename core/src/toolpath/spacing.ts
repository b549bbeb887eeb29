import { MoveKind, type Program } from '../gcode/program'
import { weightedQuantile } from '../statistics/summary'

/**
 * Distance between neighbouring parallel lines of a layer, mm: the width a line was meant to have is near
 * it, whatever the feed. Lines of at least 3 mm are grouped by direction; for each, the nearest neighbour
 * that runs beside it for most of its length counts.
 * @param widest neighbours farther apart than this are no neighbours, mm
 * @returns null when fewer than four pairs of lines run side by side
 */
export function lineSpacing(
  program: Program,
  layerOf: Int32Array,
  layer: number,
  widest: number,
): number | null {
  const { count, x, y, kind } = program
  const groups = new Map<number, { offset: number; from: number; to: number }[]>()
  let found = 0
  for (let i = 1; i < count && found < 20_000; i++) {
    if (layerOf[i] !== layer || kind[i] !== MoveKind.Extrude) continue
    let dx = x[i] - x[i - 1]
    let dy = y[i] - y[i - 1]
    const d = Math.hypot(dx, dy)
    if (d < 3) continue
    if (dx < -1e-6 || (Math.abs(dx) <= 1e-6 && dy < 0)) {
      dx = -dx
      dy = -dy
    }
    const angle = Math.round((Math.atan2(dy, dx) * 180) / Math.PI) % 180
    const a = (angle * Math.PI) / 180
    const ux = Math.cos(a)
    const uy = Math.sin(a)
    const s = x[i] * ux + y[i] * uy
    const t = x[i - 1] * ux + y[i - 1] * uy
    const offset = ((x[i] + x[i - 1]) * -uy + (y[i] + y[i - 1]) * ux) / 2
    const list = groups.get(angle) ?? groups.set(angle, []).get(angle)!
    list.push({ offset, from: Math.min(s, t), to: Math.max(s, t) })
    found++
  }
  const gaps: number[] = []
  const weights: number[] = []
  for (const lines of groups.values()) {
    lines.sort((p, q) => p.offset - q.offset)
    for (let i = 0; i < lines.length; i++) {
      for (let j = i + 1; j < lines.length; j++) {
        const gap = lines[j].offset - lines[i].offset
        if (gap > widest) break
        if (gap < 0.05) continue
        const beside = Math.min(lines[i].to, lines[j].to) - Math.max(lines[i].from, lines[j].from)
        if (beside < 0.5 * Math.min(lines[i].to - lines[i].from, lines[j].to - lines[j].from)) continue
        gaps.push(gap)
        weights.push(beside)
        break
      }
    }
  }
  return gaps.length < 4 ? null : weightedQuantile(gaps, weights, 0.5)
}
