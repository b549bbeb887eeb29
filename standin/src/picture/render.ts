import { randomStream } from '@verimend/core/statistics'
import type { PrintedPart } from '../part'
import type { World } from '../world'
import { lookAt } from '../inspect/look'
import { WHOLE } from '../inspect/signs'
import { Canvas, colourOf } from './canvas'

/** From the front, from above, or the first layer as it lay on the bed. */
export const VIEWS = ['side', 'top', 'first'] as const
export type View = (typeof VIEWS)[number]

export interface PictureOptions {
  /** #rrggbb of the filament. */
  colour?: string
  /** #rrggbb of what is behind, seen from the side. */
  background?: string
  /** Pixels of the longer side. */
  size?: number
  /** Only what lies in this block; all of it when left out. */
  block?: { x0: number; x1: number; y0: number; y1: number; z0: number; z1: number }
  /** What the picture takes in, mm across and up; what is shown, with some room round it, when left out. */
  frame?: Frame
}

/** A window on a part, mm: across, and up or along the bed. */
export interface Frame {
  u0: number
  u1: number
  v0: number
  v1: number
}

export interface Picture {
  /** Bytes, red green blue. */
  data: Uint8Array
  width: number
  height: number
  /** mm of a pixel, and what lies at the picture's upper left corner, mm across and up. */
  scale: number
  left: number
  top: number
}

const BACKGROUND = colourOf('#e9e6dd')
const BED = colourOf('#cfc9ba')
/** mm left free round the part. */
const MARGIN = 4

/** A picture of a part from its computed surface. */
export function render(part: PrintedPart, world: World, view: View, options: PictureOptions = {}): Picture {
  return new Rendering(part, world, view, options).run()
}

class Rendering {
  private readonly canvas: Canvas
  private readonly perMm: number
  private readonly left: number
  private readonly top: number
  private readonly colour: readonly [number, number, number]
  private readonly noise: () => number
  private readonly foam: number

  constructor(
    private readonly part: PrintedPart,
    private readonly world: World,
    private readonly view: View,
    private readonly options: PictureOptions,
  ) {
    const { size = 900 } = options
    const frame = options.frame ?? this.extent()
    const [wide, tall] = [frame.u1 - frame.u0, frame.v1 - frame.v0]
    this.perMm = (2 * size) / Math.max(wide, tall)
    this.left = frame.u0
    this.top = frame.v1
    this.canvas = new Canvas(
      Math.max(64, Math.round(wide * this.perMm)) & ~1,
      Math.max(64, Math.round(tall * this.perMm)) & ~1,
      view !== 'side' ? BED : options.background ? colourOf(options.background) : BACKGROUND,
    )
    this.colour = colourOf(options.colour ?? '#b98a4a')
    this.noise = randomStream(world.seed ^ 0x1f3d)
    this.foam = lookAt(part, world, WHOLE).foam
  }

  private shown(i: number): boolean {
    const { x0, y0, x1, y1, z, h } = this.part
    if (this.view === 'first' && !this.part.onBed[i]) return false
    const { block } = this.options
    if (!block) return true
    const [x, y, m] = [(x0[i] + x1[i]) / 2, (y0[i] + y1[i]) / 2, z[i] - h[i] / 2]
    return x >= block.x0 && x <= block.x1 && y >= block.y0 && y <= block.y1 && m >= block.z0 && m <= block.z1
  }

  /** What is shown, with room round it. */
  private extent(): Frame {
    const { part, view } = this
    let [u0, u1, v0, v1] = [Infinity, -Infinity, Infinity, -Infinity]
    for (let i = 0; i < part.count; i++) {
      if (!this.shown(i)) continue
      const half = part.width[i] / 2
      u0 = Math.min(u0, part.x0[i] - half, part.x1[i] - half)
      u1 = Math.max(u1, part.x0[i] + half, part.x1[i] + half)
      const [a, b] =
        view === 'side' ? [part.z[i] - part.h[i], part.z[i]] : [part.y0[i] - half, part.y0[i] + half]
      v0 = Math.min(v0, a)
      v1 = Math.max(v1, b)
    }
    if (!(u1 > u0)) [u0, u1, v0, v1] = [0, 1, 0, 1]
    return { u0: u0 - MARGIN, u1: u1 + MARGIN, v0: v0 - MARGIN, v1: v1 + MARGIN }
  }

  run(): Picture {
    const { view } = this
    if (view === 'side') this.ground()
    for (let i = 0; i < this.part.count; i++) {
      if (!this.shown(i)) continue
      if (view === 'side') this.beadFromSide(i)
      else this.beadFromAbove(i)
    }
    this.blobs()
    if (view !== 'first') this.threads()
    const { data, width, height } = this.canvas.halved()
    return { data, width, height, scale: 2 / this.perMm, left: this.left, top: this.top }
  }

