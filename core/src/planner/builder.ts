import { solidSpacing } from '../extrusion/bead'
import type { NumericPrintSetting, PrintSettings } from '../gcode/printSettings'
import { GcodeWriter } from '../gcode/writer'
import {
  circlePoints,
  grow,
  perimeterOf,
  rectanglePoints,
  startedAt,
  type Block,
  type Point,
  type Rect,
} from '../geometry/shapes'
import type { Machine } from '../machine/machine'
import { LINE_FLOW, LINE_SPEED, type LineKind } from './lineKinds'
import { PlanError, planFault } from './planError'

/** One layer of a program. */
export interface Layer {
  index: number
  /** Top of the layer, mm over the bed. */
  z: number
  h: number
  first: boolean
}
/** A step of the nozzle's heat from which on the program waits for it, °C. */
const SETTLE_FROM = 2
/** How far beside a body the head waits for a step of heat, mm. */
const ASIDE = 8
/** Space kept free along the edge of the bed, mm. */
const MARGIN = 6

/** Between a body and the wall that keeps draughts off, mm. */
const WALL_GAP = 5

export interface RunOptions {
  /** What stands on the bed and gets the brim the settings ask for; none where it is left out. */
  bases?: readonly Rect[]
  /** Layers under the minimum layer time are slowed. */
  slowDown?: boolean
  /** `draw` looks after the fan. */
  ownFan?: boolean
  /** `draw` looks after the nozzle's heat. */
  ownHeat?: boolean
  /** Lines of a brim that `draw` lays by itself; a wall against draughts goes round it. */
  ownBrim?: number
  /** A skirt goes round the foot. */
  skirt?: boolean
  /** The second layer's heats are set. */
  heats?: boolean
}

/**
 * Lays bodies layer by layer: walls, fills, fins and bridges at the settings' widths, flows and speeds, with their
 * fan, heats and minimum layer time. Every layer is gone through twice: first only to know how long it takes.
 */
export class Builder {
  readonly g: GcodeWriter
  /** Places where lines lie over air on purpose. */
  readonly open: Block[] = []
  /** Rough time, s, without ramps. */
  seconds = 0
  private dry = false
  private layerSeconds = 0
  private factor = 1
  private current: Layer = { index: 0, z: 0, h: 0, first: true }
  /** The settings as they are now; pieces change them as they go. */
  private readonly settings: PrintSettings
  private bounds: Rect | null = null
  private foot: Rect | null = null
  /** Where the head stands in the run that only measures time. */
  private at: Point = [0, 0]

  /**
   * @param given what stands unless {@link use} lays something over it
   * @param notes lines for the head of the file
   */
  constructor(
    readonly machine: Machine,
    readonly given: Readonly<PrintSettings>,
    title: string,
    notes: readonly string[] = [],
    /** Soft filament: slender shapes would whip about, so they are made thicker. */
    readonly stout = false,
  ) {
    this.settings = { ...given }
    this.g = new GcodeWriter(machine, given)
    this.g.begin(title)
    for (const n of notes) this.g.note(n)
  }

  /** A setting as it is now. */
  n(key: NumericPrintSetting): number {
    return this.settings[key]
  }

  /** Goes on with other settings. In the run that only measures time nothing is told to the machine. */
  use(settings: Partial<PrintSettings>): void {
    Object.assign(this.settings, settings)
    if (!this.dry) this.g.use(settings)
  }

  get layerIndex(): number {
    return this.current.index
  }

  get centre(): { x: number; y: number } {
    return this.g.centre
  }

  /** Layers up to a height, mm; the last one ends at or just above it. */
  layers(height: number): Layer[] {
    return this.layersOf(
      Math.max(1, Math.ceil((height - this.n('firstHeight')) / this.n('layerHeight') - 1e-6) + 1),
    )
  }

  /** So many layers from the bed on. */
  layersOf(count: number): Layer[] {
    const first = this.n('firstHeight')
    const h = this.n('layerHeight')
    return Array.from({ length: count }, (_, index) => ({
      index,
      z: Number((first + index * h).toFixed(4)),
      h: index ? h : first,
      first: index === 0,
    }))
  }

  /** @throws PlanError when a body on this foot cannot stand on the machine */
  fits(box: Rect, height: number): void {
    if (!this.holds(box)) throw new PlanError(planFault('part-too-wide'))
    if (height > this.machine.height - 12) throw new PlanError(planFault('part-too-tall'))
  }

  /** Whether the bed has room for it. */
  private holds(box: Rect): boolean {
    const { bed } = this.machine
    const c = this.centre
    return bed.shape === 'round'
      ? rectanglePoints(box).every(([x, y]) => Math.hypot(x - c.x, y - c.y) <= bed.width / 2 - MARGIN)
      : box.x0 >= MARGIN && box.y0 >= MARGIN && box.x1 <= bed.width - MARGIN && box.y1 <= bed.depth - MARGIN
  }

