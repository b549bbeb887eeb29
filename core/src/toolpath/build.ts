import type { Analysis } from './analysis'
import { Feature } from './features'
import type { Stretch } from './loops'

/** How a part is built, as far as its paths show. What cannot be told is null. */
export interface Build {
  /** mm; outer bounds of the outlines without skirt and brim, edge to edge of the bead, and the height. */
  size: { x: number; y: number; z: number } | null
  /** Lines side by side in the outer wall, as a rule. */
  walls: number | null
  /** Solid layers at the base and under a flat top; 0 where it is open. */
  bottomLayers: number | null
  topLayers: number | null
  /** % of the inside that is plastic where it is neither bottom nor top. */
  sparseDensity: number | null
  /** Loops of a skirt, and lines of a brim side by side. */
  skirtLoops: number
  brimLines: number
  /** Lines of a wall round the part that keeps moving air off; null where it was never read. */
  draughtWall: number | null
  wallOrder: 'inside-first' | 'outside-first' | null
  /** s; the layer time that slowed layers are brought to; null where none is slowed. */
  heldLayerTime: number | null
  /** mm/s; the slowest outer wall of a slowed layer. */
  slowest: number | null
  /** mm/s², as the file sets them. */
  firstAcceleration: number | null
  travelAcceleration: number | null
}

/** A reading kept before the build was read. */
export const UNKNOWN_BUILD: Build = {
  size: null,
  walls: null,
  bottomLayers: null,
  topLayers: null,
  sparseDensity: null,
  skirtLoops: 0,
  brimLines: 0,
  draughtWall: null,
  wallOrder: null,
  heldLayerTime: null,
  slowest: null,
  firstAcceleration: null,
  travelAcceleration: null,
}

/** Layers that are looked at for what holds of the whole print; more would tell no more. */
const MOST_LAYERS = 60

/** Reads how the part is built from the paths of each layer. */
export function readBuild(
  a: Analysis,
  table: { z: number[]; seconds: number[]; outerAsked: (number | null)[]; width: (number | null)[] },
  set: Pick<Build, 'firstAcceleration' | 'travelAcceleration'>,
): Build {
  const layers = table.z.length
  const of = (l: number) => {
    const out: Stretch[] = []
    for (let k = a.first[l]; k < a.first[l + 1]; k++) out.push(a.stretches[a.order[k]])
    return out
  }
  const base = a.raftLayers
  const step = Math.max(1, Math.floor((layers - base) / MOST_LAYERS))
  const body: number[] = []
  for (let l = base + 1; l < layers; l += step) body.push(l)
  const walls: number[] = []
  const densities: number[] = []
  let outsideFirst = 0
  let insideFirst = 0
  for (const l of body) {
    const list = of(l)
    const deep = wallsOf(list)
    if (deep) walls.push(deep)
    const density = densityOf(list, table.width[l])
    if (density !== null) densities.push(density)
    const order = orderOf(list)
    if (order === 'outside-first') outsideFirst++
    else if (order) insideFirst++
  }
  const held = heldTime(table, base)
  return {
    size: sizeOf(a, table, base),
    walls: mode(walls),
    bottomLayers: layers > base + 3 ? closedFrom(of, base, 1, layers) : null,
    topLayers: layers > base + 3 && flatTop(of, layers) ? closedFrom(of, layers - 1, -1, layers) : null,
    sparseDensity: densities.length > 2 ? Math.round(mid(densities)) : null,
    skirtLoops: layers
      ? nestedLines(
          of(0).filter((s) => !a.shields.has(s)),
          Feature.Skirt,
        )
      : 0,
    brimLines: layers ? nestedLines(ofBrim(of(0)), Feature.Brim) : 0,
    draughtWall:
      layers > 2
        ? nestedLines(
            [...a.shields].filter((s) => s.layer === 1),
            Feature.Skirt,
          )
        : null,
    wallOrder:
      outsideFirst + insideFirst < 3 ? null : outsideFirst > insideFirst ? 'outside-first' : 'inside-first',
    ...held,
    ...set,
  }
}

