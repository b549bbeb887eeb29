import { beadArea, filamentArea } from '../extrusion/bead'
import { MoveKind } from '../gcode/program'
import type { Inserted, Overlay } from '../gcode/rewrite/overlay'
import { areaOf, ringArea, scoped, type Area, type Kernel, type Ring } from '../geometry/kernel'
import { convexHull, type Place } from '../geometry/hull'
import { startedAt } from '../geometry/shapes'
import type { Machine } from '../machine/machine'
import { surroundingsOf, type AroundSettings, type Surroundings } from '../planner/around'
import { ringsOf, type Keep } from '../planner/slicing'
import type { Stroke } from '../planner/strokes'
import { weightedQuantile } from '../statistics/summary'
import { Feature } from '../toolpath/features'
import type { Stretch } from '../toolpath/loops'
import { ChangeError, type FileChange } from './change'
import type { FileAsRead } from './file'

/** Changes that lay lines round a part. */
export type GripChange = Extract<FileChange, { kind: 'brim' | 'skirt' | 'tabs' | 'draught-wall' }>

/** Whether a change lays lines round a part, which takes the library for areas. */
export const laysRound = (change: FileChange): change is GripChange =>
  change.kind === 'brim' ||
  change.kind === 'skirt' ||
  change.kind === 'tabs' ||
  change.kind === 'draught-wall'

/** How far a round corner may be cut, mm. Common practice, no source. */
const FINE = 0.01
/** mm² that two things may share through rounding. */
const TOUCH = 0.1
/** From one line to the next, mm, without a pull-back. Common practice, no source. */
const NEAR = 2
/** mm/s where the file does not say how fast it travels. Common practice, no source. */
const TRAVEL = 100
/** Places whose hull is taken at once: a file has millions. */
const AT_ONCE = 20_000
/** Sides of a line's half-round end. */
const END_SIDES = 6

/** A run of the first layer that nothing higher interrupts: all of it, or that of one object of several in turn. */
interface Pass {
  /** Its first move that lays. */
  at: number
  stretches: Stretch[]
}

function passesOf({ analysis }: FileAsRead): Pass[] {
  const out: Pass[] = []
  let up = true
  for (const s of analysis.stretches) {
    if (s.layer < 0) continue
    if (s.layer > 0) up = true
    else {
      if (up) out.push({ at: s.from, stretches: [] })
      up = false
      out.at(-1)!.stretches.push(s)
    }
  }
  return out
}

/** What lines cover: closed ones with what they go round, others with their ends. */
function coverOf(
  kernel: Kernel,
  { analysis }: FileAsRead,
  lines: readonly Stretch[],
  width: number,
  keep: Keep,
): Area {
  const { x, y } = analysis.program
  const closed: Ring[] = []
  const open: Ring[] = []
  for (const s of lines) {
    const points: Ring = []
    for (let i = s.from - 1; i <= s.to; i++) points.push(i < 0 ? [0, 0] : [x[i], y[i]])
    if (s.closed) closed.push(ringArea(points) < 0 ? points.reverse() : points)
    else for (let k = 1; k < points.length; k++) open.push(capsule(points[k - 1], points[k], width / 2))
  }
  const loops = keep(keep(areaOf(kernel, closed, 'NonZero')).offset(width / 2, 'Miter', 2))
  return open.length ? keep(loops.add(keep(areaOf(kernel, open, 'NonZero')))) : loops
}

/** A straight line as wide as it is laid, with round ends. */
function capsule([ax, ay]: readonly [number, number], [bx, by]: readonly [number, number], r: number): Ring {
  const along = Math.atan2(by - ay, bx - ax)
  const ring: [number, number][] = []
  for (const [cx, cy, from] of [
    [bx, by, along - Math.PI / 2],
    [ax, ay, along + Math.PI / 2],
  ])
    for (let k = 0; k <= END_SIDES; k++) {
      const a = from + (Math.PI * k) / END_SIDES
      ring.push([cx + r * Math.cos(a), cy + r * Math.sin(a)])
    }
  return ring
}