  /** Goes through all layers. Heats, fan and skirt are seen to; `draw` lays the body. */
  run(layers: readonly Layer[], foot: Rect, draw: (layer: Layer) => void, options: RunOptions = {}): void {
    const { slowDown = true, skirt = true, heats = true, bases = [], ownBrim } = options
    this.foot = foot
    const brim = bases.length ? this.brimLines(bases) : 0
    const walled = (bases.length > 0 || ownBrim !== undefined) && layers.length > 1
    const wall = walled ? this.draughtWall(foot, ownBrim ?? brim) : null
    for (const layer of layers) {
      this.current = layer
      const before = { ...this.settings }
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
      Object.assign(this.settings, before)
      this.dry = false
      if (!options.ownFan) this.fan(this.n('fan'))
      if (layer.index === 1 && heats) {
        if (!options.ownHeat) this.g.nozzle(this.n('nozzle'))
        this.g.bed(this.n('bed'))
      }
      if (layer.first && skirt && !wall) this.skirt(grow(foot, brim * this.spacing()))
      if (wall) this.around(wall, this.n('draughtWall'))
      if (layer.first) for (const base of bases) this.around(grow(base, this.spacing() / 2), brim, true)
      draw(layer)
    }
    this.seconds += 90 // homing and the end; heating depends on the machine
  }

  /** Fan in %, off on the first layers and rising after them as the settings have it. */
  fan(percent: number): void {
    if (this.dry) return
    const on = this.current.index - this.n('fanOffLayers') + 1
    const share = Math.min(1, on / Math.max(1, this.n('fanRampLayers')))
    this.g.setFan(on < 1 ? 0 : percent * share)
  }

  /** Lines of brim there is room for: half of the way to the next body, and not beyond the bed. */
  private brimLines(bases: readonly Rect[]): number {
    const wanted = this.n('brimLines')
    if (!wanted) return 0
    const spacing = solidSpacing(this.n('firstWidth'), this.n('firstHeight'))
    const apart = (a: Rect, b: Rect) =>
      Math.hypot(Math.max(0, a.x0 - b.x1, b.x0 - a.x1), Math.max(0, a.y0 - b.y1, b.y0 - a.y1))
    let room = wanted * spacing
    bases.forEach((a, i) => bases.slice(i + 1).forEach((b) => (room = Math.min(room, apart(a, b) / 2 - 1))))
    for (const b of bases) while (room > 0 && !this.holds(grow(b, room))) room -= spacing
    return Math.max(0, Math.floor(room / spacing))
  }

  /** Where the wall against draughts stands; null where none is wanted or the bed has no room. */
  private draughtWall(foot: Rect, brim: number): Rect | null {
    if (!this.n('draughtWall')) return null
    const spacing = solidSpacing(this.n('firstWidth'), this.n('firstHeight'))
    const wall = grow(foot, WALL_GAP + brim * spacing)
    return this.holds(grow(wall, this.n('draughtWall') * spacing)) ? wall : null
  }

  /** Loops side by side round a rectangle, outermost first where they lead to the body. */
  private around(rect: Rect, lines: number, inwards = false): void {
    const spacing = this.spacing()
    for (let i = 0; i < lines; i++) {
      const k = inwards ? lines - 1 - i : i
      this.loop(rectanglePoints(grow(rect, k * spacing)), 'outer', { early: 0, wipe: 0 })
    }
  }

  private skirt(foot: Rect): void {
    const spacing = this.spacing()
    for (let k = Math.max(1, this.n('skirtLoops')) - 1; k >= 0; k--)
      this.loop(rectanglePoints(grow(foot, 4 + k * spacing)), 'outer', { early: 0, wipe: 0 })
  }

  /** Width of a line on this layer, mm. */
  width(): number {
    return this.current.first ? this.n('firstWidth') : this.n('outerWidth')
  }
  /** Distance of lines side by side on this layer, mm. */
  spacing(): number {
    return solidSpacing(this.width(), this.current.h)
  }

  private flow(kind: LineKind): number {
    return (this.n('flow') / 100) * (this.n(this.current.first ? 'flowFirst' : LINE_FLOW[kind]) / 100)
  }

  private speed(kind: LineKind): number {
    if (this.current.first) return this.n('firstSpeed')
    const v = this.n(LINE_SPEED[kind])
    return Math.max(Math.min(this.n('speedFloor'), v), v * this.factor)
  }

