import { FIRST_STATE, MoveKind, type MachineState, type Program } from '@verimend/core/gcode'
import { squareCornerSpeed, type Machine } from '@verimend/core/machine'
import { cardOf } from '@verimend/core/material'
import { planMotion } from '@verimend/core/motion'
import { randomStream } from '@verimend/core/statistics'
import type { LayerOfPart, PrintedPart } from '../part'
import { plasticOf, type Polymer } from '../polymer'
import type { World } from '../world'
import { Extent } from './extent'
import { wallMoves } from './bodies'
import { Foot } from './foot'
import { Head } from './head'
import { Stretches } from './stretches'
import { Surface } from './surface'
import { convection, cooling, evening, faceCooling, flowing } from './thermal'
import { weld } from './weld'

/** Longest stretch that is reckoned as one, and the first after a travel, mm. */
const LONGEST = 4
const FIRST = 1
/** Shortest way through open air that leaves a thread, mm, and the least plastic of one, mm³. */
const OPEN = 1
const LEAST_THREAD = 0.0004
/** Share of what comes out over open air that is drawn into a thread; the rest is carried along to the next wall. From memory. */
const DRAWN = 0.35
/** s in which the swing after a corner dies down. */
const SWINGS = 0.05
/** Turns sharper than this set the machine swinging, by their cosine. */
const SHARP = Math.cos((40 * Math.PI) / 180)
/** s at its reference thinness in which a bead over air has sagged most of its height, and a face has levelled out half. */
const SAGS = 0.9
const LEVELS = 0.22
/** Turns at least so sharp are corners where the feed lags: 60°, by their cosine. */
const CORNER = Math.cos(Math.PI / 3)
/** Share of the lagging feed that comes out at a corner: the rest while slowing down. From memory. */
const AT_CORNER = 0.5
/** mm from which on sizes are taken: under it the foot flares. */
const ABOVE_FOOT = 1
/** mm by which what lies on the lowest layer may begin over it. */
const ON_FOOT = 0.05
/** mm³ of the least heap. */
const LEAST_HEAP = 0.4
/** mm up to which something with nothing under it lies on the bed. */
const FIRST_AT_MOST = 0.42

export interface PrintOptions {
  /** Ends here, s into the print: the part is what was made so far. */
  until?: number
  /** Called with the share that is done. */
  onStep?: (share: number) => void
}

/**
 * Runs a program on a world: integrates, move by move, the pressure in the head, what comes out, what it lies on, how it
 * cools, welds, sags and shines, and how far the frame swings.
 */
export function printProgram(
  program: Program,
  machine: Machine,
  world: World,
  { until = Infinity, onStep }: PrintOptions = {},
): PrintedPart {
  return new Print(program, machine, world, until, onStep).run()
}

class Print {
  private readonly polymer: Polymer
  private readonly head: Head
  private readonly out = new Stretches()
  private readonly surface: Surface
  private readonly random: () => number
  private readonly foot: Foot
  private readonly layers: LayerOfPart[] = []
  private readonly seconds: Float32Array
  private readonly reached: Float32Array
  private readonly corners: PrintedPart['corners'] = []
  private readonly heaps: PrintedPart['heaps'] = []
  private readonly drawn = new Extent()
  private readonly came = new Extent()
  private time = 0
  private layer = -1
  private layerZ = -Infinity
  private layerBegan = 0
  private layerFrom = 0
  private sinceCorner = Infinity
  private swing = 0
  private shiftX = 0
  private shiftY = 0
  /** Moves that lay what is broken off before anybody looks. */
  private readonly walls: Uint8Array | null
  private aside = false
  private readonly shifts: PrintedPart['shifts'] = []
  private readonly strings: PrintedPart['strings'] = []
  private readonly blobs: PrintedPart['blobs'] = []

  constructor(
    private readonly program: Program,
    private readonly machine: Machine,
    private readonly world: World,
    private readonly until: number,
    private readonly onStep?: (share: number) => void,
  ) {
    this.polymer = plasticOf(world)
    this.head = new Head(world, this.polymer, machine.nozzle.diameter)
    const { seconds, reached } = planMotion(program, machine.limits)
    this.seconds = seconds
    this.reached = reached
    this.surface = new Surface(program)
    this.random = randomStream(world.seed ^ 0x51ab)
    this.foot = new Foot(world, machine, this.polymer)
    this.walls = wallMoves(program)
  }

