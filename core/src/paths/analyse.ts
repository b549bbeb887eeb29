import { beadWidth, filamentArea } from '../extrusion/bead'
import { MoveKind, type Program } from '../gcode/program'
import { planMotion, type MotionLimits, type Plan } from '../motion/plan'
import { Feature } from './features'
import { Grid, Region, type Box } from './grid'
import { indexLayers, type LayerIndex } from './layers'
import { classifyLayer, distanceTo, findStretches, type Stretch } from './loops'

export interface ReadingContext {
  /** mm */
  filamentDiameter: number
  /** g/cm³ */
  density: number
  nozzleDiameter: number
  limits: MotionLimits
}

/** A body that grows from layer to layer; several stand side by side or one after another. */
export interface PathObject extends Box {
  firstLayer: number
  lastLayer: number
}

/** Where a loop that faces the air begins. */
export interface LoopStart {
  layer: number
  object: number
  stretch: number
  x: number
  y: number
  /** Degrees around the middle of its loop, 0 along +X, counter-clockwise. */
  angle: number
  /** Turn of the path at the start, degrees; positive bulges outwards. Beyond 30 it is a corner. */
  turn: number
  /** mm the feed ends before the loop closes. */
  early: number
  /** mm the head goes on along the loop after the feed has ended. */
  wipe: number
  /** In a hole, not on the outside. */
  hole: boolean
}

/** A travel through open air, merged over moves without feed in between. */
export interface OpenTravel {
  layer: number
  /** mm outside every outline of its layer */
  length: number
  retracted: boolean
  /** First and last move. */
  from: number
  to: number
}

/** The head standing still. */
export interface Stop {
  layer: number
  move: number
  seconds: number
  /** Over the part and close above it. */
  overPart: boolean
  x: number
  y: number
}

/** Everything that is known of a program's paths. Holds the program: large. */
export interface Analysis {
  program: Program
  context: ReadingContext
  plan: Plan
  index: LayerIndex
  stretches: Stretch[]
  /** Stretches sorted by layer: those of layer l are `order[first[l]]` to `order[first[l + 1] − 1]`. */
  order: Int32Array
  first: Int32Array
  /** {@link Feature} of each move. */
  featureOf: Uint8Array
  /** Layers of a raft at the base. */
  raftLayers: number
  objects: PathObject[]
  starts: LoopStart[]
  travels: OpenTravel[]
  stops: Stop[]
  /** Share of each layer's extrusion with something right below, 0 to 1. */
  supported: Float32Array
  /** mm of outer wall of each layer with nothing right below. */
  overhang: Float32Array
  /** Silhouette of each layer from the front: merged spans in X of its outlines. */
  spans: [number, number][][]
  box: Box
}

/** Thickness that a stretch's layer has, mm. */
const heightOf = (index: LayerIndex, layer: number) => Math.max(0.02, index.height[layer] || 0.2)

/**
 * Takes a program apart: motion, layers, stretches, features, support from below, open-air travel, loop starts,
 * stops. One pass a concern, in linear time for usual files.
 * @param onStep called between the stages with the share done, 0 to 1
 */
export function analysePath(
  program: Program,
  context: ReadingContext,
  onStep?: (share: number) => void,
): Analysis {
  const plan = planMotion(program, context.limits)
  onStep?.(0.15)
  const index = indexLayers(program)
  onStep?.(0.25)
  const stretches = findStretches(program, index.layerOf)
  const layers = index.z.length
  const { order, first } = byLayer(stretches, layers)
  onStep?.(0.4)
  const area = filamentArea(context.filamentDiameter)
  const widthOf = (s: Stretch) =>
    s.length > 0 ? beadWidth((s.fed * area) / s.length, heightOf(index, s.layer)) : 0
  const box: Box = { minX: Infinity, minY: Infinity, maxX: -Infinity, maxY: -Infinity }
  for (const s of stretches) {
    box.minX = Math.min(box.minX, s.minX)
    box.minY = Math.min(box.minY, s.minY)
    box.maxX = Math.max(box.maxX, s.maxX)
    box.maxY = Math.max(box.maxY, s.maxY)
  }
  const analysis: Analysis = {
    program,
    context,
    plan,
    index,
    stretches,
    order,
    first,
    featureOf: new Uint8Array(program.count),
    raftLayers: 0,
    objects: [],
    starts: [],
    travels: [],
    stops: [],
    supported: new Float32Array(layers),
    overhang: new Float32Array(layers),
    spans: [],
    box,
  }
  if (!layers) return analysis
  const listOf = (l: number) => {
    const out: Stretch[] = []
    for (let k = first[l]; k < first[l + 1]; k++) out.push(stretches[order[k]])
    return out
  }
  for (let l = 0; l < layers; l++) classifyLayer(program, listOf(l), context.nozzleDiameter, widthOf)
  onStep?.(0.6)
  analysis.raftLayers = raftAt(listOf, layers, context.nozzleDiameter, widthOf)
  aroundTheBase(program, listOf, layers, analysis.raftLayers, context.nozzleDiameter, widthOf)
  overLayers(analysis, listOf)
  onStep?.(0.9)
  for (const s of stretches) analysis.featureOf.fill(s.feature, s.from, s.to + 1)
  onStep?.(1)
  return analysis
}