  private accelerate(kind: LineKind): void {
    this.g.acceleration(
      this.n(
        this.current.first
          ? 'firstAcceleration'
          : kind === 'outer'
            ? 'outerAcceleration'
            : 'innerAcceleration',
      ),
    )
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
  /** Seconds of a line, with what its ramps take longer. */
  private spend(way: number, speed: number, corners = 1): void {
    const pace = Math.min(this.n('outerAcceleration'), this.machine.limits.acceleration)
    this.layerSeconds += way / speed + (corners * speed) / (2 * pace)
  }

  /** Seconds of getting to where a line begins: the travel, its ramps, the pull-back and the restart. */
  private arrive(to: Point): void {
    const way = Math.hypot(to[0] - this.at[0], to[1] - this.at[1])
    this.at = to
    if (way < 1e-6) return
    const { limits } = this.machine
    const speed = Math.min(this.n('travelSpeed'), limits.speed)
    this.layerSeconds +=
      way / speed + speed / Math.min(this.n('travelAcceleration'), limits.travelAcceleration)
    if (this.settings.retract && way > this.n('minTravel'))
      this.layerSeconds += (2 * this.n('retractLength')) / this.n('retractSpeed')
  }

  /** A closed loop. Corners in order; it returns to the first. */
  loop(points: readonly Point[], kind: 'outer' | 'inner', end?: { early: number; wipe: number }): void {
    const v = this.speed(kind)
    if (this.dry) {
      this.arrive(points[0])
      return this.spend(perimeterOf(points), v, points.length)
    }
    for (const [x, y] of points) this.seen(x, y)
    this.accelerate(kind)
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
    kind: LineKind = 'outer',
    own: { width?: number; speed?: number; flow?: number; near?: number } = {},
  ): void {
    const v = own.speed ?? this.speed(kind)
    const width = own.width ?? this.width()
    const flow = own.flow ?? this.flow(kind)
    if (this.dry) {
      const joined = Math.hypot(points[0][0] - this.at[0], points[0][1] - this.at[1]) <= (own.near ?? 0)
      if (joined) this.spend(Math.hypot(points[0][0] - this.at[0], points[0][1] - this.at[1]), v)
      else this.arrive(points[0])
      for (let i = 1; i < points.length; i++)
        this.spend(Math.hypot(points[i][0] - points[i - 1][0], points[i][1] - points[i - 1][1]), v)
      this.at = points[points.length - 1]
      return
    }
    for (const [x, y] of points) this.seen(x, y)
    this.accelerate(kind)
    this.g.reach(points[0], this.current.z, own.near ?? 0, width, this.current.h, v, flow)
    for (const [x, y] of points.slice(1)) this.g.line(x, y, width, this.current.h, v, flow)
  }

  /** Walls of a rectangle, given by its outer edge; inner ones first unless the settings say otherwise. */
  walls(rect: Rect, count: number, from = 0): void {
    const { order, inset } = this.wallPlan(count)
    for (const k of order) {
      const r = grow(rect, -inset(k))
      if (r.x1 - r.x0 < 0.2 || r.y1 - r.y0 < 0.2) continue
      this.loop(startedAt(rectanglePoints(r), from), k ? 'inner' : 'outer')
    }
  }

  /** Walls of a cylinder, outer diameter given; or of a bore, with `inside`. */
  rings(cx: number, cy: number, diameter: number, count: number, inside = false, from = 0): void {
    const { order, inset } = this.wallPlan(count)
    for (const k of order) {
      const d = diameter + (inside ? 2 : -2) * inset(k)
      if (d < 0.4) continue
      this.loop(circlePoints(cx, cy, d, undefined, from), k ? 'inner' : 'outer')
    }
  }

  private wallPlan(count: number) {
    const w = this.width()
    const s = this.spacing()
    const outsideFirst = this.settings.wallOrder === 'outside-first'
    const order = Array.from({ length: count }, (_, k) => (outsideFirst ? k : count - 1 - k))
    return { order, inset: (k: number) => w / 2 + k * s }
  }

  /** Lines side by side across a rectangle, given by the edge of the bead. */
  fill(
    rect: Rect,
    along: 'x' | 'y',
    kind: LineKind = 'solid',
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
  overAir(box: Block): void {
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

  /** Goes on at another heat. After a large step it is waited for, beside the body and not on it. */
  heat(value: number): void {
    const before = this.g.value('nozzle')
    this.use({ nozzle: value })
    if (this.dry || Math.abs(value - before) < SETTLE_FROM) return
    const { bed } = this.machine
    const left = bed.shape === 'round' ? -bed.width / 2 : 0
    if (this.foot) this.g.travel(Math.max(left + 2, this.foot.x0 - ASIDE), (this.foot.y0 + this.foot.y1) / 2)
    this.g.settle()
  }

  get isDry(): boolean {
    return this.dry
  }

  finish(): { gcode: string; box: Block } {
    // what was stepped is set back to what the recipe has
    const { nozzle: _, ...back } = this.given
    this.use(back)
    this.g.acceleration(this.n('outerAcceleration'))
    this.g.end()
    const b = this.bounds ?? { x0: 0, y0: 0, x1: 0, y1: 0 }
    return { gcode: this.g.text(), box: { ...b, z0: 0, z1: this.current.z } }
  }
}
