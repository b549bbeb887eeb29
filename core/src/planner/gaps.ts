import { scoped, type Area, type Kernel, type Ring, type Solid } from '../geometry/kernel'
import { onBed } from './plan'
import { DUST, ringsOf, slicesOf } from './slicing'
import type { PartSettings } from './settings'

/** Where two pieces that never join come nearest. */
export interface PieceGap {
  /** Numbers of the pieces, the larger one first. */
  pieces: readonly [number, number]
  /** mm between their edges as they are laid. */
  gap: number
  /** Top of the layer, mm over the bed, and the two places. */
  z: number
  from: readonly [x: number, y: number]
  /** Straight up, so that the contour does nothing for it. */
  upright?: true
  to: readonly [x: number, y: number]
}

/** Moving pieces of a part that is printed in place. */
export interface Pieces {
  count: number
  /** mm³ of each, the largest first. */
  volumes: number[]
  /** Nearest places of each two that come nearer than is looked for, the nearest first. */
  gaps: PieceGap[]
}

/** Wider gaps than this are none of a joint, mm. */
const WIDEST = 3
/** Less of one over the other is none, mm². */
const OVERLAP = 0.2

interface Island {
  layer: number
  piece: number
  rings: Ring[]
  area: number
  box: Box
  /** Lives in the kernel's memory. */
  part: Area
}
interface Box {
  x0: number
  y0: number
  x1: number
  y1: number
}

/**
 * Pieces that never touch, and the least distance between any two of them, layer by layer: what a print-in-place joint has
 * of air between its faces, with the offsets of a recipe. Where one lies over the other, the air straight up between them
 * comes besides, in whole layers.
 * @param onStep called with the share that is done; may throw to end the work
 */
export function piecesOf(
  kernel: Kernel,
  solid: Solid,
  settings: PartSettings,
  onStep?: (share: number) => void,
): Pieces {
  return scoped((keep) => {
    const placed = keep(onBed(solid, 0, 0))
    const slices = slicesOf(kernel, placed, settings, keep, onStep && ((s) => onStep(0.6 * s)))
    // islands that overlap from layer to layer are one piece
    const parent: number[] = []
    const root = (i: number): number => {
      while (parent[i] !== i) i = parent[i] = parent[parent[i]]
      return i
    }
    const islands: Island[] = []
    let below: { island: Island; area: ReturnType<typeof slicesOf>[number]['area'] }[] = []
    slices.forEach(({ index, area, h }, i) => {
      onStep?.(0.6 + (0.2 * i) / slices.length)
      const parts = area.isEmpty() ? [] : area.decompose()
      const now = parts.map((part) => {
        keep(part)
        const rings = ringsOf(part)
        const size = part.area()
        const island: Island = {
          layer: index,
          piece: parent.length,
          rings,
          area: size * h,
          box: boxOf(rings),
          part,
        }
        parent.push(island.piece)
        islands.push(island)
        for (const other of below) {
          if (!meet(island.box, other.island.box, 0)) continue
          if (keep(part.intersect(other.area)).area() > DUST)
            parent[root(island.piece)] = root(other.island.piece)
        }
        return { island, area: part }
      })
      below = now
    })
    const volumes = new Map<number, number>()
    for (const island of islands) {
      const piece = root(island.piece)
      volumes.set(piece, (volumes.get(piece) ?? 0) + island.area)
    }
    const order = [...volumes.entries()].sort((a, b) => b[1] - a[1])
    const number = new Map(order.map(([piece], i) => [piece, i]))
    for (const island of islands) island.piece = number.get(root(island.piece))!
    const best = new Map<string, PieceGap>()
    const byLayer = new Map<number, Island[]>()
    for (const island of islands) byLayer.set(island.layer, [...(byLayer.get(island.layer) ?? []), island])
    let done = 0
    for (const [layer, list] of byLayer) {
      onStep?.(0.8 + (0.2 * done++) / byLayer.size)
      for (let i = 0; i < list.length; i++)
        for (let j = i + 1; j < list.length; j++) {
          const [a, b] = list[i].piece < list[j].piece ? [list[i], list[j]] : [list[j], list[i]]
          if (a.piece === b.piece) continue
          const key = `${a.piece} ${b.piece}`
          const least = best.get(key)?.gap ?? WIDEST
          if (!meet(a.box, b.box, least)) continue
          const found = nearest(a.rings, b.rings, least)
          if (found) best.set(key, { pieces: [a.piece, b.piece], z: slices[layer].z, ...found })
        }
    }
    // straight up: the next of another piece under each island
    const reach = Math.ceil(WIDEST / Math.max(0.01, settings.layerHeight))
    if (order.length > 1)
      for (const a of islands)
        for (let layer = a.layer - 1; layer >= Math.max(0, a.layer - reach); layer--)
          for (const b of byLayer.get(layer) ?? []) {
            if (a.piece === b.piece || !meet(a.box, b.box, 0)) continue
            const gap = slices[a.layer].z - slices[a.layer].h - slices[b.layer].z
            const key = `upright ${[a.piece, b.piece].sort((p, q) => p - q).join(' ')}`
            if (gap <= 0 || gap >= (best.get(key)?.gap ?? WIDEST)) continue
            const over = keep(a.part.intersect(b.part))
            if (over.area() < OVERLAP) continue
            const [x, y] = middleOf(ringsOf(over)[0])
            const pieces = a.piece < b.piece ? ([a.piece, b.piece] as const) : ([b.piece, a.piece] as const)
            best.set(key, {
              pieces,
              z: slices[b.layer].z,
              gap: Number(gap.toFixed(4)),
              from: [x, y],
              to: [x, y],
              upright: true,
            })
          }
    return {
      count: order.length,
      volumes: order.map(([, v]) => v),
      gaps: [...best.values()].sort((a, b) => a.gap - b.gap),
    }
  })
}

