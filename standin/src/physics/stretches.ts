import type { PrintedPart } from '../part'
import type { Surface } from './surface'

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
  warm: number
  hangs: number
  rate: number
  /** It lies on the bed itself. */
  onBed: boolean
  /** mm³ */
  volume: number
  /** Its middle as the file has it. */
  mx: number
  my: number
}

/** A line of which more than this share has nothing under it lies over air. */
const OVER_AIR = 0.9
/** mm between the end of one move and the beginning of the next, still one line. */
const JOINED = 0.3
/** mm up to which a bead is drawn taut over a gap; layers by which it drops at most before something else catches it. From memory. */
const TAUT = 28
const FALLEN = 5
const FIELDS = ['x0', 'y0', 'x1', 'y1', 'z', 'h', 'width', 'fed', 'hot', 'under', 'bond', 'sag', 'gloss', 'ripple', 'warm', 'hangs', 'rate'] as const // prettier-ignore
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
  private seen = new Uint8Array(this.room)
  private onBed = new Uint8Array(this.room)
  private mx = new Float32Array(this.room)
  private my = new Float32Array(this.room)

  add(s: Stretch): void {
    if (this.count === this.room) this.grow()
    const i = this.count++
    const to = this.arraysOf
    to.x0[i] = s.x0
    to.y0[i] = s.y0
    to.x1[i] = s.x1
    to.y1[i] = s.y1
    to.z[i] = s.z
    to.h[i] = s.h
    to.width[i] = s.width
    to.fed[i] = s.fed
    to.hot[i] = s.hot
    to.under[i] = s.under
    to.bond[i] = s.bond
    to.sag[i] = s.sag
    to.gloss[i] = s.gloss
    to.ripple[i] = s.ripple
    to.warm[i] = s.warm
    to.hangs[i] = s.hangs
    to.rate[i] = s.rate
    this.onBed[i] = Number(s.onBed)
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
    this.seen = wider(this.seen)
    this.onBed = wider(this.onBed)
    this.mx = wider(this.mx)
    this.my = wider(this.my)
  }

  /**
   * Lets what was laid over air go on dropping by how far it is from hold to hold: a bead over a short gap is drawn taut, a long
   * one hangs through as a rope does (by the square of its length), and one whose end holds on to nothing falls.
   */
  hangFrom(from: number): void {
    const { x0, y0, x1, y1, z, hangs, sag, h } = this.arraysOf
    const joined = (i: number) =>
      i > from &&
      i < this.count &&
      Math.hypot(x0[i] - x1[i - 1], y0[i] - y1[i - 1]) < JOINED &&
      z[i] === z[i - 1]
    for (let i = from; i < this.count;) {
      if (hangs[i] <= OVER_AIR) {
        i++
        continue
      }
      let end = i
      let length = 0
      for (;;) {
        length += Math.hypot(x1[end] - x0[end], y1[end] - y0[end])
        if (!joined(end + 1) || hangs[end + 1] <= OVER_AIR) break
        end++
      }
      const free = Number(!joined(i)) + Number(!joined(end + 1))
      // held at one end it is half of a gap twice as long; held nowhere it is laid on nothing
      const span = length * (free === 0 ? 1 : free === 1 ? 2 : 4)
      const more = Math.max(1, (span / TAUT) ** 2)
      for (let k = i; k <= end; k++) sag[k] = Math.min(FALLEN * h[k], sag[k] * more)
      i = end + 1
    }
  }

  /** Tells what of a layer is seen: nothing lies beside it on one side. @returns means over what is seen */
  endLayer(from: number, surface: Surface, layer: number): { width: number; gloss: number } {
    let n = 0
    let gloss = 0
    const faces: number[] = []
    const wayOf = (i: number) => Math.hypot(x1[i] - x0[i], y1[i] - y0[i])
    const { fed } = this.arraysOf
    const { x0, y0, x1, y1, width: w } = this.arraysOf
    const lies = (x: number, y: number) => surface.lies(x, y, layer)
    for (let i = from; i < this.count; i++) {
      const way = wayOf(i)
      if (!(way > 0)) continue
      const out = Math.max(1.6 * surface.grid.cell, 1.4 * w[i])
      const ox = (-(y1[i] - y0[i]) / way) * out
      const oy = ((x1[i] - x0[i]) / way) * out
      if (lies(this.mx[i] + ox, this.my[i] + oy) && lies(this.mx[i] - ox, this.my[i] - oy)) continue
      this.seen[i] = 1
      n += way
      faces.push(i)
      gloss += way * this.arraysOf.gloss[i]
    }
    if (!n) return { width: 1, gloss: 0 }
    // the middle one: starts and ends of lines are another matter
    faces.sort((a, b) => fed[a] - fed[b])
    let so = 0
    const middle = faces.find((i) => (so += wayOf(i)) >= n / 2)!
    return { width: fed[middle], gloss: gloss / n }
  }

  arrays(): Pick<PrintedPart, 'count' | 'seen' | 'onBed' | Field> {
    const n = this.count
    const own = Object.fromEntries(FIELDS.map((f) => [f, this.arraysOf[f].subarray(0, n)])) as Record<
      Field,
      Float32Array
    >
    return { count: n, ...own, seen: this.seen.subarray(0, n), onBed: this.onBed.subarray(0, n) }
  }
}