/** A brim goes round something of the part; what does not is a tab under a corner. */
function ofBrim(list: Stretch[]): Stretch[] {
  const part = list.filter((s) => s.feature === Feature.Outer || s.feature === Feature.Thin)
  const round = (s: Stretch) =>
    part.some((o) => s.minX < o.minX && s.maxX > o.maxX && s.minY < o.minY && s.maxY > o.maxY)
  return list.filter((s) => s.feature === Feature.Brim && round(s))
}

const mid = (v: number[]) => [...v].sort((p, q) => p - q)[Math.floor(v.length / 2)]

/** The most frequent value; null for none. */
function mode(values: number[]): number | null {
  const counts = new Map<number, number>()
  for (const v of values) counts.set(v, (counts.get(v) ?? 0) + 1)
  let best: number | null = null
  for (const [v, n] of counts) if (best === null || n > counts.get(best)!) best = v
  return best
}

/**
 * Lines side by side in the walls of a layer; 0 where it cannot be told: a ring without fill may be one thick wall
 * or two thin ones back to back.
 */
function wallsOf(list: Stretch[]): number {
  const at: number[] = []
  let filled = false
  let faces = 0
  for (const s of list) {
    if (s.feature === Feature.Solid || s.feature === Feature.Infill || s.feature === Feature.Bridge)
      filled = true
    if (s.place < 0 || (s.feature !== Feature.Outer && s.feature !== Feature.Inner)) continue
    at[s.place] = (at[s.place] ?? 0) + 1
    if (s.place > 0 && s.boundary) faces++
  }
  const first = at[0] ?? 0
  if (!first) return 0
  let deep = 1
  while ((at[deep] ?? 0) >= 0.5 * first) deep++
  if (filled || deep === 1) return deep
  return faces >= 0.5 * first ? Math.ceil(deep / 2) : 0
}

/** mm² and mm across; smaller and narrower insides are mostly turns of the infill, which say nothing of its density. */
const LEAST_INSIDE = 150
const LEAST_ACROSS = 6

/** Share of the inside that is plastic, %, on a layer with sparse fill and no solid one. */
function densityOf(list: Stretch[], width: number | null): number | null {
  if (width === null) return null
  let fill = 0
  let inside = 0
  let round = 0
  for (const s of list) {
    if (s.feature === Feature.Solid || s.feature === Feature.Bridge || s.feature === Feature.Support)
      return null
    if (s.feature === Feature.Infill) fill += s.length
    else if (s.closed && s.boundary) {
      round += s.length
      inside += s.outermost ? s.area - (s.length * width) / 2 : -s.area - (s.length * width) / 2
    } else if (s.feature === Feature.Inner) inside -= s.length * width
  }
  const across = round > 0 ? (2 * inside) / round : 0
  return fill > 0 && inside > LEAST_INSIDE && across > LEAST_ACROSS
    ? Math.min(100, (100 * fill * width) / inside)
    : null
}

/** Which of a layer's walls is laid first; null where there is one wall only. */
function orderOf(list: Stretch[]): Build['wallOrder'] {
  const outer = list.findIndex((s) => s.place === 0 && s.feature === Feature.Outer)
  const inner = list.findIndex((s) => s.place === 1 && s.feature === Feature.Inner)
  if (outer < 0 || inner < 0) return null
  return outer < inner ? 'outside-first' : 'inside-first'
}

/** Solid layers from one end on; null where the inside is solid throughout or there is none. */
function closedFrom(of: (l: number) => Stretch[], from: number, step: 1 | -1, layers: number): number | null {
  let closed = 0
  for (let l = from; l >= 0 && l < layers; l += step) {
    let solid = 0
    let sparse = 0
    let room = 0
    for (const s of of(l)) {
      if (s.feature === Feature.Solid || s.feature === Feature.Bridge) solid += s.length
      else if (s.feature === Feature.Infill) sparse += s.length
      else if (s.closed && s.outermost) room += s.area
    }
    if (sparse > 0.2 * solid || !solid) return solid || sparse || room > 60 ? closed : null
    closed++
  }
  return null
}