  run(): PrintedPart {
    const { x, y, z, e, kind, state, states, count } = this.program
    let [px, py, pz] = [0, 0, 0]
    let before: readonly [number, number] | null = null
    let fresh = true
    let brokeOff: number | null = null
    for (let i = 0; i < count; i++) {
      const seconds = this.seconds[i]
      if (this.time + seconds > this.until) {
        brokeOff = this.time
        break
      }
      if (this.onStep && i % 20_000 === 0) this.onStep(i / count)
      const s = states[state[i]] ?? FIRST_STATE
      const nozzle = this.head.heat(s.nozzle ?? 20, this.time)
      const [dx, dy] = [x[i] - px, y[i] - py]
      const way = Math.hypot(dx, dy)
      switch (kind[i]) {
        case MoveKind.Extrude:
          if (way > 1e-6) {
            this.aside = this.walls?.[i] === 1
            this.corner(before, [dx / way, dy / way], s, nozzle, i)
            this.lay(px, py, x[i], y[i], z[i], e[i], seconds, nozzle, s, fresh)
            fresh = false
            before = [dx / way, dy / way]
          } else this.heap(px, py, pz, e[i], seconds, nozzle)
          break
        case MoveKind.Feed:
          this.heap(px, py, pz, e[i], seconds, nozzle)
          break
        case MoveKind.Retract:
        case MoveKind.RetractMoving:
          this.feed(e[i], seconds, nozzle)
          break
        case MoveKind.Travel:
          if (way > 1e-6) {
            this.travel(px, py, x[i], y[i], pz, way, seconds, nozzle, s)
            fresh = true
            before = null
          } else this.feed(0, seconds, nozzle)
          break
        case MoveKind.Dwell:
          this.feed(0, seconds, nozzle)
          break
        default:
      }
      if (kind[i] !== MoveKind.Extrude || way <= 1e-6) this.time += seconds
      ;[px, py, pz] = [x[i], y[i], z[i]]
    }
    this.endLayer()
    const part = this.out.arrays()
    const volume = this.out.volume
    return {
      ...part,
      strings: this.strings,
      blobs: this.blobs,
      corners: this.corners,
      heaps: this.heaps,
      layers: this.layers,
      ...this.foot.result(this.layerZ),
      drawn: this.drawn.size(this.layerZ, 1),
      came: this.came.size(
        this.layerZ * this.world.frame.scale[2],
        1 - (this.polymer.shrinks / 100) * this.world.roll.shrinks,
      ),
      drools: this.head.zone.drools(this.head.heat(this.program.states.at(-1)?.nozzle ?? 20, this.time)),
      slips: this.head.slips,
      shifts: this.shifts,
      grams: (volume / 1000) * cardOf(this.world.family).density,
      seconds: this.time,
      pushed: this.head.pushed,
      brokeOff,
    }
  }

  private push(mm: number, seconds: number, nozzle: number, lead: number | null = null) {
    return this.head.push(mm, seconds, nozzle, this.time, lead)
  }

  private feed(mm: number, seconds: number, nozzle: number): void {
    this.push(mm, seconds, nozzle)
  }

  /** Fed with the head still: a heap grows where it stands. */
  private heap(x: number, y: number, z: number, mm: number, seconds: number, nozzle: number): void {
    const { volume } = this.push(mm, seconds, nozzle)
    // what is pushed back after a pull-back fills the void again, and next to nothing is seen of it
    if (volume < LEAST_HEAP) return
    const last = this.heaps.at(-1)
    if (last && Math.hypot(last.x - x, last.y - y) < 1) last.volume += volume
    else this.heaps.push({ x, y, z, volume })
    this.out.volume += volume
  }

  /** A sharp turn sets the frame swinging, harder with more acceleration; and what is squeezed in the head comes out there. */
  private corner(
    before: readonly [number, number] | null,
    now: readonly [number, number],
    s: MachineState,
    nozzle: number,
    i: number,
  ) {
    if (before && before[0] * now[0] + before[1] * now[1] > SHARP) return
    if (before && before[0] * now[0] + before[1] * now[1] < CORNER) {
      const { x, y, z, e } = this.program
      const [px, py] = i > 1 ? [x[i - 2], y[i - 2]] : [0, 0]
      const way = Math.hypot(x[i - 1] - px, y[i - 1] - py)
      const area = way > 0 ? (e[i - 1] * Math.PI * 1.75 ** 2) / 4 / way : 0
      const lag = this.head.zone.relaxing(nozzle) - (s.pressure ?? 0)
      const slowed = Math.max(0, this.reached[i - 1] - cornerSpeed(this.machine))
      if (!this.aside)
        this.corners.push({ x: x[i - 1], y: y[i - 1], z: z[i], volume: AT_CORNER * lag * area * slowed })
    }
    const acceleration = Math.min(
      s.printAcceleration ?? this.machine.limits.acceleration,
      this.machine.limits.acceleration,
    )
    const { ripple, loose } = this.world.frame
    this.swing = (ripple.amplitude + 0.3 * loose) * (acceleration / 1000)
    this.sinceCorner = 0
  }

