export interface Box {
  minX: number
  minY: number
  maxX: number
  maxY: number
}

/** A raster over part of the bed. Cells are square; `cell` mm a side. */
export class Grid {
  readonly nx: number
  readonly ny: number

  constructor(
    readonly minX: number,
    readonly minY: number,
    maxX: number,
    maxY: number,
    readonly cell: number,
  ) {
    this.nx = Math.max(1, Math.ceil((maxX - minX) / cell) + 1)
    this.ny = Math.max(1, Math.ceil((maxY - minY) / cell) + 1)
  }

  /** A grid around a box with a margin, of cells no smaller than `least` and at most `most` of them a side. */
  static around(box: Box, margin: number, least: number, most: number): Grid {
    const wide = Math.max(box.maxX - box.minX, box.maxY - box.minY) + 2 * margin
    const cell = Math.max(least, wide / most)
    return new Grid(box.minX - margin, box.minY - margin, box.maxX + margin, box.maxY + margin, cell)
  }

  get size(): number {
    return this.nx * this.ny
  }

  /** Index of the cell a point lies in; −1 outside. */
  at(px: number, py: number): number {
    const cx = ((px - this.minX) / this.cell) | 0
    const cy = ((py - this.minY) / this.cell) | 0
    if (px < this.minX || py < this.minY || cx >= this.nx || cy >= this.ny) return -1
    return cy * this.nx + cx
  }
}
