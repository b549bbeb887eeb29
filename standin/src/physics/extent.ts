import type { SizeOfPart } from '../part'

/** How far something reaches over the bed. */
export class Extent {
  private readonly low = [Infinity, Infinity]
  private readonly high = [-Infinity, -Infinity]

  /** @param half of a line's width, mm */
  add(ax: number, ay: number, bx: number, by: number, half: number): void {
    this.low[0] = Math.min(this.low[0], ax - half, bx - half)
    this.low[1] = Math.min(this.low[1], ay - half, by - half)
    this.high[0] = Math.max(this.high[0], ax + half, bx + half)
    this.high[1] = Math.max(this.high[1], ay + half, by + half)
  }

  /** @param cold what is left of a length when it has shrunk */
  size(z: number, cold: number): SizeOfPart {
    const along = (k: number) => Math.max(0, this.high[k] - this.low[k]) * cold
    return { x: along(0), y: along(1), z }
  }
}