  private px = (u: number) => Math.round((u - this.left) * this.perMm)
  private py = (v: number) => Math.round((this.top - v) * this.perMm)

  /** The bed, seen edge on. */
  private ground(): void {
    const from = this.py(0)
    for (let y = from; y < this.canvas.height; y++)
      for (let x = 0; x < this.canvas.width; x++) this.canvas.dot(x, y, -1e9, 1, BED)
  }

  /** mm that the foot has come up here, which dies out over the lowest fifth of the part's reach. */
  private liftedAt(x: number, y: number): number {
    let most = 0
    for (const c of this.part.lifted) {
      const far = Math.hypot(c.x - x, c.y - y)
      most = Math.max(most, c.by * Math.max(0, 1 - far / 25) ** 2)
    }
    return most
  }

  private beadFromSide(i: number): void {
    const { part, canvas, world } = this
    const { h, width, gloss, ripple, sag, bond } = part
    const reversed = part.x1[i] < part.x0[i]
    const [ax, ay] = reversed ? [part.x1[i], part.y1[i]] : [part.x0[i], part.y0[i]]
    const [bx, by] = reversed ? [part.x0[i], part.y0[i]] : [part.x1[i], part.y1[i]]
    const way = Math.hypot(bx - ax, by - ay) || 1
    const flare = part.z[i] < 0.7 ? part.foot.flare * (1 - part.z[i] / 0.7) : 0
    const half = width[i] / 2 + world.spread + flare
    // a bead that runs away from the eye is as wide as it is thick
    const ends = (half * Math.abs(by - ay)) / way
    const [u0, u1] = [ax - Math.max(ends, 0.3 * half), bx + Math.max(ends, 0.3 * half)]
    const from = this.px(u0)
    const [begin, end] = [Math.max(0, from), Math.min(canvas.width - 1, this.px(u1))]
    const grain = 0.02 + 0.5 * this.foam
    for (let x = begin; x <= end; x++) {
      const t = Math.max(0, Math.min(1, ((x + 0.5) / this.perMm + this.left - ax) / Math.max(1e-6, bx - ax)))
      const y = ay + (by - ay) * t
      const near = -(y - half * (Math.abs(bx - ax) / way))
      const up = this.liftedAt(ax + (bx - ax) * t, y)
      const top = part.z[i] - 0.6 * sag[i] + up
      const swing =
        ripple[i] * 9 * Math.sin(((x - from) / this.perMm) * 5) * Math.exp(-(x - from) / this.perMm / 3)
      const [first, last] = [this.py(top), this.py(top - h[i])]
      for (let v = Math.max(0, first); v <= Math.min(canvas.height - 1, last); v++) {
        const across = (v - first + 0.5) / Math.max(1, last - first + 1)
        // lit from above and the left: the upper half of a bead is bright, its lower edge in the shade of the next
        const round = 0.62 + 0.42 * Math.cos((across - 0.28) * 2.4)
        const shine = 0.28 * gloss[i] * Math.exp(-(((across - 0.3) / 0.13) ** 2))
        const weak = bond[i] > 0 && bond[i] < 0.6 && across > 0.8 ? 0.85 : 1
        const stands = 1 + 0.9 * (width[i] - 0.45) * (across < 0.5 ? 1 : -1)
        const shade = (round + shine + swing) * weak * stands * (1 + grain * (this.noise() - 0.5))
        canvas.dot(x, v, near, shade, this.colour)
      }
    }
  }