const outlineArea = (list: Stretch[]) =>
  list.reduce((sum, s) => sum + (s.closed && s.outermost ? s.area : 0), 0)

/** Whether the print ends in a face that is as large as what is below it. */
function flatTop(of: (l: number) => Stretch[], layers: number): boolean {
  const top = outlineArea(of(layers - 1))
  return top > 0 && top > 0.9 * outlineArea(of(Math.max(0, layers - 6)))
}

/** Lines of a skirt or brim side by side: loops over groups of loops that lie in one another. */
function nestedLines(list: Stretch[], feature: Feature): number {
  const loops = list.filter((s) => s.closed && s.feature === feature)
  const holds = (p: Stretch, q: Stretch) =>
    p.minX < q.minX && p.maxX > q.maxX && p.minY < q.minY && p.maxY > q.maxY
  const roots = loops.filter((s) => !loops.some((o) => o !== s && holds(o, s)))
  if (!roots.length) return 0
  // small groups beside the large one are tabs under corners
  const large = roots.reduce((p, q) => (q.area > p.area ? q : p))
  const whole = roots.filter((s) => s.area > 0.5 * large.area)
  const lines = whole.map((root) => 1 + loops.filter((s) => s !== root && holds(root, s)).length)
  return Math.round(lines.reduce((sum, n) => sum + n, 0) / lines.length)
}

/** The time slowed layers are brought to. From memory: a tenth slower than usual is slowed, a tenth apart is one time. */
function heldTime(
  table: { seconds: number[]; outerAsked: (number | null)[] },
  base: number,
): Pick<Build, 'heldLayerTime' | 'slowest'> {
  const asked = table.outerAsked.map((v, l) => ({ v, l })).filter((p) => p.l > base && p.v !== null)
  if (asked.length < 4) return { heldLayerTime: null, slowest: null }
  const top = Math.max(...asked.map((p) => p.v!))
  const slowed = asked.filter((p) => p.v! < 0.9 * top)
  if (slowed.length < 3) return { heldLayerTime: null, slowest: null }
  const times = slowed.map((p) => table.seconds[p.l])
  const usual = mid(times)
  const together = times.filter((t) => Math.abs(t - usual) < 0.1 * usual).length
  const slowest = Number(Math.min(...slowed.map((p) => p.v!)).toFixed(1))
  return together >= 0.6 * times.length
    ? { heldLayerTime: Number(usual.toFixed(1)), slowest }
    : { heldLayerTime: null, slowest }
}

/** Bounds of the outlines, edge to edge of the bead, from the layers above the base's own flare. */
function sizeOf(a: Analysis, table: { z: number[]; width: (number | null)[] }, base: number): Build['size'] {
  let minX = Infinity
  let minY = Infinity
  let maxX = -Infinity
  let maxY = -Infinity
  for (const s of a.stretches) {
    if (s.layer < base || (s.feature !== Feature.Outer && s.feature !== Feature.Thin)) continue
    const w = (table.width[s.layer] ?? a.context.nozzleDiameter) / 2
    minX = Math.min(minX, s.minX - w)
    minY = Math.min(minY, s.minY - w)
    maxX = Math.max(maxX, s.maxX + w)
    maxY = Math.max(maxY, s.maxY + w)
  }
  const floor = base ? table.z[base - 1] : 0
  return minX < maxX
    ? {
        x: Number((maxX - minX).toFixed(2)),
        y: Number((maxY - minY).toFixed(2)),
        z: Number(((table.z.at(-1) ?? 0) - floor).toFixed(2)),
      }
    : null
}
