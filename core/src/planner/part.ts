import { solidSpacing } from '../extrusion/bead'
import type { PrintSettings } from '../gcode/printSettings'
import {
  circlePoints,
  sidesWithin,
  rectangleAround,
  rectanglePoints,
  startedAt,
  type Point,
  type Rect,
} from '../geometry/shapes'
import type { Machine } from '../machine/machine'
import { Builder, type Layer } from './builder'
import type { LineKind } from './lineKinds'
import type { PartSettings } from './settings'
import { FOOT } from './slicing'

/** A simple part: an upright body on a rectangle or a circle, with an optional bore and narrowing steps. */
export interface PartOptions {
  title?: string
  shape: 'box' | 'round'
  /** mm; for a round body the diameter. */
  width: number
  depth?: number
  height: number
  /** Bore from top to bottom, mm; 0 for none. */
  bore?: number
  /** From these heights on the body is so much narrower, mm a side. */
  steps?: { from: number; inset: number }[]
  /** How many stand side by side in X, and the space between them. */
  copies?: number
  apart?: number
  /** One after another instead of layer by layer. */
  oneByOne?: boolean
  /** The head waits this long over the part after these layers (counted from 1). */
  stops?: { layer: number; seconds: number }[]
  /** Sides of a circle. */
  sides?: number
  /** Layers quicker than the minimum layer time are slowed, as programs that prepare paths do. */
  slowDown?: boolean
  /** How its sizes are put right beforehand; as they are when left out. */
  sizes?: Sizes
}

/** What puts sizes right before they are printed. */
export type Sizes = Pick<
  PartSettings,
  'contourOffset' | 'holeOffset' | 'footTrim' | 'scaleX' | 'scaleY' | 'scaleZ'
>
const AS_THEY_ARE: Sizes = {
  contourOffset: 0,
  holeOffset: 0,
  footTrim: 0,
  scaleX: 100,
  scaleY: 100,
  scaleZ: 100,
}

/** mm that the practice piece is to measure over all. */
export const PRACTICE_SIZE = { x: 2 * 24 + 38, y: 20, z: 16 }

/** What is printed for practice: two blocks that get narrower, with a gap to cross and a bore through each. */
export const PRACTICE_PIECE: PartOptions = {
  title: 'practice piece',
  shape: 'box',
  width: 24,
  depth: 20,
  height: 16,
  bore: 8,
  steps: [{ from: 11, inset: 5 }],
  copies: 2,
  apart: 38,
  slowDown: true,
}

interface Body {
  cx: number
  cy: number
}

/** mm that the chords of a round part's circles may lie inside them, unless the part says how many sides they have. */
const CHORD = 0.01

/**
 * Writes a simple part as G-code: skirt or brim, walls, solid bottoms and tops, infill, the settings' seam place,
 * wipe, early stop, fan and layer time. For the demo, tests and measurements of speed.
 * @throws RangeError when the part does not fit the bed
 */
export function writePart(machine: Machine, settings: PrintSettings, o: PartOptions): string {
  const b = new Builder(machine, settings, o.title ?? 'part')
  const copies = o.copies ?? 1
  const sizes = o.sizes ?? AS_THEY_ARE
  const pitch = ((o.width + (o.apart ?? 10)) * sizes.scaleX) / 100
  const tall = (o.height * sizes.scaleZ) / 100
  const { x, y } = b.centre
  const bodies = Array.from({ length: copies }, (_, k): Body => ({
    cx: x + (k - (copies - 1) / 2) * pitch,
    cy: y,
  }))
  const count = Math.max(1, Math.round((tall - settings.firstHeight) / settings.layerHeight) + 1)
  const layers = b.layersOf(count)
  const part = new Part(b, settings, o, sizes, count)
  const brim = settings.brimLines
  const lay = (own: readonly Body[], first: boolean) => {
    const depth = o.depth ?? o.width
    const foot: Rect = {
      x0: own[0].cx - o.width / 2,
      x1: own[own.length - 1].cx + o.width / 2,
      y0: y - depth / 2,
      y1: y + depth / 2,
    }
    b.run(layers, foot, (layer) => part.layer(own, layer), {
      slowDown: o.slowDown === true,
      skirt: first && !brim && settings.skirtLoops > 0,
      heats: first,
      // a wall round one of several would be in the way of the next
      ...(!o.oneByOne && { ownBrim: brim }),
    })
  }
  if (!o.oneByOne) lay(bodies, true)
  else
    bodies.forEach((body, k) => {
      lay([body], k === 0)
      if (k < copies - 1) b.g.travel(body.cx, body.cy, Math.min(machine.height, o.height + 5))
    })
  return b.finish().gcode
}

class Part {
  constructor(
    private readonly b: Builder,
    private readonly settings: PrintSettings,
    private readonly o: PartOptions,
    private readonly sizes: Sizes,
    private readonly count: number,
  ) {}

  private outline(shape: 'box' | 'round', body: Body, w: number, d: number): Point[] {
    return shape === 'box'
      ? rectanglePoints(rectangleAround(body.cx, body.cy, w, d))
      : circlePoints(body.cx, body.cy, w, this.o.sides ?? sidesWithin(w, CHORD))
  }

  /** How much narrower a side is at a height, mm. */
  private insetAt(z: number): number {
    return (this.o.steps ?? []).filter((s) => z > s.from).reduce((sum, s) => sum + s.inset, 0)
  }