function byLayer(stretches: Stretch[], layers: number) {
  const first = new Int32Array(layers + 1)
  for (const s of stretches) first[s.layer + 1]++
  for (let l = 0; l < layers; l++) first[l + 1] += first[l]
  const order = new Int32Array(stretches.length)
  const next = first.slice()
  stretches.forEach((s, i) => (order[next[s.layer]++] = i))
  return { order, first }
}

/** Layers at the base that are a raft: fill without walls around it, or lines far wider than the nozzle. */
function raftAt(
  listOf: (l: number) => Stretch[],
  layers: number,
  nozzle: number,
  widthOf: (s: Stretch) => number,
): number {
  let k = 0
  for (; k < Math.min(8, layers - 1); k++) {
    let bare = 0
    let wide = 0
    let all = 0
    for (const s of listOf(k)) {
      all += s.length
      if (s.feature === Feature.Thin || s.feature === Feature.Support) bare += s.length
      if (widthOf(s) > 1.9 * nozzle) wide += s.length
    }
    if (!(bare > 0.6 * all || (k === 0 && wide > 0.5 * all))) break
  }
  if (k < 2) return 0
  const box = (l: number) => listOf(l).reduce((b, s) => Math.max(b, s.maxX - s.minX, s.maxY - s.minY), 0)
  if (box(k) > box(0) + nozzle) return 0
  for (let l = 0; l < k; l++) for (const s of listOf(l)) s.feature = Feature.Raft
  return k
}

/** Tells skirt and brim from the part on the first layer: they have nothing above them. */
function aroundTheBase(
  program: Program,
  listOf: (l: number) => Stretch[],
  layers: number,
  raft: number,
  nozzle: number,
  widthOf: (s: Stretch) => number,
): void {
  if (layers < 2 || raft) return
  const { x, y } = program
  const base = listOf(0)
  const above = listOf(1).filter((s) => s.closed)
  const outline = above.filter((s) => s.boundary)
  const reach = (s: Stretch) => 1.75 * Math.min(2.5 * nozzle, Math.max(nozzle, widthOf(s)))
  const places = (s: Stretch) => {
    const n = Math.min(6, s.to - s.from + 1)
    return Array.from(
      { length: n },
      (_, k) => s.from + Math.floor(((s.to - s.from) * k) / Math.max(1, n - 1)),
    )
  }
  const share = (s: Stretch, test: (px: number, py: number) => boolean) => {
    const at = places(s)
    return at.filter((i) => test(x[i], y[i])).length / at.length
  }
  const box: Box = { minX: Infinity, minY: Infinity, maxX: -Infinity, maxY: -Infinity }
  for (const s of outline) {
    box.minX = Math.min(box.minX, s.minX)
    box.minY = Math.min(box.minY, s.minY)
    box.maxX = Math.max(box.maxX, s.maxX)
    box.maxY = Math.max(box.maxY, s.maxY)
  }
  if (!(box.maxX > box.minX)) return
  const region = new Region(Grid.around(box, 1, 0.2, 800))
  region.fill(program, outline)
  const inside = (px: number, py: number) => region.has(px, py)
  const nearOutline = (px: number, py: number) =>
    outline.some(
      (o) =>
        px > o.minX - 1 &&
        px < o.maxX + 1 &&
        py > o.minY - 1 &&
        py < o.maxY + 1 &&
        distanceTo(program, o, px, py) < 0.6 * nozzle,
    )
  const outside = base.filter((s) => share(s, (px, py) => inside(px, py) || nearOutline(px, py)) < 0.34)
  if (!outside.length || outside.length === base.length) return
  const rest = base.filter((s) => !outside.includes(s))
  classifyLayer(program, rest, nozzle, widthOf)
  let joined = rest.filter((s) => s.boundary)
  const left = new Set(outside)
  for (let grew = true; grew && left.size;) {
    grew = false
    const fresh: Stretch[] = []
    for (const s of left) {
      const near = share(s, (px, py) => joined.some((j) => distanceTo(program, j, px, py) < reach(s)))
      if (near < 0.34) continue
      fresh.push(s)
      left.delete(s)
      s.feature = Feature.Brim
      grew = true
    }
    joined = fresh
  }
  for (const s of left) s.feature = Feature.Skirt
  for (const s of outside) {
    s.outermost = false
    s.boundary = false
  }
}