  private beadFromAbove(i: number): void {
    const { part, canvas, view, world } = this
    const { x0, y0, x1, y1, z, h, width, gloss } = part
    const half = (width[i] / 2 + (view === 'top' ? world.spread : 0)) * this.perMm
    const [ax, ay, bx, by] = [
      (x0[i] - this.left) * this.perMm,
      (this.top - y0[i]) * this.perMm,
      (x1[i] - this.left) * this.perMm,
      (this.top - y1[i]) * this.perMm,
    ]
    const [dx, dy] = [bx - ax, by - ay]
    const long = dx * dx + dy * dy || 1
    const way = Math.sqrt(long)
    // light from the upper left: beads across it are brighter on that side
    const [nx, ny] = [-dy / way, dx / way]
    const light = nx * -0.6 + ny * -0.8
    const grain = 0.03 + 0.5 * this.foam
    const level = view === 'first' ? Math.max(0, 1 - h[i] / width[i]) : 0
    // only what lies within the picture
    const span = (p: number, q: number, most: number) =>
      [Math.max(0, Math.floor(Math.min(p, q) - half)), Math.min(most - 1, Math.max(p, q) + half)] as const
    const [leftmost, rightmost] = span(ax, bx, canvas.width)
    const [topmost, lowest] = span(ay, by, canvas.height)
    for (let y = topmost; y <= lowest; y++)
      for (let x = leftmost; x <= rightmost; x++) {
        const t = Math.max(0, Math.min(1, ((x - ax) * dx + (y - ay) * dy) / long))
        const [ox, oy] = [x - ax - t * dx, y - ay - t * dy]
        const off = Math.hypot(ox, oy) / half
        if (off > 1) continue
        const side = (ox * nx + oy * ny) / half
        // pressed on the bed a line is flat but for its round edges: what of them stands free is a groove
        const edge = Math.max(0, off - level) / (1 - level)
        const bulge = Math.sqrt(Math.max(0, 1 - edge * edge))
        const shade =
          0.72 +
          (0.3 * bulge - 0.22 + 0.2 * edge * side * light) +
          0.16 * gloss[i] * Math.exp(-((side - 0.2) ** 2) * 18)
        // ploughed through each other, first lines stand up in ridges
        const ridge = view === 'first' && width[i] > 0.62 && off > 0.8 ? 0.25 : 0
        canvas.dot(
          x,
          y,
          z[i] + 0.02 * bulge + ridge,
          shade + ridge + grain * (this.noise() - 0.5),
          this.colour,
        )
      }
  }

  /** Bumps and dents where lines begin and end. */
  private blobs(): void {
    const { part, canvas, view, perMm } = this
    for (const b of part.blobs) {
      if (Math.abs(b.volume) < 0.02) continue
      if (view === 'first' && b.z > 0.45) continue
      const { block } = this.options
      if (
        block &&
        (b.x < block.x0 ||
          b.x > block.x1 ||
          b.y < block.y0 ||
          b.y > block.y1 ||
          b.z < block.z0 ||
          b.z > block.z1)
      )
        continue
      const radius = Math.min(0.9, 0.75 * Math.cbrt(Math.abs(b.volume))) * perMm
      const [cx, cy] = [this.px(b.x), view === 'side' ? this.py(b.z - 0.1) : this.py(b.y)]
      const near = view === 'side' ? -(b.y - 0.3) : b.z + 0.05
      for (let y = -radius; y <= radius; y++)
        for (let x = -radius; x <= radius; x++) {
          const off = Math.hypot(x, y * 1.4) / radius
          if (off > 1) continue
          const light = (-x * 0.5 - y * 0.8) / radius
          const shade = b.volume > 0 ? 0.8 + 0.35 * light : 0.5 - 0.15 * light
          canvas.dot(Math.round(cx + x), Math.round(cy + y), near, shade, this.colour)
        }
    }
  }

  /** Threads hang a little between their ends; thin ones are hardly more than a glint. */
  private threads(): void {
    const { part, canvas, view, perMm } = this
    const { block } = this.options
    for (const s of part.strings) {
      const [mx, my] = [(s.x0 + s.x1) / 2, (s.y0 + s.y1) / 2]
      if (
        block &&
        (mx < block.x0 - 4 ||
          mx > block.x1 + 4 ||
          my < block.y0 - 4 ||
          my > block.y1 + 4 ||
          s.z < block.z0 ||
          s.z > block.z1)
      )
        continue
      const long = Math.max(1, Math.hypot(s.x1 - s.x0, s.y1 - s.y0))
      const thick = Math.sqrt((s.volume / long) * (4 / Math.PI))
      // a hair that nobody would notice is not seen in a picture either
      const share = Math.max(0, Math.min(0.95, (thick - 0.012) * 16))
      if (!share) continue
      const half = Math.max(0, (thick / 2) * perMm - 0.5)
      const hangs = Math.min(1.2, 0.02 * long + 0.4 * this.noise())
      const [u0, u1] = [s.x0, s.x1]
      const steps = Math.max(2, Math.ceil(Math.hypot(u1 - u0, view === 'side' ? 0 : s.y1 - s.y0) * perMm))
      for (let k = 0; k <= steps; k++) {
        const t = k / steps
        const u = u0 + (u1 - u0) * t
        const y = s.y0 + (s.y1 - s.y0) * t
        const v = view === 'side' ? s.z - hangs * 4 * t * (1 - t) : y
        const near = view === 'side' ? -y : s.z
        for (let w = -Math.round(half); w <= Math.round(half); w++)
          canvas.glaze(this.px(u), this.py(v) + w, near, share, this.colour)
      }
    }
  }
}
