/** A place on a picture, pixels from its upper left. */
export interface Pixel {
  x: number
  y: number
}
/** A picture in grey, row by row, 0 to 255. */
export interface GreyPicture {
  width: number
  height: number
  grey: Uint8Array | Uint8ClampedArray | Float32Array
}

/**
 * The perspective that takes a rectangle's corners on a picture to true millimetres (a homography by the direct linear
 * transform, Hartley & Zisserman 2004).
 * @param corners on the picture, in order round
 * @param width mm from the first to the second corner
 * @param height mm from the second to the third
 * @returns from a pixel to mm; null when three of the corners lie in a line
 */
export function straighten(
  corners: readonly [Pixel, Pixel, Pixel, Pixel],
  width: number,
  height: number,
): ((p: Pixel) => Pixel) | null {
  const to: Pixel[] = [
    { x: 0, y: 0 },
    { x: width, y: 0 },
    { x: width, y: height },
    { x: 0, y: height },
  ]
  const a: number[][] = []
  corners.forEach((p, i) => {
    const q = to[i]
    a.push([p.x, p.y, 1, 0, 0, 0, -q.x * p.x, -q.x * p.y, q.x])
    a.push([0, 0, 0, p.x, p.y, 1, -q.y * p.x, -q.y * p.y, q.y])
  })
  const n = 8
  for (let j = 0; j < n; j++) {
    let best = j
    for (let i = j; i < n; i++) if (Math.abs(a[i][j]) > Math.abs(a[best][j])) best = i
    if (Math.abs(a[best][j]) < 1e-9) return null
    ;[a[j], a[best]] = [a[best], a[j]]
    for (let i = 0; i < n; i++) {
      if (i === j) continue
      const f = a[i][j] / a[j][j]
      for (let k = j; k <= n; k++) a[i][k] -= f * a[j][k]
    }
  }
  const h = a.map((r, i) => r[n] / r[i])
  return ({ x, y }) => {
    const w = h[6] * x + h[7] * y + 1
    return { x: (h[0] * x + h[1] * y + h[2]) / w, y: (h[3] * x + h[4] * y + h[5]) / w }
  }
}

/**
 * Brightness along a line on a picture, each sample the mean over a strip across it (bilinear between pixels).
 * @param half pixels to either side of the line
 * @param map to mm, where the picture was straightened; samples are then even in mm along the line
 * @returns the profile, and mm (or pixels) from one sample to the next
 */
export function profileAlong(
  picture: GreyPicture,
  from: Pixel,
  to: Pixel,
  half: number,
  map: ((p: Pixel) => Pixel) | null = null,
): { profile: number[]; step: number } {
  const pixels = Math.hypot(to.x - from.x, to.y - from.y)
  const count = Math.max(2, Math.min(4096, Math.round(pixels)))
  const nx = -(to.y - from.y) / pixels
  const ny = (to.x - from.x) / pixels
  const at = (t: number): Pixel => ({ x: from.x + (to.x - from.x) * t, y: from.y + (to.y - from.y) * t })
  // where along the line a share of the true length lies
  const along = map ? evenly(at, map, count) : Array.from({ length: count }, (_, i) => i / (count - 1))
  const profile = along.map((t) => {
    const p = at(t)
    let sum = 0
    for (let k = -half; k <= half; k++) sum += greyAt(picture, p.x + nx * k, p.y + ny * k)
    return sum / (2 * half + 1)
  })
  const [a, b] = [map ? map(from) : from, map ? map(to) : to]
  return { profile, step: Math.hypot(b.x - a.x, b.y - a.y) / (count - 1) }
}

/** Shares of a line on the picture at even steps of its true length. */
function evenly(at: (t: number) => Pixel, map: (p: Pixel) => Pixel, count: number): number[] {
  const fine = 4 * count
  const way = [0]
  let before = map(at(0))
  for (let i = 1; i <= fine; i++) {
    const now = map(at(i / fine))
    way.push(way[i - 1] + Math.hypot(now.x - before.x, now.y - before.y))
    before = now
  }
  const out: number[] = []
  let k = 0
  for (let i = 0; i < count; i++) {
    const wanted = (way[fine] * i) / (count - 1)
    while (k < fine && way[k + 1] < wanted) k++
    const span = way[k + 1] - way[k]
    out.push((k + (span > 0 ? (wanted - way[k]) / span : 0)) / fine)
  }
  return out
}

function greyAt({ width, height, grey }: GreyPicture, x: number, y: number): number {
  const cx = Math.min(width - 1.001, Math.max(0, x))
  const cy = Math.min(height - 1.001, Math.max(0, y))
  const i = Math.floor(cx)
  const j = Math.floor(cy)
  const u = cx - i
  const v = cy - j
  const o = j * width + i
  return (
    grey[o] * (1 - u) * (1 - v) +
    grey[o + 1] * u * (1 - v) +
    grey[o + width] * (1 - u) * v +
    grey[o + width + 1] * u * v
  )
}
