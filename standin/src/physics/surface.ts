import { MoveKind, type Program } from '@verimend/core/gcode'
import { Grid } from '@verimend/core/geometry'
import { later } from './thermal'

/** mm of the finest raster. */
const FINEST = 0.2
/** mm between places of a travel that are looked at. */
const STRIDE = 0.8
/** How much more slowly a wall cools as a whole than a bead of it. From memory. */
const WALL_SLOWER = 2.2

/** Shares of a stretch at which it is looked what it rests on: of a long one and of a short one. */
const ALONG = [0.2, 0.5, 0.8]
const MIDDLE = [0.5]

/** Stretches that there is room for at first. */
const ROOM = 8192
/** Stands for nothing: what was never laid on. */
const NOTHING = 0

/** What lies where: of each cell of the raster which stretch was laid on it last, and which before this layer. */
export class Surface {
  readonly grid: Grid
  /** Numbers of stretches, by cell. */
  private readonly top: Int32Array
  private readonly below: Int32Array
  /** When each stretch was laid, how hot, and in which layer. */
  private at = new Float32Array(ROOM)
  private hot = new Float32Array(ROOM)
  private layerOf = new Int32Array(ROOM)
  private count = 1
  /** The layer that is being laid, and its first stretch. */
  private layer = -1
  private first = 1

  constructor(program: Program) {
    this.grid = gridOf(program)
    this.top = new Int32Array(this.grid.size)
    this.below = new Int32Array(this.grid.size)
    this.at[NOTHING] = -1e9
    this.layerOf[NOTHING] = -1
  }

  /** Whether something of a layer lies at a place. */
  lies(x: number, y: number, layer: number): boolean {
    const cell = this.grid.at(x, y)
    return cell >= 0 && this.layerOf[this.top[cell]] === layer
  }

  /** The stretch under what is laid in a layer: what was laid in it hides what was there before. */
  private under(cell: number, layer: number): number {
    const top = this.top[cell]
    return this.layerOf[top] === layer ? this.below[cell] : top
  }

  /** Share of a stretch's width with nothing under it, and a cell that has something; −1 for none. */
  restsOn(ax: number, ay: number, bx: number, by: number, width: number, layer: number) {
    const way = Math.hypot(bx - ax, by - ay) || 1
    const ox = (-(by - ay) / way) * 0.4 * width
    const oy = ((bx - ax) / way) * 0.4 * width
    let held = 0
    let all = 0
    let best = -1
    const least = Math.max(0, layer - 1)
    for (const t of way > 1.5 ? ALONG : MIDDLE)
      for (let side = -1; side <= 1; side++) {
        const cell = this.grid.at(ax + (bx - ax) * t + side * ox, ay + (by - ay) * t + side * oy)
        all++
        if (cell < 0 || this.layerOf[this.under(cell, layer)] < least) continue
        held++
        if (best < 0 || side === 0) best = cell
      }
    return { hangs: 1 - held / all, cell: best }
  }

  /** °C now of what lies under a layer. */
  heatBelow(cell: number, layer: number, now: number, air: number, evens: number, slow: number): number {
    const under = this.under(cell, layer)
    return later(this.hot[under], air, now - this.at[under], evens, slow * WALL_SLOWER)
  }

  /** Notes that a bead lies here now. */
  mark(
    ax: number,
    ay: number,
    bx: number,
    by: number,
    width: number,
    hot: number,
    layer: number,
    now: number,
  ): void {
    const way = Math.hypot(bx - ax, by - ay)
    const { cell: size } = this.grid
    const steps = Math.max(1, Math.ceil(way / (0.9 * size)))
    const lanes = Math.max(0, Math.round((0.5 * width) / size))
    const ox = way > 0 ? (-(by - ay) / way) * size : 0
    const oy = way > 0 ? ((bx - ax) / way) * size : 0
    const { top, below } = this
    const own = this.add(hot, layer, now)
    const { first } = this
    const { minX, minY, nx, ny } = this.grid
    const dx = (bx - ax) / steps
    const dy = (by - ay) / steps
    for (let lane = -lanes; lane <= lanes; lane++) {
      let px = ax + lane * ox
      let py = ay + lane * oy
      let last = -1
      for (let k = 0; k <= steps; k++, px += dx, py += dy) {
        // as `grid.at`, in what is done most often of all
        const cx = ((px - minX) / size) | 0
        const cy = ((py - minY) / size) | 0
        if (px < minX || py < minY || cx >= nx || cy >= ny) continue
        const cell = cy * nx + cx
        if (cell === last) continue
        last = cell
        if (top[cell] < first) below[cell] = top[cell]
        top[cell] = own
      }
    }
  }

  /** Numbers a stretch. */
  private add(hot: number, layer: number, now: number): number {
    if (layer !== this.layer) {
      this.layer = layer
      this.first = this.count
    }
    if (this.count === this.at.length) {
      const wider = <T extends Float32Array | Int32Array>(old: T, next: T): T => {
        next.set(old)
        return next
      }
      this.at = wider(this.at, new Float32Array(2 * this.count))
      this.hot = wider(this.hot, new Float32Array(2 * this.count))
      this.layerOf = wider(this.layerOf, new Int32Array(2 * this.count))
    }
    this.at[this.count] = now
    this.hot[this.count] = hot
    this.layerOf[this.count] = layer
    return this.count++
  }

  /** Share of a way that leads through open air at the height of a layer. */
  open(ax: number, ay: number, bx: number, by: number, layer: number): number {
    const steps = Math.max(2, Math.ceil(Math.hypot(bx - ax, by - ay) / STRIDE))
    let open = 0
    for (let k = 1; k < steps; k++) {
      if (!this.lies(ax + ((bx - ax) * k) / steps, ay + ((by - ay) * k) / steps, layer)) open++
    }
    return open / (steps - 1)
  }
}

/** A raster over what is fed, finer than a line is wide. */
function gridOf({ x, y, kind, count }: Program): Grid {
  let [minX, minY, maxX, maxY] = [Infinity, Infinity, -Infinity, -Infinity]
  for (let i = 0; i < count; i++) {
    if (kind[i] !== MoveKind.Extrude) continue
    minX = Math.min(minX, x[i])
    maxX = Math.max(maxX, x[i])
    minY = Math.min(minY, y[i])
    maxY = Math.max(maxY, y[i])
  }
  if (!(maxX >= minX)) [minX, minY, maxX, maxY] = [0, 0, 1, 1]
  return Grid.around({ minX, minY, maxX, maxY }, 2, FINEST, 900)
}