/** Lines beside each other share a little of their width. */
const CORE = 0.7

/** What loops cover, without the edge that they share with a neighbour. */
const bandOf = (kernel: Kernel, strokes: readonly Stroke[], keep: Keep): Area =>
  strokes.reduce(
    (all, { points, width }) => {
      const ring = keep(areaOf(kernel, [points], 'NonZero'))
      const half = (CORE * width) / 2
      const band = keep(
        keep(ring.offset(half, 'Round', 2, 24)).subtract(keep(ring.offset(-half, 'Round', 2, 24))),
      )
      return keep(all.add(band))
    },
    keep(areaOf(kernel, [])),
  )

/** mm; how wide the lines of the first layer are, as they are fed. */
function firstWidth({ analysis }: FileAsRead): number {
  const { program, index, context } = analysis
  const area = filamentArea(context.filamentDiameter)
  const h = index.z[0]
  const lengths: number[] = []
  const widths: number[] = []
  for (const s of analysis.stretches) {
    if (s.layer !== 0 || s.feature === Feature.Skirt || !(s.length > 0)) continue
    lengths.push(s.length)
    widths.push((s.fed * area) / s.length / h + h * (1 - Math.PI / 4))
  }
  if (!lengths.length || program.count === 0) return context.nozzleDiameter
  return Math.max(0.5 * context.nozzleDiameter, weightedQuantile(widths, lengths, 0.5))
}

/** Lays lines from where the head stands and brings it back there, in the file's own manner. */
class Layer {
  readonly steps: Inserted[] = []
  private readonly travel: number
  private x: number
  private y: number

  constructor(
    private readonly file: FileAsRead,
    private readonly machine: Machine,
    private readonly home: Place,
    private readonly z: number,
  ) {
    this.travel = Math.min(machine.limits.speed, file.reading.travel.speed ?? TRAVEL)
    this.x = home.x
    this.y = home.y
  }

  /** @param h mm, @param speed mm/s */
  lay(stroke: Stroke, h: number, speed: number): void {
    const perMm = beadArea(stroke.width, h) / filamentArea(this.file.analysis.context.filamentDiameter)
    let nearest = 0
    let least = Infinity
    stroke.points.forEach(([x, y], i) => {
      const way = Math.hypot(x - this.x, y - this.y)
      if (way < least) [least, nearest] = [way, i]
    })
    const points = startedAt(stroke.points, nearest)
    this.go(points[0][0], points[0][1])
    const most = Math.min(speed, this.machine.limits.speed)
    for (const [x, y] of [...points.slice(1), points[0]]) {
      const way = Math.hypot(x - this.x, y - this.y)
      if (way < 1e-6) continue
      this.steps.push({ x, y, e: way * perMm, speed: most })
      this.x = x
      this.y = y
    }
  }

  back(): Inserted[] {
    this.go(this.home.x, this.home.y)
    return this.steps
  }

  private go(x: number, y: number): void {
    const { kind, length, speed, restartExtra, zLift } = this.file.reading.retraction
    const far = Math.hypot(x - this.x, y - this.y) > NEAR
    const pull = speed ?? 25
    const rises = far && kind !== 'none' && (zLift ?? 0) > 0.01
    if (far && kind === 'firmware') this.steps.push({ command: 'G10', speed: 0 })
    if (far && kind === 'feed') this.steps.push({ e: -(length ?? 1), speed: pull })
    if (rises) this.steps.push({ z: this.z + zLift!, speed: 10 })
    this.steps.push({ x, y, speed: this.travel })
    if (rises) this.steps.push({ z: this.z, speed: 10 })
    if (far && kind === 'firmware') this.steps.push({ command: 'G11', speed: 0 })
    if (far && kind === 'feed') this.steps.push({ e: (length ?? 1) + (restartExtra ?? 0), speed: pull })
    this.x = x
    this.y = y
  }
}