/** Support from below, outlines, objects, loop starts, open-air travel and stops, layer by layer from the bed up. */
function overLayers(a: Analysis, listOf: (l: number) => Stretch[]): void {
  const { program, index, box } = a
  const { x, y } = program
  const layers = index.z.length
  const grid = Grid.around(box, 1, 0.4, 500)
  const region = new Region(grid)
  // height of the newest material in a cell, and of the one before it
  const newest = new Float32Array(grid.size).fill(-1)
  const older = new Float32Array(grid.size).fill(-1)
  const { travelOf, stopOf } = travelsByLayer(program, index, layers)
  const last: Box[] = []
  for (let l = 0; l < layers; l++) {
    const list = listOf(l)
    const z = index.z[l]
    const h = heightOf(index, l)
    let laid = 0
    let held = 0
    for (const s of list) {
      let own = 0
      let ownHeld = 0
      for (let i = s.from; i <= s.to; i++) {
        const ax = i ? x[i - 1] : 0
        const ay = i ? y[i - 1] : 0
        const dx = x[i] - ax
        const dy = y[i] - ay
        const d = Math.sqrt(dx * dx + dy * dy)
        const steps = Math.max(1, Math.round(d / grid.cell))
        for (let k = 0; k < steps; k++) {
          const t = (k + 0.5) / steps
          const c = grid.at(ax + dx * t, ay + dy * t)
          if (c < 0) continue
          own++
          const below = newest[c] < z - 1e-3 ? newest[c] : older[c]
          if (l === 0 || z - below < 1.6 * h + 0.02 || besides(newest, older, c, grid.nx, z, h)) ownHeld++
          if (newest[c] < z - 1e-3) {
            older[c] = newest[c]
            newest[c] = z
          }
        }
      }
      laid += own
      held += ownHeld
      if (own && ownHeld < 0.4 * own && s.feature === Feature.Solid && l > 0) s.feature = Feature.Bridge
      if (own && s.feature === Feature.Outer) a.overhang[l] += s.length * (1 - ownHeld / own)
    }
    a.supported[l] = laid ? held / laid : 1
    const outline = list.filter((s) => s.closed && s.boundary)
    a.spans.push(spansOf(list))
    objectsOf(a, last, outline, l)
    for (const s of outline) startOf(a, s, l)
    if (travelOf[l].length || stopOf[l].length) {
      region.fill(program, outline)
      openTravels(a, region, travelOf[l], l, outline.length > 0)
      for (const move of stopOf[l])
        a.stops.push({
          layer: l,
          move,
          seconds: program.speed[move],
          overPart: region.has(x[move], y[move]) && program.z[move] < z + 2,
          x: x[move],
          y: y[move],
        })
    }
  }
}

/** Whether any cell beside this one has material right below: a bead rests on half its width too. */
function besides(
  newest: Float32Array,
  older: Float32Array,
  c: number,
  nx: number,
  z: number,
  h: number,
): boolean {
  for (const n of [c - 1, c + 1, c - nx, c + nx]) {
    if (n < 0 || n >= newest.length) continue
    const below = newest[n] < z - 1e-3 ? newest[n] : older[n]
    if (z - below < 1.6 * h + 0.02) return true
  }
  return false
}