  /** Where the machine really is. */
  private place(x: number, y: number, z: number): [number, number] {
    const { scale, skew, screw } = this.world.frame
    const dx = screw.amplitude * Math.sin((2 * Math.PI * z) / screw.period)
    return [
      x * scale[0] + y * Math.tan((skew * Math.PI) / 180) + dx + this.shiftX,
      y * scale[1] + this.shiftY,
    ]
  }

  private beginLayer(z: number): void {
    this.endLayer()
    this.layer++
    this.layerZ = z
    this.layerBegan = this.time
    this.layerFrom = this.out.count
  }

  private lay(
    ax: number,
    ay: number,
    bx: number,
    by: number,
    bz: number,
    mm: number,
    seconds: number,
    nozzle: number,
    s: MachineState,
    fresh: boolean,
  ): void {
    if (bz > this.layerZ + 0.012 || bz < this.layerZ - 0.012) this.beginLayer(bz)
    const below = this.layer > 0 ? this.layerBelow(bz) : 0
    const h = Math.max(0.02, bz - below)
    const way = Math.hypot(bx - ax, by - ay)
    const pieces = Math.max(1, Math.ceil(way / LONGEST))
    // the first piece after a travel is a short one of its own
    let from = 0
    for (let k = fresh && way > FIRST * 1.5 ? 0 : 1; k <= pieces; k++) {
      const to = k ? k / pieces : FIRST / way
      if (to <= from + 1e-6) continue
      this.stretch(
        ax + (bx - ax) * from,
        ay + (by - ay) * from,
        ax + (bx - ax) * to,
        ay + (by - ay) * to,
        bz,
        h,
        mm * (to - from),
        seconds * (to - from),
        nozzle,
        s,
        fresh && from === 0,
      )
      from = to
    }
  }

  /** Top of what lies under a layer: of the layer before in the order of printing. */
  private layerBelow(z: number): number {
    for (let l = this.layers.length - 1; l >= 0; l--)
      if (this.layers[l].z < z - 0.012) return this.layers[l].z
    return 0
  }

