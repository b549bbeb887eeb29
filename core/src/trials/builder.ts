import { solidSpacing } from '../extrusion/bead'
import { GcodeWriter } from '../gcode/writer'
import type { Machine } from '../materials/machine'
import type { RecipeValues } from '../recipe/derive'
import type { SettingKey, SettingValue } from '../recipe/settings'
import type { CellBox, OpenPlace } from './types'

export type Point = readonly [number, number]
export interface Rect {
  x0: number
  y0: number
  x1: number
  y1: number
}
export interface Layer {
  index: number
  /** Top of the layer, mm over the bed. */
  z: number
  h: number
  first: boolean
}
type Values = Partial<Record<SettingKey, SettingValue>>

const SETTLE_FROM = 2

/**
 * Lays test pieces layer by layer: walls, fills, fins and bridges at the recipe's widths, flows and speeds, with its
 * fan, heats and minimum layer time. Every layer is gone through twice: first only to know how long it takes.
 */
export class Builder {
  readonly g: GcodeWriter
  readonly open: OpenPlace[] = []
  seconds = 0
  private dry = false
  private layerSeconds = 0
  private factor = 1
  private current: Layer = { index: 0, z: 0, h: 0, first: true }
  private readonly recipe: RecipeValues
  private readonly held: Values = {}
  private bounds: Rect | null = null

  constructor(
    readonly machine: Machine,
    recipe: RecipeValues,
    title: string,
    notes: readonly string[] = [],
  ) {
    this.recipe = recipe
    this.g = new GcodeWriter(machine, recipe)
    this.g.begin(title)
    for (const n of notes) this.g.note(n)
  }

  /** A value of the recipe, or what stands in its place now. */
  n(key: SettingKey): number {
    return Number(this.held[key] ?? this.recipe[key].value)
  }
  is(key: SettingKey): SettingValue {
    return this.held[key] ?? this.recipe[key].value
  }

  /** Goes on with other values. In the run that only measures time nothing is told to the machine. */
  use(values: Values): void {
    Object.assign(this.held, values)
    if (!this.dry) this.g.use(values)
  }

  /** What the recipe itself says. */
  recipeValue(key: SettingKey): number {
    return Number(this.recipe[key].value)
  }
  get layerIndex(): number {
    return this.current.index
  }

  get centre(): { x: number; y: number } {
    return this.g.centre
  }

  /** Layers up to a height, mm; the last one ends at or just above it. */
  layers(height: number): Layer[] {
    const first = this.n('firstHeight')
    const h = this.n('layerHeight')
    const count = Math.max(1, Math.ceil((height - first) / h - 1e-6) + 1)
    return Array.from({ length: count }, (_, index) => ({
      index,
      z: Number((first + index * h).toFixed(4)),
      h: index ? h : first,
      first: index === 0,
    }))
  }

  /** Throws a sentence when the piece cannot stand on this machine. */
  fits(box: Rect, height: number): void {
    const { bed } = this.machine
    const margin = 6
    const c = this.centre
    const corners = [
      [box.x0, box.y0],
      [box.x1, box.y0],
      [box.x0, box.y1],
      [box.x1, box.y1],
    ]
    const wide =
      bed.shape === 'round'
        ? corners.some(([x, y]) => Math.hypot(x - c.x, y - c.y) > bed.width / 2 - margin)
        : box.x0 < margin || box.y0 < margin || box.x1 > bed.width - margin || box.y1 > bed.depth - margin
    if (wide) throw new RangeError('This piece is too large for the bed: take fewer steps.')
    if (height > this.machine.height - 12)
      throw new RangeError('This piece is too tall for the machine: take fewer steps.')
  }

  /** Goes through all layers. Heats, fan and skirt are seen to; `draw` lays the piece. */
  run(
    layers: readonly Layer[],
    foot: Rect,
    draw: (layer: Layer) => void,
    options: { slowDown?: boolean; ownFan?: boolean; ownHeat?: boolean } = {},
  ): void {
    const { slowDown = true } = options
    for (const layer of layers) {
      this.current = layer
      const before = { ...this.held }
      this.dry = true
      this.factor = 1
      this.layerSeconds = 0
      draw(layer)
      const wanted = this.n('minLayerTime')
      const slow = slowDown && !layer.first && this.layerSeconds > 0 && this.layerSeconds < wanted
      this.factor = slow ? this.layerSeconds / wanted : 1
      if (slow) {
        // once more, with the slowing
        this.layerSeconds = 0
        draw(layer)
      }
      this.seconds += this.layerSeconds
      for (const k of Object.keys(this.held) as SettingKey[]) delete this.held[k]
      Object.assign(this.held, before)
      this.dry = false
      if (!options.ownFan) this.fan(this.n('fan'))
      if (layer.index === 1) {
        if (!options.ownHeat) this.g.nozzle(this.n('nozzle'))
        this.g.bed(this.n('bed'))
      }
      if (layer.first) this.skirt(foot)
      draw(layer)
    }
    this.seconds += 90 // homing and the end; heating depends on the machine
  }

