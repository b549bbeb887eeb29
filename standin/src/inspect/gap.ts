import type { PrintedPart } from '../part'
import type { World } from '../world'
import { within, type Region } from './look'

/** mm of a pixel in which joints are drawn. */
const PIXEL = 0.04
/** mm up to which gaps are looked for. */
const MOST = 0.6

/**
 * Least gap between the pieces of a joint, mm: its layers are drawn with what each bead really is, and the pieces grow until
 * they meet. Nought or less where they touch already.
 * @returns null where there are not two pieces
 */
export function jointGap(part: PrintedPart, world: World, region: Region): number | null {
  const byLayer = new Map<number, number[]>()
  for (let i = 0; i < part.count; i++) {
    if (!within(region, (part.x0[i] + part.x1[i]) / 2, (part.y0[i] + part.y1[i]) / 2, part.z[i])) continue
    if (part.onBed[i]) continue
    const key = Math.round(part.z[i] * 1000)
    byLayer.set(key, [...(byLayer.get(key) ?? []), i])
  }
  const keys = [...byLayer.keys()].sort((a, b) => a - b)
  // three layers tell: at a quarter, the middle and three quarters
  const some = keys.length ? [0.25, 0.5, 0.75].map((t) => keys[Math.floor(t * (keys.length - 1))]) : []
  let least: number | null = null
  for (const key of new Set(some)) {
    const gap = layerGap(part, world, byLayer.get(key)!, region)
    if (gap !== null && (least === null || gap < least)) least = gap
  }
  return least
}

/** Grows the pieces of one layer until the largest two are one: by distance to the nearest bead, then a spanning tree of pixels. */
function layerGap(part: PrintedPart, world: World, list: readonly number[], r: Region): number | null {
  const [nx, ny] = [Math.ceil((r.x1 - r.x0) / PIXEL) + 1, Math.ceil((r.y1 - r.y0) / PIXEL) + 1]
  if (nx * ny > 4_000_000) return null
  /** mm from each pixel to the nearest plastic, up to half of MOST. */
  const away = new Float32Array(nx * ny).fill(MOST)
  for (const i of list) {
    const half = part.width[i] / 2 + world.spread
    const reach = half + MOST / 2
    const [ax, ay, bx, by] = [part.x0[i], part.y0[i], part.x1[i], part.y1[i]]
    const [ux, uy] = [bx - ax, by - ay]
    const long = ux * ux + uy * uy || 1
    const lo = (v: number, from: number) => Math.max(0, Math.floor((v - reach - from) / PIXEL))
    const hi = (v: number, from: number, n: number) => Math.min(n - 1, Math.ceil((v + reach - from) / PIXEL))
    for (let j = lo(Math.min(ay, by), r.y0); j <= hi(Math.max(ay, by), r.y0, ny); j++)
      for (let k = lo(Math.min(ax, bx), r.x0); k <= hi(Math.max(ax, bx), r.x0, nx); k++) {
        const [px, py] = [r.x0 + k * PIXEL, r.y0 + j * PIXEL]
        const t = Math.max(0, Math.min(1, ((px - ax) * ux + (py - ay) * uy) / long))
        const d = Math.hypot(px - ax - t * ux, py - ay - t * uy) - half
        const at = j * nx + k
        if (d < away[at]) away[at] = d
      }
  }
  // pixels join from the nearest to plastic outwards
  const order = Array.from({ length: nx * ny }, (_, i) => i).filter((i) => away[i] < MOST / 2)
  order.sort((a, b) => away[a] - away[b])
  const parent = new Int32Array(nx * ny).fill(-1)
  const size = new Int32Array(nx * ny)
  const find = (i: number): number => {
    while (parent[i] !== i) {
      parent[i] = parent[parent[i]]
      i = parent[i]
    }
    return i
  }
  const large = 1.5 / PIXEL ** 2
  let apart: number | null = null
  let any = false
  for (const i of order) {
    parent[i] = i
    size[i] = away[i] <= 0 ? 1 : 0
    const x = i % nx
    for (const n of [x > 0 ? i - 1 : -1, x < nx - 1 ? i + 1 : -1, i - nx, i + nx]) {
      if (n < 0 || n >= parent.length || parent[n] < 0) continue
      const [a, b] = [find(i), find(n)]
      if (a === b) continue
      // beads of one piece overlap; what meets only as it grows were two pieces. The widest such gap is the joint's
      if (away[i] > 0 && size[a] >= large && size[b] >= large) apart = Math.max(apart ?? 0, 2 * away[i])
      parent[b] = a
      size[a] += size[b]
      any ||= size[a] >= large
    }
  }
  return apart ?? (any ? 0 : null)
}
