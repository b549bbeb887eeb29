import type { Program } from '../gcode/program'
import type { Grid } from '../geometry/grid'
import type { Stretch } from './loops'

/**
 * Region enclosed by closed stretches, even-odd, as a mask of a grid. Scan lines through the middles of cells.
 * Only the cells of `mask` inside the loops' common box are written; it has to be cleared by the caller.
 */
export class Region {
  readonly mask: Uint8Array
  private readonly crossings: number[] = []
  private dirty: { from: number; to: number } | null = null

  constructor(readonly grid: Grid) {
    this.mask = new Uint8Array(grid.size)
  }

  /** Fills the region of some loops; the one before is forgotten. */
  fill(program: Program, loops: readonly Stretch[]): void {
    const { grid, mask, crossings } = this
    if (this.dirty) mask.fill(0, this.dirty.from, this.dirty.to)
    this.dirty = null
    if (!loops.length) return
    const { x, y } = program
    let minY = Infinity
    let maxY = -Infinity
    for (const s of loops) {
      if (s.minY < minY) minY = s.minY
      if (s.maxY > maxY) maxY = s.maxY
    }
    const row0 = Math.max(0, Math.floor((minY - grid.minY) / grid.cell - 0.5))
    const row1 = Math.min(grid.ny - 1, Math.ceil((maxY - grid.minY) / grid.cell))
    // edges go into the rows they cross
    const rows: number[][] = Array.from({ length: row1 - row0 + 1 }, () => [])
    const edge = (ax: number, ay: number, bx: number, by: number) => {
      if (ay === by) return
      const low = ay < by ? ay : by
      const high = ay < by ? by : ay
      const r0 = Math.max(row0, Math.ceil((low - grid.minY) / grid.cell - 0.5))
      const r1 = Math.min(row1, Math.ceil((high - grid.minY) / grid.cell - 0.5) - 1)
      const slope = (bx - ax) / (by - ay)
      for (let r = r0; r <= r1; r++)
        rows[r - row0].push(ax + (grid.minY + (r + 0.5) * grid.cell - ay) * slope)
    }
    for (const s of loops) {
      let ax = x[s.to]
      let ay = y[s.to]
      for (let i = s.from - 1; i <= s.to; i++) {
        const bx = i < 0 ? 0 : x[i]
        const by = i < 0 ? 0 : y[i]
        edge(ax, ay, bx, by)
        ax = bx
        ay = by
      }
    }
    for (let r = row0; r <= row1; r++) {
      const xs = rows[r - row0]
      if (xs.length < 2) continue
      crossings.length = 0
      for (const v of xs) crossings.push(v)
      crossings.sort((a, b) => a - b)
      const base = r * grid.nx
      for (let k = 0; k + 1 < crossings.length; k += 2) {
        const c0 = Math.max(0, Math.ceil((crossings[k] - grid.minX) / grid.cell - 0.5))
        const c1 = Math.min(grid.nx - 1, Math.ceil((crossings[k + 1] - grid.minX) / grid.cell - 0.5) - 1)
        for (let c = c0; c <= c1; c++) mask[base + c] = 1
      }
    }
    this.dirty = { from: row0 * grid.nx, to: (row1 + 1) * grid.nx }
  }

  has(px: number, py: number): boolean {
    const i = this.grid.at(px, py)
    return i >= 0 && this.mask[i] === 1
  }

  /** Area of the region, mm². */
  area(): number {
    if (!this.dirty) return 0
    let n = 0
    for (let i = this.dirty.from; i < this.dirty.to; i++) n += this.mask[i]
    return n * this.grid.cell * this.grid.cell
  }
}