/** Merged spans in X of the stretches of a layer, at most eight. */
function spansOf(list: Stretch[]): [number, number][] {
  const all = list
    .filter((s) => s.outermost || s.feature === Feature.Raft || s.feature === Feature.Thin)
    .map((s): [number, number] => [s.minX, s.maxX])
    .sort((p, q) => p[0] - q[0])
  const out: [number, number][] = []
  for (const [from, to] of all) {
    const last = out.at(-1)
    if (last && from <= last[1] + 0.5) last[1] = Math.max(last[1], to)
    else if (out.length < 8) out.push([from, to])
    else out[7][1] = Math.max(out[7][1], to)
  }
  return out
}

const MOST_OBJECTS = 200

/**
 * Joins the outlines of a layer to the objects they grow on: first those that nearly cover an object's last
 * outline, then those that overlap an object no outline has claimed; what is left begins an object of its own.
 */
function objectsOf(a: Analysis, last: Box[], outline: Stretch[], layer: number): void {
  const roots = outline.filter((s) => s.outermost)
  const claimed = new Set<number>()
  const overlap = (s: Stretch, o: Box) => {
    const w = Math.min(o.maxX, s.maxX) - Math.max(o.minX, s.minX)
    const d = Math.min(o.maxY, s.maxY) - Math.max(o.minY, s.minY)
    if (w <= 0 || d <= 0) return { union: 0, least: 0 }
    const p = (o.maxX - o.minX) * (o.maxY - o.minY)
    const q = (s.maxX - s.minX) * (s.maxY - s.minY)
    return { union: (w * d) / (p + q - w * d), least: (w * d) / Math.max(1e-6, Math.min(p, q)) }
  }
  const claim = (s: Stretch, k: number) => {
    s.object = k
    claimed.add(k)
    const o = a.objects[k]
    o.minX = Math.min(o.minX, s.minX)
    o.minY = Math.min(o.minY, s.minY)
    o.maxX = Math.max(o.maxX, s.maxX)
    o.maxY = Math.max(o.maxY, s.maxY)
    o.lastLayer = layer
    last[k] = { minX: s.minX, minY: s.minY, maxX: s.maxX, maxY: s.maxY }
  }
  for (const by of ['union', 'least'] as const)
    for (const s of roots) {
      if (s.object >= 0) continue
      let best = -1
      let share = by === 'union' ? 0.5 : 0.25
      for (let k = 0; k < last.length; k++) {
        if (claimed.has(k)) continue
        const v = overlap(s, last[k])[by]
        if (v > share) {
          share = v
          best = k
        }
      }
      if (best >= 0) claim(s, best)
    }
  for (const s of roots) {
    if (s.object >= 0 || a.objects.length >= MOST_OBJECTS) continue
    a.objects.push({
      minX: s.minX,
      minY: s.minY,
      maxX: s.maxX,
      maxY: s.maxY,
      firstLayer: layer,
      lastLayer: layer,
    })
    claim(s, a.objects.length - 1)
  }
  for (const s of outline)
    if (!s.outermost)
      s.object = a.objects.findIndex(
        (o) => s.minX >= o.minX && s.maxX <= o.maxX && s.minY >= o.minY && s.maxY <= o.maxY,
      )
}

/** Notes where a boundary loop starts, what corner that is, and how its end is treated. */
function startOf(a: Analysis, s: Stretch, layer: number): void {
  const { x, y, kind, count, e } = a.program
  const sx = s.from ? x[s.from - 1] : 0
  const sy = s.from ? y[s.from - 1] : 0
  const cx = (s.minX + s.maxX) / 2
  const cy = (s.minY + s.maxY) / 2
  const angle = ((Math.atan2(sy - cy, sx - cx) * 180) / Math.PI + 360) % 360
  const after = direction(x, y, s.from - 1, s.to, 1)
  const before = direction(x, y, s.to, s.from, -1)
  let turn =
    (Math.atan2(-(before.x * after.y - before.y * after.x), before.x * after.x + before.y * after.y) * 180) /
    Math.PI
  // turns count outward: a convex corner of the part is positive whichever way round it is laid
  let twice = 0
  for (let i = s.from; i <= s.to; i++) twice += (x[i - 1] ?? 0) * y[i] - x[i] * (y[i - 1] ?? 0)
  turn *= twice > 0 ? -1 : 1
  if (!s.outermost) turn = -turn
  const end = Math.hypot(x[s.to] - sx, y[s.to] - sy)
  let wipe = 0
  let i = s.to + 1
  // the head going on close along the loop, without feed or pulling back
  while (i < count && wipe < 6 && (kind[i] === MoveKind.Travel || kind[i] === MoveKind.RetractMoving)) {
    const d = Math.hypot(x[i] - x[i - 1], y[i] - y[i - 1])
    if (d > 3 || e[i] > 0 || distanceTo(a.program, s, x[i], y[i]) > 0.08) break
    wipe += d
    i++
  }
  a.starts.push({
    layer,
    object: s.object,
    stretch: s.from,
    x: sx,
    y: sy,
    angle,
    turn,
    early: end > 0.03 ? end : 0,
    wipe: end > 0.03 ? Math.max(0, wipe - end) : wipe,
    hole: !s.outermost,
  })
}