  private stretch(
    ax: number,
    ay: number,
    bx: number,
    by: number,
    z: number,
    layerHeight: number,
    mm: number,
    seconds: number,
    nozzle: number,
    s: MachineState,
    fresh: boolean,
  ): void {
    const { world, polymer } = this
    const way = Math.hypot(bx - ax, by - ay)
    const { volume, temperature } = this.push(mm, seconds, nozzle, s.pressure ?? 0)
    this.time += seconds
    // what the file asks for, of an honest filament
    const asked = mm * (Math.PI / 4) * 1.75 ** 2
    const [mx, my] = [(ax + bx) / 2, (ay + by) / 2]
    const nominalAt = (height: number) => Math.max(0.05, asked / way / height + height * (1 - Math.PI / 4))
    const rests = this.surface.restsOn(ax, ay, bx, by, nominalAt(layerHeight), this.layer)
    const lowest = rests.cell < 0 && z <= Math.max(FIRST_AT_MOST, this.machine.nozzle.diameter)
    const h = lowest ? z : layerHeight
    const nominal = nominalAt(h)
    const real = lowest ? this.foot.gapAt(mx, my, h) : h
    const width = Math.max(0.02, volume / way / real + real * (1 - Math.PI / 4))
    const { cell } = rests
    const hangs = lowest ? 0 : rests.hangs
    const onTop = cell >= 0 && hangs < 0.9
    const fan = s.fan
    const air = world.air.temperature
    const coefficient = convection(world, fan)
    const slow = cooling(polymer, real, width, coefficient)
    const soon = faceCooling(polymer, real, width, coefficient)
    const even = evening(polymer, real, width, coefficient)
    const under = lowest
      ? (s.bed ?? air) - world.bed.colder
      : onTop
        ? this.surface.heatBelow(cell, this.layer, this.time, air, even, slow)
        : air
    const bond = lowest ? 1 : onTop ? weld(polymer, temperature, under, air, soon) : 0
    // what lies on something still soft sinks into it, what lies on nothing hangs: in air a bead is free all round
    const warm = Math.max(0, Math.min(1, (under - polymer.softens) / 40))
    const free = slow * ((real + 0.6 * width) / (2 * (real + width)))
    const runs = polymer.runs * flowing(polymer, temperature - world.roll.hotter, air, free)
    const dropped = 1 - Math.exp(-runs / SAGS)
    const sinks = lowest || hangs > 0.9 ? 0 : warm * 0.25 * h
    const sag = sinks + hangs * dropped * 0.9 * h
    const speed = way / Math.max(1e-6, seconds)
    const levelled = flowing(polymer, temperature - world.roll.hotter, air, (slow + 2 * even) / 3)
    const gloss = (levelled / (levelled + LEVELS)) * (1 - 0.3 * Math.min(1, speed / 140))
    const swung = this.swing * Math.exp(-this.sinceCorner / SWINGS)
    this.sinceCorner += seconds
    const [x0, y0] = this.place(ax, ay, z)
    const [x1, y1] = this.place(bx, by, z)
    if (!this.aside)
      this.out.add({
        x0,
        y0,
        x1,
        y1,
        z,
        h: real,
        width,
        fed: asked > 0 ? volume / asked : 1,
        hot: temperature,
        under,
        bond,
        sag,
        gloss,
        ripple: swung,
        hangs,
        rate: asked / Math.max(1e-6, seconds),
        warm: lowest ? 0 : warm,
        onBed: lowest,
        volume,
        mx,
        my,
      })
    if (lowest)
      this.foot.add({
        z,
        ax,
        ay,
        bx,
        by,
        way,
        width,
        fed: nominal,
        gap: real,
        h,
        speed,
        fan,
        bed: s.bed ?? 20,
      })
    else if (z - h < this.foot.top + ON_FOOT) this.foot.addAbove({ ax, ay, bx, by, width })
    if (fresh && !this.aside) {
      const more = volume - asked
      if (Math.abs(more) > 0.004) this.blobs.push({ x: x0, y: y0, z, volume: more })
    }
    this.surface.mark(ax, ay, bx, by, width, temperature, this.layer, this.time)
    if (z > ABOVE_FOOT && !this.aside) {
      this.drawn.add(ax, ay, bx, by, nominal / 2)
      this.came.add(x0, y0, x1, y1, width / 2 + world.spread)
    }
  }

  private travel(
    ax: number,
    ay: number,
    bx: number,
    by: number,
    z: number,
    way: number,
    seconds: number,
    nozzle: number,
    s: MachineState,
  ): void {
    const { volume } = this.push(0, seconds, nozzle, s.pressure ?? 0)
    if (this.layer >= 0 && volume > LEAST_THREAD && way > OPEN) {
      const open = this.surface.open(ax, ay, bx, by, this.layer)
      const own = volume * open * DRAWN
      const far = way * open > OPEN
      if (far && own > LEAST_THREAD)
        this.strings.push({ x0: ax, y0: ay, x1: bx, y1: by, z: Math.min(z, this.layerZ), volume: own })
      const left = far ? volume - own : volume
      if (left > 0.01) this.blobs.push({ x: bx, y: by, z, volume: left })
    }
    const acceleration = s.travelAcceleration ?? this.machine.limits.travelAcceleration
    const { weakAt } = this.world.frame
    // harder than the motors can: steps are lost now and then
    if (way > 15 && acceleration > weakAt && this.random() < 0.06 * (acceleration / weakAt - 1)) {
      const by = 0.2 + 0.6 * this.random()
      this.shiftX += by
      this.shifts.push({ z, dx: by, dy: 0 })
    }
  }

  private endLayer(): void {
    if (this.layer < 0 || this.out.count === this.layerFrom) return
    this.out.hangFrom(this.layerFrom)
    const { width, gloss } = this.out.endLayer(this.layerFrom, this.surface, this.layer)
    this.layers.push({
      z: this.layerZ,
      h: this.layerZ - this.layerBelow(this.layerZ),
      seconds: this.time - this.layerBegan,
      width,
      gloss,
      dx:
        this.world.frame.screw.amplitude *
        Math.sin((2 * Math.PI * this.layerZ) / this.world.frame.screw.period),
    })
  }
}

/** mm/s at which a machine takes a square corner. */
const cornerSpeed = ({ limits: { corner, acceleration } }: Machine): number =>
  corner.kind === 'instant-change' ? corner.limit : squareCornerSpeed(corner.deviation, acceleration)