  layer(bodies: readonly Body[], layer: Layer): void {
    const { b, settings, o, sizes } = this
    const drawn = (z: number) => (z * 100) / sizes.scaleZ
    const inset = this.insetAt(drawn(layer.z))
    const above = this.insetAt(drawn(layer.z + settings.topLayers * settings.layerHeight))
    const out = 2 * (sizes.contourOffset - (layer.z <= FOOT + 1e-6 ? sizes.footTrim : 0))
    const w = ((o.width - 2 * inset) * sizes.scaleX) / 100 + out
    const d = (((o.depth ?? o.width) - 2 * inset) * sizes.scaleY) / 100 + out
    const scale = (sizes.scaleX + sizes.scaleY) / 200
    const bore = o.bore ? o.bore * scale - out + 2 * sizes.holeOffset : 0
    const solid = layer.index < settings.bottomLayers || layer.index >= this.count - settings.topLayers
    if (layer.first) this.brim(bodies, w, d)
    for (const body of bodies) {
      this.walls(body, layer, w, d, bore)
      const gap = b.width() / 2 + (Math.max(1, settings.wallCount) - 0.5) * b.spacing()
      const inside = { w: w - 2 * gap, d: d - 2 * gap, bore: bore ? bore + 2 * gap : 0 }
      if (solid || above > inset)
        this.fill(
          body,
          inside,
          layer,
          layer.index >= this.count - 1 ? 'top' : 'solid',
          b.width(),
          b.spacing(),
        )
      else if (settings.sparseDensity > 0)
        this.fill(
          body,
          inside,
          layer,
          'sparse',
          settings.fillWidth,
          solidSpacing(settings.fillWidth, layer.h) / (settings.sparseDensity / 100),
        )
    }
    if (!b.isDry) for (const s of o.stops ?? []) if (s.layer === layer.index + 1) b.g.dwell(s.seconds)
  }

  private brim(bodies: readonly Body[], w: number, d: number): void {
    const spacing = this.b.spacing()
    for (let k = this.settings.brimLines - 1; k >= 0; k--)
      for (const body of bodies) {
        const out = (2 * k + 1) * spacing
        this.b.loop(this.outline(this.o.shape, body, w + out, d + out), 'outer', { early: 0, wipe: 0 })
      }
  }

  private walls(body: Body, layer: Layer, w: number, d: number, bore: number): void {
    const { b, o } = this
    const width = b.width()
    const count = Math.max(1, this.settings.wallCount)
    const outsideFirst = this.settings.wallOrder === 'outside-first'
    for (let i = 0; i < count; i++) {
      const k = outsideFirst ? i : count - 1 - i
      const inner = width / 2 + k * b.spacing()
      const ring = (points: Point[]) =>
        b.loop(this.begun(points, layer.index, k, body), k ? 'inner' : 'outer')
      if (w - 2 * inner > width && d - 2 * inner > width)
        ring(this.outline(o.shape, body, w - 2 * inner, d - 2 * inner))
      if (bore) ring(this.outline('round', body, bore + 2 * inner, bore + 2 * inner))
    }
  }

  /** A loop begun where the settings want its seam. */
  private begun(points: Point[], l: number, k: number, body: Body): Point[] {
    switch (this.settings.seamPlace) {
      case 'scattered': {
        // a fixed scatter, the same in every run
        const t = Math.abs(Math.sin((l + 1) * 12.9898 + k * 78.233) * 43758.5453) % 1
        const at = Math.floor(t * points.length)
        if (points.length > 8) return startedAt(points, at)
        const [p, q] = [points[at], points[(at + 1) % points.length]]
        const s = 0.1 + 0.8 * ((t * points.length) % 1)
        const between: Point = [p[0] + (q[0] - p[0]) * s, p[1] + (q[1] - p[1]) * s]
        return [between, ...startedAt(points, at + 1)]
      }
      case 'turned-away':
        return startedAt(
          points,
          points.reduce((m, p, i) => (p[1] - body.cy > points[m][1] - body.cy ? i : m), 0),
        )
      default:
        return points
    }
  }

  /** Lines across the inside, alternating between the axes; around the bore. */
  private fill(
    body: Body,
    inside: { w: number; d: number; bore: number },
    layer: Layer,
    kind: LineKind,
    width: number,
    spacing: number,
  ): void {
    const across = layer.index % 2 === 0
    const span = across ? inside.d : inside.w
    const count = Math.floor(span / spacing) + 1
    const from = -((count - 1) * spacing) / 2
    let forth = true
    for (let i = 0; i < count; i++) {
      const v = from + i * spacing
      const half =
        this.o.shape === 'round'
          ? Math.sqrt(Math.max(0, (inside.w / 2) ** 2 - v * v))
          : (across ? inside.w : inside.d) / 2
      if (half < width) continue
      const r = inside.bore / 2
      const hole = r > 0 && Math.abs(v) < r ? Math.sqrt(r * r - v * v) : 0
      const pieces: [number, number][] = hole
        ? [
            [-half, -hole],
            [hole, half],
          ]
        : [[-half, half]]
      if (!forth) pieces.reverse().forEach((p) => p.reverse())
      pieces.forEach(([p, q], k) => {
        if (Math.abs(q - p) < width) return
        const at = (t: number): Point => (across ? [body.cx + t, body.cy + v] : [body.cx + v, body.cy + t])
        this.b.line([at(p), at(q)], kind, { width, near: k ? 0 : spacing * 2.5 })
      })
      forth = !forth
    }
  }
}
