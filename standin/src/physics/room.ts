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
  let [minX, minY, maxX, maxY] = [Infinity, Infinity, -Infinity, -Infinity]
  for (let i = 0; i < n; i++) {
    const k = from + i
    const [dx, dy] = [x1[k] - x0[k], y1[k] - y0[k]]
    long[i] = Math.hypot(dx, dy)
    if (long[i] < SHORTEST) continue
    ux[i] = dx / long[i]
    uy[i] = dy / long[i]
    mx[i] = (x0[k] + x1[k]) / 2
    my[i] = (y0[k] + y1[k]) / 2
    minX = Math.min(minX, mx[i])
    minY = Math.min(minY, my[i])
    maxX = Math.max(maxX, mx[i])
    maxY = Math.max(maxY, my[i])
  }
  if (minX > maxX) return room
  // pieces by bucket, one list after another, with an empty bucket all round
  const nx = Math.floor((maxX - minX) / BUCKET) + 3
  const ny = Math.floor((maxY - minY) / BUCKET) + 3
  const bucketOf = (i: number) =>
    (Math.floor((my[i] - minY) / BUCKET) + 1) * nx + Math.floor((mx[i] - minX) / BUCKET) + 1
  const begins = new Int32Array(nx * ny + 1)
  for (let i = 0; i < n; i++) if (long[i] >= SHORTEST) begins[bucketOf(i) + 1]++
  for (let b = 0; b < nx * ny; b++) begins[b + 1] += begins[b]
  const filled = begins.slice()
  const members = new Int32Array(begins[nx * ny])
  for (let i = 0; i < n; i++) if (long[i] >= SHORTEST) members[filled[bucketOf(i)]++] = i
  for (let i = 0; i < n; i++) {
    if (long[i] < SHORTEST) continue
    let [left, right] = [Infinity, Infinity]
    const own = bucketOf(i)
    for (let row = own - nx; row <= own + nx; row += nx)
      // three buckets beside each other are one list
      for (let m = begins[row - 1]; m < begins[row + 2]; m++) {
        const j = members[m]
        const [dx, dy] = [mx[j] - mx[i], my[j] - my[i]]
        const off = dy * ux[i] - dx * uy[i]
        const away = Math.abs(off)
        if (away > FARTHEST || away < NEAREST) continue
        if (Math.abs(dx * ux[i] + dy * uy[i]) > 0.45 * (long[i] + long[j])) continue
        if (Math.abs(ux[i] * uy[j] - uy[i] * ux[j]) > PARALLEL) continue
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