  /** Fan in %, off on the recipe's first layers. */
  fan(percent: number): void {
    if (this.dry) return
    this.g.setFan(this.current.index < this.n('fanOffLayers') ? 0 : percent)
  }

  private skirt(foot: Rect): void {
    const spacing = solidSpacing(this.width(), this.current.h)
    const loops = Math.max(1, this.n('skirtLoops'))
    for (let k = loops - 1; k >= 0; k--) {
      const r = 4 + k * spacing
      this.loop(rectPoints(grow(foot, r)), 'outer', { early: 0, wipe: 0 })
    }
  }

  /** Width of a line on this layer, mm. */
  width(): number {
    return this.current.first ? this.n('firstWidth') : this.n('outerWidth')
  }
  /** Distance of lines side by side on this layer, mm. */
  spacing(): number {
    return solidSpacing(this.width(), this.current.h)
  }

  private flow(kind: 'outer' | 'inner' | 'solid' | 'bridge'): number {
    const own = { outer: 'flowOuter', inner: 'flowInner', solid: 'flowSolid', bridge: 'flowBridge' } as const
    return ((this.n('flow') / 100) * (this.current.first ? this.n('flowFirst') : this.n(own[kind]))) / 100
  }

  private speed(kind: 'outer' | 'inner' | 'solid' | 'bridge'): number {
    if (this.current.first) return this.n('firstSpeed')
    const own = {
      outer: 'outerSpeed',
      inner: 'innerSpeed',
      solid: 'solidSpeed',
      bridge: 'bridgeSpeed',
    } as const
    const v = this.n(own[kind])
    return Math.max(Math.min(this.n('speedFloor'), v), v * this.factor)
  }

  private seen(x: number, y: number): void {
    const b = this.bounds
    if (!b) this.bounds = { x0: x, y0: y, x1: x, y1: y }
    else {
      b.x0 = Math.min(b.x0, x)
      b.y0 = Math.min(b.y0, y)
      b.x1 = Math.max(b.x1, x)
      b.y1 = Math.max(b.y1, y)
    }
  }
  private spend(way: number, speed: number): void {
    this.layerSeconds += way / speed
  }

  /** A closed loop. Corners in order; it returns to the first. */
  loop(points: readonly Point[], kind: 'outer' | 'inner', end?: { early: number; wipe: number }): void {
    const v = this.speed(kind)
    if (this.dry) {
      let way = 0
      points.forEach((p, i) => (way += Math.hypot(p[0] - points.at(i - 1)![0], p[1] - points.at(i - 1)![1])))
      this.spend(way, v)
      return
    }
    for (const [x, y] of points) this.seen(x, y)
    const stop =
      end ??
      (kind === 'outer' && !this.current.first
        ? { early: this.n('earlyStop'), wipe: this.n('wipe') }
        : { early: 0, wipe: 0 })
    this.g.loop(points, this.current.z, this.width(), this.current.h, v, this.flow(kind), stop)
  }

  /** An open line through points. */
  line(
    points: readonly Point[],
    kind: 'outer' | 'inner' | 'solid' | 'bridge' = 'outer',
    own: { width?: number; speed?: number; flow?: number; near?: number } = {},
  ): void {
    const v = own.speed ?? this.speed(kind)
    const width = own.width ?? this.width()
    const flow = own.flow ?? this.flow(kind)
    if (this.dry) {
      for (let i = 1; i < points.length; i++)
        this.spend(Math.hypot(points[i][0] - points[i - 1][0], points[i][1] - points[i - 1][1]), v)
      return
    }
    for (const [x, y] of points) this.seen(x, y)
    this.g.reach(points[0], this.current.z, own.near ?? 0, width, this.current.h, v, flow)
    for (const [x, y] of points.slice(1)) this.g.line(x, y, width, this.current.h, v, flow)
  }

  /** Walls of a rectangle, given by its outer edge; inner ones first unless the recipe says otherwise. */
  walls(rect: Rect, count: number, from = 0): void {
    const { order, inset } = this.wallPlan(count)
    for (const k of order) {
      const r = grow(rect, -inset(k))
      if (r.x1 - r.x0 < 0.2 || r.y1 - r.y0 < 0.2) continue
      this.loop(turned(rectPoints(r), from), k ? 'inner' : 'outer')
    }
  }

