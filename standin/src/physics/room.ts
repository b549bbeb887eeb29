/** Straight pieces of beads of one layer, mm. */
export interface Pieces {
  x0: ArrayLike<number>
  y0: ArrayLike<number>
  x1: ArrayLike<number>
  y1: ArrayLike<number>
}

/** mm a neighbour's middle line may be away, and how unlike its distance on both sides may be. */
const FARTHEST = 1.2
const NEAREST = 0.12
const ALIKE = 0.2
/** A piece shorter than this has no direction to speak of, mm. */
const SHORTEST = 0.4
/** Sine of the angle under which two pieces lie side by side. */
const PARALLEL = 0.06
/** mm of a bucket in which neighbours are looked for. */
const BUCKET = 6

/**
 * The room a bead is meant to fill: how far the middle lines of its neighbours are from its own, which the file decides by where it
 * sends the head, whatever it feeds there. A wall has a neighbour on one side only, a line of a filled face on both.
 * @param from first piece of the layer
 * @param to one past its last
 * @returns mm for each piece; NaN where it lies alone
 */
export function roomOf({ x0, y0, x1, y1 }: Pieces, from: number, to: number): Float32Array {
  const n = to - from
  const room = new Float32Array(n).fill(NaN)
  const [ux, uy, long, mx, my] = Array.from({ length: 5 }, () => new Float64Array(n))
  const buckets = new Map<number, number[]>()
  const key = (x: number, y: number) =>
    (Math.floor(x / BUCKET) + 5000) * 10_000 + Math.floor(y / BUCKET) + 5000
  for (let i = 0; i < n; i++) {
    const k = from + i
    const [dx, dy] = [x1[k] - x0[k], y1[k] - y0[k]]
    long[i] = Math.hypot(dx, dy)
    if (long[i] < SHORTEST) continue
    ux[i] = dx / long[i]
    uy[i] = dy / long[i]
    mx[i] = (x0[k] + x1[k]) / 2
    my[i] = (y0[k] + y1[k]) / 2
    const own = key(mx[i], my[i])
    const list = buckets.get(own)
    if (list) list.push(i)
    else buckets.set(own, [i])
  }
  for (let i = 0; i < n; i++) {
    if (long[i] < SHORTEST) continue
    let [left, right] = [Infinity, Infinity]
    for (let bx = -1; bx <= 1; bx++)
      for (let by = -1; by <= 1; by++)
        for (const j of buckets.get(key(mx[i] + bx * BUCKET, my[i] + by * BUCKET)) ?? []) {
          if (j === i || Math.abs(ux[i] * uy[j] - uy[i] * ux[j]) > PARALLEL) continue
          const [dx, dy] = [mx[j] - mx[i], my[j] - my[i]]
          if (Math.abs(dx * ux[i] + dy * uy[i]) > 0.45 * (long[i] + long[j])) continue
          const off = dy * ux[i] - dx * uy[i]
          if (Math.abs(off) < NEAREST) continue
          if (off > 0) left = Math.min(left, off)
          else right = Math.min(right, -off)
        }
    const [near, far] = left < right ? [left, right] : [right, left]
    if (near > FARTHEST) continue
    // where the sides differ it stands between two kinds of line, and neither tells
    if (far > FARTHEST) room[i] = near
    else if (far - near < ALIKE * near) room[i] = (near + far) / 2
  }
  return room
}
