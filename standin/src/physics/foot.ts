import type { Machine } from '@verimend/core/machine'
import type { FootOfPart, PrintedPart } from '../part'
import type { Polymer } from '../polymer'
import type { World } from '../world'
import { standingOn, type LaidPiece } from './bodies'
import { roomOf } from './room'
import { lift } from './warp'

interface Laid {
  /** Top of its layer, mm. */
  z: number
  /** Where it was meant to lie. */
  ax: number
  ay: number
  bx: number
  by: number
  way: number
  width: number
  /** mm as the file feeds it. */
  fed: number
  /** mm between nozzle and bed here, and as it should be. */
  gap: number
  h: number
  speed: number
  fan: number
  bed: number
}

/** °C round the best heat within which a bed holds well. From memory. */
const HOLDS_WITHIN = 16
/** mm/s at which a line is laid too fast to wet the bed. From memory. */
const TOO_FAST = 70
/** Share of a draught that is left behind a wall. From memory. */
const BEHIND_WALL = 0.4
/** A line wider than its place by this share ploughs, narrower leaves a gap. */
const PLOUGHS = 0.22
const GAPES = 0.11

/** What lies on the bed: how it touches, how it holds, how its corners come off. */
export class Foot {
  private area = 0
  private held = 0
  private held2 = 0
  private open = 0
  private ridged = 0
  private over = 0
  private bed = 20
  /** mm, of the lowest layer. */
  top = 0
  private readonly above: LaidPiece[] = []
  private readonly laid: Laid[] = []

  constructor(
    private readonly world: World,
    private readonly machine: Machine,
    private readonly polymer: Polymer,
  ) {}

  /** mm between nozzle and bed at a place, where the file wants so much. */
  gapAt(x: number, y: number, h: number): number {
    const { bed } = this.machine
    const { gap, tilt, bow } = this.world.bed
    const u = bed.shape === 'round' ? x / bed.width : x / bed.width - 0.5
    const v = bed.shape === 'round' ? y / bed.depth : y / bed.depth - 0.5
    const middle = bow * (1 - 4 * Math.min(0.5, u * u + v * v))
    return Math.max(0.03, h + gap + tilt[0] * u + tilt[1] * v - middle)
  }

  add(laid: Laid): void {
    this.laid.push(laid)
    this.bed = laid.bed
    this.top = Math.max(this.top, laid.z)
  }

  /** What is laid right on the lowest layer. */
  addAbove(piece: LaidPiece): void {
    this.above.push(piece)
  }

  /** Weighs what was laid against the room it was to fill. */
  private weigh(): void {
    const column = (key: 'ax' | 'ay' | 'bx' | 'by') => Float64Array.from(this.laid, (l) => l[key])
    const room = roomOf(
      { x0: column('ax'), y0: column('ay'), x1: column('bx'), y1: column('by') },
      0,
      this.laid.length,
    )
    this.laid.forEach((l, i) =>
      this.touch(l, Number.isNaN(room[i]) ? l.fed : room[i] + l.h * (1 - Math.PI / 4)),
    )
  }

  /** @param nominal mm that it was to be wide */
  private touch({ way, width, gap, h, speed, fan, bed }: Laid, nominal: number): void {
    const { world, polymer } = this
    // the rounded sides of a bead do not touch
    const touches = Math.max(0, Math.min(1, (width - 0.86 * gap) / Math.max(0.05, nominal - 0.86 * h)))
    const best = Math.min(this.machine.limits.bed, polymer.glass - 2)
    const surface = bed - world.bed.colder
    const warm = surface > best ? 1 : Math.exp(-(((surface - best) / HOLDS_WITHIN) ** 2))
    const wets = Math.exp(-((speed / TOO_FAST) ** 2)) * (1 - 0.35 * fan)
    const holds = touches * touches * world.bed.clean * (0.25 + 0.75 * warm) * (0.35 + 0.65 * wets)
    const own = way * nominal
    this.area += own
    this.held += own * holds
    this.held2 += own * holds * holds
    if (width < nominal * (1 - GAPES)) this.open += own
    if (width > nominal * (1 + PLOUGHS)) this.ridged += own
    this.over += own * Math.max(0, width / nominal - 1)
  }

  result(height: number): Pick<PrintedPart, 'foot' | 'lifted'> {
    this.weigh()
    const { area } = this
    const mean = area ? this.held / area : 0
    const foot: FootOfPart = {
      area,
      holds: mean,
      open: area ? this.open / area : 0,
      ridged: area ? this.ridged / area : 0,
      uneven: area ? Math.sqrt(Math.max(0, this.held2 / area - mean * mean)) : 0,
      flare:
        0.6 * (area ? this.over / area : 0) +
        Math.max(0, Math.min(0.5, (this.bed - this.world.bed.colder - this.polymer.softens) * 0.012)),
    }
    const { corners, inWall } = standingOn(this.laid, this.above)
    const world = inWall
      ? { ...this.world, air: { ...this.world.air, draught: BEHIND_WALL * this.world.air.draught } }
      : this.world
    const bed = this.bed - this.world.bed.colder
    const lifted = corners
      .map(({ x, y, reach, ground }) => ({
        x,
        y,
        by: lift(this.polymer, world, { holds: ground * mean }, reach, height, bed).by,
      }))
      .filter((c) => c.by > 0.01)
    return { foot, lifted }
  }
}