/** What a file has of what is asked for, and what is asked for. */
function wanted(file: FileAsRead, changes: readonly GripChange[], width: number) {
  const { build, base } = file.reading
  const more = (have: number, want: number) => {
    if (want < have) throw new ChangeError('change-only-more', { have })
    return want - have
  }
  const linesOf = (kind: 'brim' | 'skirt' | 'draught-wall', have: number) =>
    changes.reduce((n, c) => (c.kind === kind && 'lines' in c ? more(have, c.lines) : n), 0)
  const brim = changes.find((c) => c.kind === 'brim')
  const tabs = changes.find((c) => c.kind === 'tabs')
  const settings: AroundSettings = {
    firstWidth: width,
    firstHeight: file.analysis.index.z[0],
    outerWidth: width,
    skirtLoops: linesOf('skirt', build.skirtLoops),
    brimLines: linesOf('brim', build.brimLines),
    brimWidth: width,
    brimGap: base.brim ? 0 : (brim?.gap ?? 0),
    cornerTabs: tabs?.diameter ?? 0,
    draughtWall: linesOf('draught-wall', build.draughtWall ?? 0),
    raft: false,
    raftMargin: 0,
  }
  if (!settings.skirtLoops && !settings.brimLines && !settings.cornerTabs && !settings.draughtWall)
    throw new ChangeError('change-does-nothing')
  return settings
}

/** Where each layer begins to be laid; the file has to go up layer by layer. */
function layerBegins({ analysis }: FileAsRead): number[] {
  const begins: number[] = []
  for (const s of analysis.stretches) {
    if (s.layer < 0 || begins[s.layer] !== undefined) continue
    if (s.layer !== begins.length) throw new ChangeError('change-one-by-one')
    begins.push(s.from)
  }
  return begins
}

/**
 * Brim, skirt, corner tabs and draught wall round what the first layer of a file draws, laid before it with the file's own
 * speed, feed and pull-backs.
 * @throws ChangeError where the bed has no room, or the file lies there already
 */