const middleOf = (ring: Ring): [number, number] => [
  ring.reduce((s, [x]) => s + x, 0) / ring.length,
  ring.reduce((s, [, y]) => s + y, 0) / ring.length,
]

function boxOf(rings: readonly Ring[]): Box {
  const box: Box = { x0: Infinity, y0: Infinity, x1: -Infinity, y1: -Infinity }
  for (const r of rings)
    for (const [x, y] of r) {
      box.x0 = Math.min(box.x0, x)
      box.x1 = Math.max(box.x1, x)
      box.y0 = Math.min(box.y0, y)
      box.y1 = Math.max(box.y1, y)
    }
  return box
}
const meet = (a: Box, b: Box, within: number) =>
  a.x0 <= b.x1 + within && b.x0 <= a.x1 + within && a.y0 <= b.y1 + within && b.y0 <= a.y1 + within

type P = readonly [number, number]

/** Nearest places of two outlines, if they are nearer than `least`. */
function nearest(
  a: readonly Ring[],
  b: readonly Ring[],
  least: number,
): { gap: number; from: P; to: P } | null {
  let best: { gap: number; from: P; to: P } | null = null
  let most = least
  const look = (p: P, ring: Ring, back: boolean) => {
    for (let i = 0, j = ring.length - 1; i < ring.length; j = i++) {
      const [ax, ay] = ring[j]
      const [bx, by] = ring[i]
      // far off at once
      if (
        Math.min(ax, bx) - p[0] > most ||
        p[0] - Math.max(ax, bx) > most ||
        Math.min(ay, by) - p[1] > most ||
        p[1] - Math.max(ay, by) > most
      )
        continue
      const [dx, dy] = [bx - ax, by - ay]
      const t = Math.max(0, Math.min(1, ((p[0] - ax) * dx + (p[1] - ay) * dy) / (dx * dx + dy * dy || 1)))
      const q: P = [ax + t * dx, ay + t * dy]
      const gap = Math.hypot(q[0] - p[0], q[1] - p[1])
      if (gap < most) {
        most = gap
        best = back ? { gap, from: q, to: p } : { gap, from: p, to: q }
      }
    }
  }
  // two outlines that do not cross are nearest at a corner of one of them
  for (const ra of a) for (const p of ra) for (const rb of b) look(p, rb, false)
  for (const rb of b) for (const p of rb) for (const ra of a) look(p, ra, true)
  return best
}