  /** Walls of a cylinder, outer diameter given; or of a bore, with `inside`. */
  rings(cx: number, cy: number, diameter: number, count: number, inside = false, from = 0): void {
    const { order, inset } = this.wallPlan(count)
    for (const k of order) {
      const d = diameter + (inside ? 2 : -2) * inset(k)
      if (d < 0.4) continue
      this.loop(circle(cx, cy, d, from), k ? 'inner' : 'outer')
    }
  }

  private wallPlan(count: number) {
    const w = this.width()
    const s = this.spacing()
    const outsideFirst = this.is('wallOrder') === 'outside-first'
    const order = Array.from({ length: count }, (_, k) => (outsideFirst ? k : count - 1 - k))
    return { order, inset: (k: number) => w / 2 + k * s }
  }

  /** Lines side by side across a rectangle, given by the edge of the bead. */
  fill(
    rect: Rect,
    along: 'x' | 'y',
    kind: 'solid' | 'bridge' = 'solid',
    own: { speed?: number; flow?: number } = {},
  ): void {
    const w = this.width()
    const s = this.spacing()
    const span = along === 'x' ? rect.y1 - rect.y0 : rect.x1 - rect.x0
    const count = Math.max(1, Math.floor((span - w) / s + 1e-6) + 1)
    const start = (along === 'x' ? rect.y0 : rect.x0) + (span - (count - 1) * s) / 2
    for (let i = 0; i < count; i++) {
      const v = start + i * s
      const [a, b] = along === 'x' ? [rect.x0 + w / 2, rect.x1 - w / 2] : [rect.y0 + w / 2, rect.y1 - w / 2]
      if (b - a < w / 2) return
      const [p, q] = i % 2 ? [b, a] : [a, b]
      const at = (t: number): Point => (along === 'x' ? [t, v] : [v, t])
      this.line([at(p), at(q)], kind, { ...own, near: i ? 2.5 * s : 0 })
    }
  }

  /** A solid rectangle: walls, and lines inside them. */
  slab(rect: Rect, walls = 1): void {
    this.walls(rect, walls)
    const inner = grow(rect, -(this.width() / 2 + (walls - 0.5) * this.spacing()))
    if (inner.x1 - inner.x0 > this.width() && inner.y1 - inner.y0 > this.width())
      this.fill(inner, this.current.index % 2 ? 'x' : 'y')
  }

  /** Notes a place where lines lie over air on purpose. */
  overAir(box: CellBox): void {
    if (this.dry) return
    const last = this.open.at(-1)
    if (
      last &&
      last.x0 === box.x0 &&
      last.y0 === box.y0 &&
      last.x1 === box.x1 &&
      last.y1 === box.y1 &&
      box.z0 <= last.z1 + 1e-6
    )
      last.z1 = Math.max(last.z1, box.z1)
    else this.open.push({ ...box })
  }

  /** Waits for the heat after a large step of it. */
  heat(value: number): void {
    const before = this.g.value('nozzle')
    this.use({ nozzle: value })
    if (!this.dry && Math.abs(value - before) >= SETTLE_FROM) this.g.settle()
  }

  get isDry(): boolean {
    return this.dry
  }

  finish(): { gcode: string; box: CellBox } {
    this.g.end()
    const b = this.bounds ?? { x0: 0, y0: 0, x1: 0, y1: 0 }
    return { gcode: this.g.text(), box: { ...b, z0: 0, z1: this.current.z } }
  }
}

export const grow = (r: Rect, by: number): Rect => ({
  x0: r.x0 - by,
  y0: r.y0 - by,
  x1: r.x1 + by,
  y1: r.y1 + by,
})
/** Corners, beginning in front on the left, counter-clockwise. */
export const rectPoints = (r: Rect): Point[] => [
  [r.x0, r.y0],
  [r.x1, r.y0],
  [r.x1, r.y1],
  [r.x0, r.y1],
]
/** The same loop from another corner on. */
export const turned = (points: Point[], by: number): Point[] => {
  const k = ((by % points.length) + points.length) % points.length
  return [...points.slice(k), ...points.slice(0, k)]
}
export function circle(cx: number, cy: number, d: number, from = 0): Point[] {
  const sides = Math.max(24, Math.min(72, Math.round(d * 3)))
  return Array.from({ length: sides }, (_, i): Point => {
    const a = (2 * Math.PI * (i + from)) / sides
    return [cx + (d / 2) * Math.cos(a), cy + (d / 2) * Math.sin(a)]
  })
}
