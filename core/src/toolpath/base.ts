import type { Program } from '../gcode/program'
import { Grid, type Box } from '../geometry/grid'
import { Feature } from './features'
import { classifyLayer, distanceTo, type Stretch } from './loops'
import { Region } from './region'

/** Layers that a raft has at most, and the air between its lines, mm. Common practice, no source. */
const MOST_RAFT = 8
const RAFT_AIR = 4

/**
 * Layers at the base that are a raft: fill without walls around it, or lines far wider than the nozzle, with something else
 * on it that has its lines beneath.
 */
export function raftAt(
  program: Program,
  listOf: (l: number) => Stretch[],
  layers: number,
  nozzle: number,
  widthOf: (s: Stretch) => number,
): number {
  let k = 0
  let bed = 0
  let bare = true
  for (; k < Math.min(MOST_RAFT + 1, layers); k++) {
    let open = 0
    let wide = 0
    let all = 0
    for (const s of listOf(k)) {
      if (s.feature === Feature.Skirt) continue
      all += s.length
      if (s.feature === Feature.Thin || s.feature === Feature.Support) open += s.length
      if (widthOf(s) > 1.9 * nozzle) wide += s.length
    }
    bare = open > 0.6 * all || (k === 0 && wide > 0.5 * all)
    if (!bare) break
    // one layer alone is a raft when it is laid wide, without walls
    if (k === 0 && wide > 0.5 * all && open > 0.6 * all) bed = 1
  }
  // where it never ends, the part itself has open walls
  if (bare || (k < 2 && !(k === 1 && bed))) return 0
  // a raft lies under all of the part; lines that only prime the nozzle lie beside it
  const bounds = (own: Stretch[]) => {
    const most = (of: (s: Stretch) => number) => own.reduce((m, s) => Math.max(m, of(s)), -Infinity)
    return [most((s) => -s.minX), most((s) => s.maxX), most((s) => -s.minY), most((s) => s.maxY)]
  }
  const isBare = (s: Stretch) =>
    s.feature === Feature.Thin || s.feature === Feature.Support || widthOf(s) > 1.9 * nozzle
  const [under, over] = [
    bounds(listOf(0).filter(isBare)),
    bounds(listOf(k).filter((s) => s.feature !== Feature.Skirt)),
  ]
  if (over.some((v, i) => v > under[i] + nozzle)) return 0
  const lines = listOf(k - 1).filter(isBare)
  let rests = 0
  let places = 0
  for (const s of listOf(k)) {
    if (s.feature === Feature.Skirt) continue
    const step = Math.max(1, Math.floor((s.to - s.from) / 8))
    for (let i = s.from; i <= s.to; i += step) {
      places++
      const px = program.x[i]
      const py = program.y[i]
      const near = (l: Stretch) =>
        px > l.minX - RAFT_AIR &&
        px < l.maxX + RAFT_AIR &&
        py > l.minY - RAFT_AIR &&
        py < l.maxY + RAFT_AIR &&
        distanceTo(program, l, px, py) < RAFT_AIR
      if (lines.some(near)) rests++
    }
  }
  if (rests < 0.6 * places) return 0
  for (let l = 0; l < k; l++)
    for (const s of listOf(l)) if (s.feature !== Feature.Skirt) s.feature = Feature.Raft
  return k
}

const holds = (s: Stretch, o: Stretch) =>
  s.minX < o.minX && s.maxX > o.maxX && s.minY < o.minY && s.maxY > o.maxY

/** Share of a loop's way that has to lie beside something so that it is joined to it, and how far apart it is looked at, mm. */
const JOINED = 0.12
const LOOK = 0.5

/** Whether a loop lies beside something for a good part of its way. */
function touches(program: Program, s: Stretch, beside: (x: number, y: number) => boolean): boolean {
  const { x, y } = program
  let near = 0
  let all = 0
  for (let i = s.from; i <= s.to; i++) {
    const [ax, ay] = i ? [x[i - 1], y[i - 1]] : [0, 0]
    const way = Math.hypot(x[i] - ax, y[i] - ay)
    const looks = Math.max(1, Math.round(way / LOOK))
    for (let k = 0; k < looks; k++) {
      const t = (k + 0.5) / looks
      all += way / looks
      if (beside(ax + (x[i] - ax) * t, ay + (y[i] - ay) * t)) near += way / looks
    }
  }
  return near > JOINED * all
}

/** Tells skirt and brim from the part on the first layer: they have nothing above them. */
export function aroundTheBase(
  program: Program,
  shields: ReadonlySet<Stretch>,
  listOf: (l: number) => Stretch[],
  layers: number,
  raft: number,
  nozzle: number,
  widthOf: (s: Stretch) => number,
): void {
  if (layers < 2 || raft) return
  const { x, y } = program
  const base = listOf(0).filter((s) => !shields.has(s))
  const outline = listOf(1).filter((s) => s.closed && s.boundary)
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
      const beside = (px: number, py: number) => joined.some((j) => distanceTo(program, j, px, py) < reach(s))
      // a tab under a corner touches with its sides alone, and goes round nothing
      const tab = s.closed && !outline.some((o) => holds(s, o))
      if (tab ? !touches(program, s, beside) : share(s, beside) < 0.34) continue
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