export function grip(
  file: FileAsRead,
  changes: readonly GripChange[],
  machine: Machine,
  kernel: Kernel,
): Overlay {
  const { analysis, reading } = file
  const { program, index } = analysis
  const width = firstWidth(file)
  const asked = wanted(file, changes, width)
  const passes = passesOf(file)
  const begins = asked.draughtWall ? layerBegins(file) : []
  if (asked.draughtWall && (passes.length > 1 || index.spiral)) throw new ChangeError('change-one-by-one')
  const isSkirt = (s: Stretch) => s.feature === Feature.Skirt && s.closed
  const lies = (s: Stretch) =>
    s.feature !== Feature.Skirt && s.feature !== Feature.Solid && s.feature !== Feature.Infill

  return scoped((keep) => {
    const feet = passes.map((p) => coverOf(kernel, file, p.stretches.filter(lies), width, keep))
    const skirts = passes.flatMap((p) => p.stretches.filter(isSkirt))
    const skirted = skirts.length ? bandsOf(kernel, file, skirts, width, keep) : undefined
    // lines that only prime lie beside the part, or lower
    const primes = purgesOf(file)
    const primed = coverOf(kernel, file, primes, width, keep)
    let drops = false
    const all = passes.map((_, k): Surroundings => {
      const rest = keep(kernel.CrossSection.union([primed, ...feet.filter((__, j) => j !== k)]))
      const foot = keep(kernel.CrossSection.compose([feet[k]]))
      const around = (s: AroundSettings, beside?: Area) => {
        const upper = s.draughtWall ? [{ area: shadowOf(kernel, file, keep) }] : []
        return surroundingsOf(kernel, [{ area: foot }, ...upper], machine, s, [], keep, beside)
      }
      const fits = (s: Surroundings, against: Area) =>
        keep(bandOf(kernel, [...s.base, ...s.wall], keep).intersect(against)).area() < TOUCH
      const own = k === 0 ? asked : { ...asked, skirtLoops: 0 }
      let made = around(own, skirted)
      if (skirted && !fits(made, skirted)) {
        // a brim primes as well as the skirt whose room it takes
        if (!asked.brimLines && !asked.cornerTabs) throw new ChangeError('change-lies-there')
        drops = true
        made = around({ ...own, skirtLoops: own.skirtLoops ? own.skirtLoops + reading.build.skirtLoops : 0 })
      }
      if (made.left.length) throw new ChangeError('change-no-room')
      if (!fits(made, rest)) throw new ChangeError('change-lies-there')
      if (
        asked.cornerTabs &&
        !made.tabs.length &&
        !asked.brimLines &&
        !asked.skirtLoops &&
        !asked.draughtWall
      )
        throw new ChangeError('change-does-nothing')
      return made
    })

    /** Without the many small steps of a round corner. */
    const plainly = (s: Stroke): Stroke[] =>
      ringsOf(keep(keep(areaOf(kernel, [s.points], 'NonZero')).simplify(FINE))).map((points) => ({
        ...s,
        points: [...points],
      }))
    const steps = new Map<number, Inserted[]>()
    const at = (move: number) => ({ x: program.x[move - 1], y: program.y[move - 1] })
    const firstSpeed = reading.firstLayer?.speed ?? 20
    const h = index.z[0]
    passes.forEach((p, k) => {
      const layer = new Layer(file, machine, at(p.at), program.z[p.at])
      for (const s of [...all[k].wall, ...all[k].base].flatMap(plainly)) layer.lay(s, h, firstSpeed)
      if (layer.steps.length) steps.set(p.at, layer.back())
    })
    const wall = all[0].wall.flatMap(plainly)
    if (wall.length)
      for (let l = 1; l < begins.length; l++) {
        const layer = new Layer(file, machine, at(begins[l]), program.z[begins[l]])
        const speed = reading.layers.outerAsked[l] ?? reading.rest.speed ?? firstSpeed
        for (const s of wall)
          layer.lay({ ...s, width: reading.layers.width[l] ?? s.width }, index.height[l], speed)
        steps.set(begins[l], layer.back())
      }
    const gone = new Set<number>()
    if (drops) for (const s of skirts) for (let i = s.from; i <= s.to; i++) gone.add(i)
    return {
      before: (i) => steps.get(i),
      ...(gone.size && {
        drops: (i: number) => gone.has(i),
        feed: (i: number, e: number) => (gone.has(i) ? 0 : e),
      }),
    }
  })
}

const bandsOf = (
  kernel: Kernel,
  file: FileAsRead,
  loops: readonly Stretch[],
  width: number,
  keep: Keep,
): Area => {
  const { x, y } = file.analysis.program
  return bandOf(
    kernel,
    loops.map((s): Stroke => {
      const points: [number, number][] = []
      for (let i = s.from; i <= s.to; i++) points.push([x[i], y[i]])
      return { kind: 'skirt', points, closed: true, width, share: 1, small: false }
    }),
    keep,
  )
}

/** Lines that only prime: open ones beside the part on its first layer, and what is laid before it on the bed. */
function purgesOf({ analysis }: FileAsRead): Stretch[] {
  const { program, index, stretches } = analysis
  const { kind, z, count } = program
  const out = stretches.filter((s) => s.layer === 0 && s.feature === Feature.Skirt && !s.closed)
  const top = (index.z[0] ?? 0) + 1
  for (let i = 1; i < count && index.layerOf[i] < 0; i++)
    if (kind[i] === MoveKind.Extrude && z[i] < top)
      out.push({ ...stretches[0], from: i, to: i, closed: false })
  return out
}

/** The outline of a part seen from above, without hollows. */
function shadowOf(kernel: Kernel, { analysis }: FileAsRead, keep: Keep): Area {
  const { program, stretches } = analysis
  let places: Place[] = []
  for (const s of stretches) {
    if (s.layer < 0 || s.feature === Feature.Skirt) continue
    for (let i = Math.max(0, s.from - 1); i <= s.to; i++) places.push({ x: program.x[i], y: program.y[i] })
    if (places.length > AT_ONCE) places = convexHull(places)
  }
  return keep(areaOf(kernel, [convexHull(places).map((p): [number, number] => [p.x, p.y])]))
}
