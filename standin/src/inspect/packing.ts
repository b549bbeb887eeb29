import { roomOf } from '../physics/room'
import type { PrintedPart } from '../part'

/** Layers that are looked at, spread over the height. */
const LOOKED_AT = 24

/**
 * What lies in a part against the room there is for it, above the lowest layer: lines that have neighbours fill what is between
 * their middles when all is well. A thumb feels it as gaps or as ridges, whatever the file meant to feed.
 * @returns 1 where it just fills; null where no line has a neighbour
 */
export function packingOf(part: PrintedPart): number | null {
  const { count, z, h, x0, y0, x1, y1, width, hangs } = part
  const layers: [from: number, to: number][] = []
  for (let i = 0, from = 0; i <= count; i++) {
    if (i < count && z[i] === z[from]) continue
    if (from < count && !part.onBed[from]) layers.push([from, i])
    from = i
  }
  const every = Math.max(1, Math.floor(layers.length / LOOKED_AT))
  let [plastic, room] = [0, 0]
  layers.forEach(([from, to], k) => {
    if (k % every) return
    const wide = roomOf({ x0, y0, x1, y1 }, from, to)
    for (let i = from; i < to; i++) {
      const own = wide[i - from]
      if (Number.isNaN(own) || hangs[i] > 0.4) continue
      const way = Math.hypot(x1[i] - x0[i], y1[i] - y0[i])
      plastic += way * (width[i] - h[i] * (1 - Math.PI / 4)) * h[i]
      room += way * own * h[i]
    }
  })
  return room > 0 ? plastic / room : null
}
