/** A picture as plain arrays: colours 0 to 1, and how near each pixel is. */
export class Canvas {
  readonly colour: Float32Array
  readonly near: Float32Array

  constructor(
    readonly width: number,
    readonly height: number,
    background: readonly [number, number, number],
  ) {
    this.colour = new Float32Array(width * height * 3)
    for (let i = 0; i < width * height; i++) this.colour.set(background, i * 3)
    this.near = new Float32Array(width * height).fill(-Infinity)
  }

  /** Paints a pixel where nothing nearer is. */
  dot(x: number, y: number, near: number, shade: number, colour: readonly [number, number, number]): void {
    if (x < 0 || y < 0 || x >= this.width || y >= this.height) return
    const i = y * this.width + x
    if (near < this.near[i]) return
    this.near[i] = near
    for (let k = 0; k < 3; k++) this.colour[i * 3 + k] = Math.max(0, Math.min(1, colour[k] * shade))
  }

  /** Lays a colour thinly over what is there, where nothing nearer is. */
  glaze(x: number, y: number, near: number, share: number, colour: readonly [number, number, number]): void {
    if (x < 0 || y < 0 || x >= this.width || y >= this.height) return
    const i = y * this.width + x
    if (near < this.near[i]) return
    for (let k = 0; k < 3; k++)
      this.colour[i * 3 + k] = this.colour[i * 3 + k] * (1 - share) + colour[k] * share
  }

  /** Bytes, red green blue, at half the size: each pixel the mean of four. */
  halved(): { data: Uint8Array; width: number; height: number } {
    const [w, h] = [this.width >> 1, this.height >> 1]
    const data = new Uint8Array(w * h * 3)
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++)
        for (let k = 0; k < 3; k++) {
          const at = (dx: number, dy: number) => this.colour[((2 * y + dy) * this.width + 2 * x + dx) * 3 + k]
          const mean = (at(0, 0) + at(1, 0) + at(0, 1) + at(1, 1)) / 4
          // light adds up before the eye's curve
          data[(y * w + x) * 3 + k] = Math.round(255 * Math.max(0, Math.min(1, mean)) ** (1 / 1.6))
        }
    return { data, width: w, height: h }
  }
}

/** #rrggbb as colours of light. */
export function colourOf(hex: string): [number, number, number] {
  const m = /^#([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})$/i.exec(hex)
  const own = m ? m.slice(1).map((v) => parseInt(v, 16) / 255) : [0.6, 0.6, 0.58]
  return own.map((v) => v ** 1.6) as [number, number, number]
}
