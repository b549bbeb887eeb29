import type { Box } from '../geometry/grid'
import type { Analysis } from './analysis'
import { Feature } from './features'
import type { Stretch } from './loops'

/** Merged spans in X of the stretches of a layer, at most eight. */
export function spansOf(list: Stretch[]): [number, number][] {
  const all = list
    .filter((s) => s.outermost || s.feature === Feature.Raft || s.feature === Feature.Thin)
    .map((s): [number, number] => [s.minX, s.maxX])
    .sort((p, q) => p[0] - q[0])
  const out: [number, number][] = []
  for (const [from, to] of all) {
    const last = out.at(-1)
    if (last && from <= last[1] + 0.5) last[1] = Math.max(last[1], to)
    else if (out.length < 8) out.push([from, to])
    else out[7][1] = Math.max(out[7][1], to)
  }
  return out
}

const MOST_OBJECTS = 200

/**
 * Joins the outlines of a layer to the objects they grow on: first those that nearly cover an object's last
 * outline, then those that overlap an object no outline has claimed; what is left begins an object of its own.
 */
export function objectsOf(a: Analysis, last: Box[], outline: Stretch[], layer: number): void {
  const roots = outline.filter((s) => s.outermost)
  const claimed = new Set<number>()
  const overlap = (s: Stretch, o: Box) => {
    const w = Math.min(o.maxX, s.maxX) - Math.max(o.minX, s.minX)
    const d = Math.min(o.maxY, s.maxY) - Math.max(o.minY, s.minY)
    if (w <= 0 || d <= 0) return { union: 0, least: 0 }
    const p = (o.maxX - o.minX) * (o.maxY - o.minY)
    const q = (s.maxX - s.minX) * (s.maxY - s.minY)
    return { union: (w * d) / (p + q - w * d), least: (w * d) / Math.max(1e-6, Math.min(p, q)) }
  }
  const claim = (s: Stretch, k: number) => {
    s.object = k
    claimed.add(k)
    const o = a.objects[k]
    o.minX = Math.min(o.minX, s.minX)
    o.minY = Math.min(o.minY, s.minY)
    o.maxX = Math.max(o.maxX, s.maxX)
    o.maxY = Math.max(o.maxY, s.maxY)
    o.lastLayer = layer
    last[k] = { minX: s.minX, minY: s.minY, maxX: s.maxX, maxY: s.maxY }
  }
  for (const by of ['union', 'least'] as const)
    for (const s of roots) {
      if (s.object >= 0) continue
      let best = -1
      let share = by === 'union' ? 0.5 : 0.25
      for (let k = 0; k < last.length; k++) {
        if (claimed.has(k)) continue
        const v = overlap(s, last[k])[by]
        if (v > share) {
          share = v
          best = k
        }
      }
      if (best >= 0) claim(s, best)
    }
  for (const s of roots) {
    if (s.object >= 0 || a.objects.length >= MOST_OBJECTS) continue
    a.objects.push({
      minX: s.minX,
      minY: s.minY,
      maxX: s.maxX,
      maxY: s.maxY,
      firstLayer: layer,
      lastLayer: layer,
    })
    claim(s, a.objects.length - 1)
  }
  for (const s of outline)
    if (!s.outermost)
      s.object = a.objects.findIndex(
        (o) => s.minX >= o.minX && s.maxX <= o.maxX && s.minY >= o.minY && s.maxY <= o.maxY,
      )
}
