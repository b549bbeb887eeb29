import type { Grid } from '@verimend/core/geometry'
import type { PrintedPart } from '../part'

/** One laid stretch. */
export interface Stretch {
  x0: number
  y0: number
  x1: number
  y1: number
  z: number
  h: number
  width: number
  fed: number
  hot: number
  under: number
  bond: number
  sag: number
  gloss: number
  ripple: number
  over: boolean
  /** mm³ */
  volume: number
  /** Its middle as the file has it. */
  mx: number
  my: number
}

const FIELDS = ['x0', 'y0', 'x1', 'y1', 'z', 'h', 'width', 'fed', 'hot', 'under', 'bond', 'sag', 'gloss', 'ripple'] as const // prettier-ignore
type Field = (typeof FIELDS)[number]

/** Growing arrays of what was laid. */
export class Stretches {
  count = 0
  volume = 0
  private room = 8192
  private arraysOf = Object.fromEntries(FIELDS.map((f) => [f, new Float32Array(this.room)])) as Record<
    Field,
    Float32Array
  >
  private over = new Uint8Array(this.room)
  private seen = new Uint8Array(this.room)
  private mx = new Float32Array(this.room)
  private my = new Float32Array(this.room)

  add(s: Stretch): void {
    if (this.count === this.room) this.grow()
    const i = this.count++
    for (const f of FIELDS) this.arraysOf[f][i] = s[f]
    this.over[i] = s.over ? 1 : 0
    this.mx[i] = s.mx
    this.my[i] = s.my
    this.volume += s.volume
  }

  private grow(): void {
    this.room *= 2
    const wider = <T extends Float32Array | Uint8Array>(old: T): T => {
      const next = new (old.constructor as new (n: number) => T)(this.room)
      next.set(old as never)
      return next
    }
    for (const f of FIELDS) this.arraysOf[f] = wider(this.arraysOf[f])
    this.over = wider(this.over)
    this.seen = wider(this.seen)
    this.mx = wider(this.mx)
    this.my = wider(this.my)
  }

  /** Tells what of a layer is seen: nothing lies beside it on one side. @returns means over what is seen */
  endLayer(from: number, grid: Grid, laidIn: Int32Array, layer: number): { width: number; gloss: number } {
    let [n, width, gloss] = [0, 0, 0]
    const { x0, y0, x1, y1, width: w } = this.arraysOf
    const lies = (x: number, y: number) => {
      const cell = grid.at(x, y)
      return cell >= 0 && laidIn[cell] === layer
    }
    for (let i = from; i < this.count; i++) {
      const [dx, dy] = [x1[i] - x0[i], y1[i] - y0[i]]
      const way = Math.hypot(dx, dy)
      if (!(way > 0)) continue
      const out = Math.max(1.6 * grid.cell, 1.4 * w[i])
      const [ox, oy] = [(-dy / way) * out, (dx / way) * out]
      if (lies(this.mx[i] + ox, this.my[i] + oy) && lies(this.mx[i] - ox, this.my[i] - oy)) continue
      this.seen[i] = 1
      n += way
      width += way * this.arraysOf.fed[i]
      gloss += way * this.arraysOf.gloss[i]
    }
    return n ? { width: width / n, gloss: gloss / n } : { width: 1, gloss: 0 }
  }

  arrays(): Pick<PrintedPart, 'count' | 'seen' | Field> & { over: Uint8Array } {
    const n = this.count
    const own = Object.fromEntries(FIELDS.map((f) => [f, this.arraysOf[f].subarray(0, n)])) as Record<
      Field,
      Float32Array
    >
    return { count: n, ...own, seen: this.seen.subarray(0, n), over: this.over.subarray(0, n) }
  }
}
