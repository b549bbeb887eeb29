import { MoveKind, type Program } from '@verimend/core/gcode'
import { Grid } from '@verimend/core/geometry'
import { later } from './thermal'

/** mm of the finest raster. */
const FINEST = 0.2
/** mm between places of a travel that are looked at. */
const STRIDE = 0.8
/** How much more slowly a wall cools as a whole than a bead of it. From memory. */
const WALL_SLOWER = 2.2

/** What lies where: of each cell when, how hot and in which layer it was last laid on, and the same of what lay there before. */
export class Surface {
  readonly grid: Grid
  private readonly at: Float32Array
  private readonly hot: Float32Array
  readonly layerOf: Int32Array
  private readonly belowAt: Float32Array
  private readonly belowHot: Float32Array
  private readonly belowLayer: Int32Array

  constructor(program: Program) {
    this.grid = gridOf(program)
    this.at = new Float32Array(this.grid.size).fill(-1e9)
    this.hot = new Float32Array(this.grid.size)
    this.layerOf = new Int32Array(this.grid.size).fill(-1)
    this.belowAt = this.at.slice()
    this.belowHot = this.hot.slice()
    this.belowLayer = this.layerOf.slice()
  }

  /** Share of a stretch's width with nothing under it, and a cell that has something; −1 for none. */
  restsOn(ax: number, ay: number, bx: number, by: number, width: number, layer: number) {
    const way = Math.hypot(bx - ax, by - ay) || 1
    const [ox, oy] = [(-(by - ay) / way) * 0.4 * width, ((bx - ax) / way) * 0.4 * width]
    let [held, all, best] = [0, 0, -1]
    const least = Math.max(0, layer - 1)
    for (const t of way > 1.5 ? [0.2, 0.5, 0.8] : [0.5])
      for (const side of [-1, 0, 1]) {
        const cell = this.grid.at(ax + (bx - ax) * t + side * ox, ay + (by - ay) * t + side * oy)
        all++
        // what was laid in this layer hides what was there before
        const below =
          cell < 0 ? -1 : this.layerOf[cell] === layer ? this.belowLayer[cell] : this.layerOf[cell]
        if (below < least) continue
        held++
        if (best < 0 || side === 0) best = cell
      }
    return { hangs: 1 - held / all, cell: best }
  }

  /** °C now of what lies under a layer. */
  heatBelow(cell: number, layer: number, now: number, air: number, evens: number, slow: number): number {
    const [hot, at] =
      this.layerOf[cell] === layer
        ? [this.belowHot[cell], this.belowAt[cell]]
        : [this.hot[cell], this.at[cell]]
    return later(hot, air, now - at, evens, slow * WALL_SLOWER)
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
    const [ox, oy] = way > 0 ? [(-(by - ay) / way) * size, ((bx - ax) / way) * size] : [0, 0]
    const { at, hot: heat, layerOf, belowAt, belowHot, belowLayer } = this
    const { minX, minY, nx, ny } = this.grid
    const [dx, dy] = [(bx - ax) / steps, (by - ay) / steps]
    for (let lane = -lanes; lane <= lanes; lane++) {
      let [px, py] = [ax + lane * ox, ay + lane * oy]
      let last = -1
      for (let k = 0; k <= steps; k++, px += dx, py += dy) {
        // as `grid.at`, which is called a hundred million times here
        const [cx, cy] = [((px - minX) / size) | 0, ((py - minY) / size) | 0]
        if (px < minX || py < minY || cx >= nx || cy >= ny) continue
        const cell = cy * nx + cx
        if (cell === last) continue
        last = cell
        if (layerOf[cell] !== layer) {
          belowAt[cell] = at[cell]
          belowHot[cell] = heat[cell]
          belowLayer[cell] = layerOf[cell]
        }
        at[cell] = now
        heat[cell] = hot
        layerOf[cell] = layer
      }
    }
  }

  /** Share of a way that leads through open air at the height of a layer. */
  open(ax: number, ay: number, bx: number, by: number, layer: number): number {
    const steps = Math.max(2, Math.ceil(Math.hypot(bx - ax, by - ay) / STRIDE))
    let open = 0
    for (let k = 1; k < steps; k++) {
      const cell = this.grid.at(ax + ((bx - ax) * k) / steps, ay + ((by - ay) * k) / steps)
      if (cell < 0 || this.layerOf[cell] !== layer) open++
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