/** Direction of a path over its next half millimetre from a place. */
function direction(x: Float32Array, y: Float32Array, from: number, to: number, step: 1 | -1) {
  const ax = from < 0 ? 0 : x[from]
  const ay = from < 0 ? 0 : y[from]
  let dx = 0
  let dy = 0
  for (let i = from + step; step > 0 ? i <= to : i >= to - 1 && i >= 0; i += step) {
    dx = (x[i] - ax) * step
    dy = (y[i] - ay) * step
    if (dx * dx + dy * dy > 0.25) break
  }
  const d = Math.hypot(dx, dy) || 1
  return { x: dx / d, y: dy / d }
}

interface TravelMove {
  move: number
  retracted: boolean
  /** Moves between two feeds share a run. */
  run: number
}

/** Travels and stops of each layer, with whether the filament was pulled back. */
function travelsByLayer(program: Program, index: LayerIndex, layers: number) {
  const { count, kind, x, y } = program
  const travelOf: TravelMove[][] = Array.from({ length: layers }, () => [])
  const stopOf: number[][] = Array.from({ length: layers }, () => [])
  const lastLaid = kind.lastIndexOf(MoveKind.Extrude)
  let retracted = false
  let run = 0
  for (let i = 0; i < count; i++) {
    const k = kind[i]
    if (k === MoveKind.Extrude || k === MoveKind.Feed) {
      retracted = false
      run++
      continue
    }
    if (k === MoveKind.Retract || k === MoveKind.RetractMoving) {
      retracted = true
      continue
    }
    const l = index.layerOf[i]
    if (l < 0 || i > lastLaid) continue
    if (k === MoveKind.Travel) {
      const dx = x[i] - (i ? x[i - 1] : 0)
      const dy = y[i] - (i ? y[i - 1] : 0)
      if (dx * dx + dy * dy > 0.25) travelOf[l].push({ move: i, retracted, run })
    } else if (k === MoveKind.Dwell) stopOf[l].push(i)
  }
  return { travelOf, stopOf }
}

/** Travels of 2 mm or more outside every outline of the layer. */
function openTravels(
  a: Analysis,
  region: Region,
  travels: TravelMove[],
  layer: number,
  outlined: boolean,
): void {
  if (!outlined) return
  const { x, y } = a.program
  const cell = region.grid.cell
  let now: (OpenTravel & { run: number }) | null = null
  const close = () => {
    if (now && now.length >= 2) {
      const { run: _, ...travel } = now
      a.travels.push(travel)
    }
    now = null
  }
  for (const t of travels) {
    if (now && now.run !== t.run) close()
    const i = t.move
    const ax = x[i - 1] ?? 0
    const ay = y[i - 1] ?? 0
    const dx = x[i] - ax
    const dy = y[i] - ay
    const d = Math.sqrt(dx * dx + dy * dy)
    const steps = Math.max(2, Math.ceil(d / cell))
    let open = 0
    for (let k = 0; k < steps; k++) {
      const f = (k + 0.5) / steps
      if (!region.has(ax + dx * f, ay + dy * f)) open++
    }
    const length = (open / steps) * d
    if (length <= 0.3) continue
    now ??= { layer, length: 0, retracted: true, from: i, to: i, run: t.run }
    now.length += length
    now.to = i
    if (!t.retracted) now.retracted = false
  }
  close()
}
