import { solidSpacing, beadArea } from '../extrusion/bead'
import { GcodeWriter } from '../gcode/writer'
import type { Machine } from '../materials/machine'
import type { RecipeValues } from '../recipe/derive'

type Point = readonly [number, number]

/** A simple part: an upright body on a rectangle or a circle, with an optional bore and narrowing steps. */
export interface PartOptions {
  title?: string
  shape: 'box' | 'round'
  /** mm; for a round body the diameter. */
  width: number
  depth?: number
  height: number
  /** Bore from top to bottom, mm; 0 for none. */
  bore?: number
  /** From these heights on the body is so much narrower, mm a side. */
  steps?: { from: number; inset: number }[]
  /** How many stand side by side in X, and the space between them. */
  copies?: number
  apart?: number
  /** One after another instead of layer by layer. */
  oneByOne?: boolean
  /** The head waits this long over the part after these layers (counted from 1). */
  stops?: { layer: number; seconds: number }[]
  /** Sides of a circle. */
  sides?: number
  /** Layers slower than the recipe's minimum layer time are slowed, as programs that prepare paths do. */
  slowDown?: boolean
}

interface Body {
  cx: number
  cy: number
}

/**
 * Writes a simple part as G-code from a recipe: skirt or brim, walls, solid bottoms and tops, sparse fill, the
 * recipe's seam place, wipe, early stop, fan and layer time. For the demo, tests and measurements of speed;
 * pieces for trials are built from the same lines.
 * @throws RangeError when the part does not fit the bed
 */
export function writePart(machine: Machine, recipe: RecipeValues, o: PartOptions): string {
  const n = (key: keyof RecipeValues) => Number(recipe[key].value)
  const g = new GcodeWriter(machine, recipe)
  g.begin(o.title ?? 'part')
  const copies = o.copies ?? 1
  const apart = o.apart ?? 10
  const pitch = o.width + apart
  const { x: mx, y: my } = g.centre
  const bodies: Body[] = Array.from({ length: copies }, (_, k) => ({
    cx: mx + (k - (copies - 1) / 2) * pitch,
    cy: my,
  }))
  const first = n('firstHeight')
  const layer = n('layerHeight')
  const layers = Math.max(1, Math.round((o.height - first) / layer) + 1)
  const ctx = { g, n, recipe, o, layers }
  if (o.oneByOne) {
    bodies.forEach((b, k) => {
      for (let l = 0; l < layers; l++) layOne(ctx, [b], l, k === 0)
      if (k < bodies.length - 1) g.travel(bodies[k].cx, bodies[k].cy, Math.min(machine.height, o.height + 5))
    })
  } else for (let l = 0; l < layers; l++) layOne(ctx, bodies, l, true)
  g.end()
  return g.text()
}

interface Context {
  g: GcodeWriter
  n: (key: keyof RecipeValues) => number
  recipe: RecipeValues
  o: PartOptions
  layers: number
}

function layOne(ctx: Context, bodies: Body[], l: number, heats: boolean): void {
  const { g, n, recipe, o, layers } = ctx
  const base = l === 0
  const h = base ? n('firstHeight') : n('layerHeight')
  const z = n('firstHeight') + l * n('layerHeight')
  const off = n('fanOffLayers')
  g.setFan(l < off ? 0 : n('fan'))
  if (l === 1 && heats) {
    g.nozzle(n('nozzle'))
    g.bed(n('bed'))
  }
  const inset = (o.steps ?? []).filter((s) => z > s.from).reduce((a, s) => a + s.inset, 0)
  const aboveInset = (o.steps ?? [])
    .filter((s) => z + n('topLayers') * n('layerHeight') > s.from)
    .reduce((a, s) => a + s.inset, 0)
  const width = base ? n('firstWidth') : n('outerWidth')
  const spacing = solidSpacing(width, h)
  const flow = (n('flow') / 100) * (base ? n('flowFirst') / 100 : 1)
  const walls = Math.max(1, n('wallCount'))
  const solid = l < n('bottomLayers') || l >= layers - n('topLayers')
  const w = o.width - 2 * inset
  const d = (o.depth ?? o.width) - 2 * inset
  // first how long it takes as the recipe has it, then how far it is slowed
  let factor = 1
  if (o.slowDown && !base) {
    const seconds = bodies.length * roughSeconds(ctx, w, d, walls, spacing, solid)
    const wanted = n('minLayerTime')
    if (seconds < wanted) factor = seconds / wanted
  }
  const speed = (key: keyof RecipeValues) =>
    base ? n('firstSpeed') : Math.max(Math.min(n('speedFloor'), n(key)), n(key) * factor)
  if (base) {
    const brim = n('brimLines')
    for (let k = n('skirtLoops') - 1; k >= 0 && !brim; k--) {
      const r = 4 + k * spacing
      const all = bodies[bodies.length - 1].cx - bodies[0].cx
      const c = { cx: (bodies[0].cx + bodies[bodies.length - 1].cx) / 2, cy: bodies[0].cy }
      g.loop(outline('box', c, all + w + 2 * r, d + 2 * r, 4), z, width, h, n('firstSpeed'), flow)
    }
    for (let k = brim - 1; k >= 0; k--)
      for (const b of bodies)
        g.loop(
          outline(o.shape, b, w + (2 * k + 1) * spacing, d + (2 * k + 1) * spacing, o.sides),
          z,
          width,
          h,
          n('firstSpeed'),
          flow,
        )
  }
  const outsideFirst = recipe.wallOrder.value === 'outside-first'
  for (const b of bodies) {
    const order = Array.from({ length: walls }, (_, k) => (outsideFirst ? k : walls - 1 - k))
    for (const k of order) {
      const inner = width / 2 + k * spacing
      const face = k === 0
      const f = flow * (face ? n('flowOuter') / 100 : n('flowInner') / 100)
      const v = speed(face ? 'outerSpeed' : 'innerSpeed')
      const end = face && !base ? { early: n('earlyStop'), wipe: n('wipe') } : { early: 0, wipe: 0 }
      const ring = (points: Point[]) =>
        g.loop(startAt(points, recipe.seamPlace.value as string, l, k, b), z, width, h, v, f, end)
      if (w - 2 * inner > width && d - 2 * inner > width)
        ring(outline(o.shape, b, w - 2 * inner, d - 2 * inner, o.sides))
      if (o.bore) ring(outline('round', b, o.bore + 2 * inner, o.bore + 2 * inner, o.sides))
    }
    const gap = width / 2 + (walls - 0.5) * spacing
    const f = { w: w - 2 * gap, d: d - 2 * gap, bore: o.bore ? o.bore + 2 * gap : 0 }
    if (solid || aboveInset > inset)
      fill(
        ctx,
        b,
        f,
        z,
        h,
        width,
        spacing,
        l % 2 === 0,
        speed(l >= layers - 1 ? 'topSpeed' : 'solidSpeed'),
        flow * (n('flowSolid') / 100),
      )
    else if (n('sparseDensity') > 0)
      fill(
        ctx,
        b,
        f,
        z,
        h,
        n('fillWidth'),
        solidSpacing(n('fillWidth'), h) / (n('sparseDensity') / 100),
        l % 2 === 0,
        speed('sparseSpeed'),
        flow * (n('flowSparse') / 100),
      )
  }
  for (const s of o.stops ?? []) if (s.layer === l + 1) g.dwell(s.seconds)
}

/** Corners of a rectangle or circle around a middle, counter-clockwise. */
export function outline(shape: 'box' | 'round', b: Body, w: number, d: number, sides = 96): Point[] {
  if (shape === 'box')
    return [
      [b.cx - w / 2, b.cy - d / 2],
      [b.cx + w / 2, b.cy - d / 2],
      [b.cx + w / 2, b.cy + d / 2],
      [b.cx - w / 2, b.cy + d / 2],
    ]
  return Array.from({ length: sides }, (_, k): Point => {
    const a = (2 * Math.PI * k) / sides
    return [b.cx + (w / 2) * Math.cos(a), b.cy + (d / 2) * Math.sin(a)]
  })
}

/** Turns a loop so that it starts where the recipe wants its seam. */
function startAt(points: Point[], place: string, l: number, k: number, b: Body): Point[] {
  let at = 0
  if (place === 'scattered') {
    // a fixed scatter, the same in every run
    const t = Math.abs(Math.sin((l + 1) * 12.9898 + k * 78.233) * 43758.5453) % 1
    if (points.length <= 8) {
      const side = Math.floor(t * points.length)
      const p = points[side]
      const q = points[(side + 1) % points.length]
      const s = (t * points.length) % 1
      const mid: Point = [p[0] + (q[0] - p[0]) * (0.1 + 0.8 * s), p[1] + (q[1] - p[1]) * (0.1 + 0.8 * s)]
      return [mid, ...points.slice(side + 1), ...points.slice(0, side + 1)]
    }
    at = Math.floor(t * points.length)
  } else if (place === 'turned-away')
    at = points.reduce((m, p, i) => (p[1] - b.cy > points[m][1] - b.cy ? i : m), 0)
  return [...points.slice(at), ...points.slice(0, at)]
}

/** Lines across the inside, alternating between the axes; around the bore. */
function fill(
  { g, o }: Context,
  b: Body,
  inside: { w: number; d: number; bore: number },
  z: number,
  h: number,
  width: number,
  spacing: number,
  across: boolean,
  speed: number,
  flow: number,
): void {
  const span = across ? inside.d : inside.w
  const count = Math.floor(span / spacing) + 1
  const from = -((count - 1) * spacing) / 2
  let forth = true
  for (let i = 0; i < count; i++) {
    const v = from + i * spacing
    const half =
      o.shape === 'round'
        ? Math.sqrt(Math.max(0, (inside.w / 2) ** 2 - v * v))
        : (across ? inside.w : inside.d) / 2
    if (half < width) continue
    const r = inside.bore / 2
    const hole = r > 0 && Math.abs(v) < r ? Math.sqrt(r * r - v * v) : 0
    const pieces: [number, number][] = hole
      ? [
          [-half, -hole],
          [hole, half],
        ]
      : [[-half, half]]
    if (!forth) pieces.reverse().forEach((p) => p.reverse())
    for (const [k, [p, q]] of pieces.entries()) {
      if (Math.abs(q - p) < width) continue
      const at = (t: number): Point => (across ? [b.cx + t, b.cy + v] : [b.cx + v, b.cy + t])
      g.reach(at(p), z, k ? 0 : spacing * 2.5, width, h, speed, flow)
      g.line(...at(q), width, h, speed, flow)
    }
    forth = !forth
  }
}

/** Seconds of a layer at the recipe's speeds, without ramps. */
function roughSeconds(
  { n, o }: Context,
  w: number,
  d: number,
  walls: number,
  spacing: number,
  solid: boolean,
): number {
  const around = o.shape === 'round' ? Math.PI * w : 2 * (w + d)
  const bore = o.bore ? Math.PI * o.bore : 0
  const area = (o.shape === 'round' ? (Math.PI / 4) * w * w : w * d) - (Math.PI / 4) * (o.bore ?? 0) ** 2
  const inside = Math.max(0, area - (around + bore) * walls * spacing)
  const share = solid ? 1 : n('sparseDensity') / 100
  return (
    (around + bore) / n('outerSpeed') +
    ((around + bore) * (walls - 1)) / n('innerSpeed') +
    (inside * share) / (spacing * n(solid ? 'solidSpeed' : 'sparseSpeed'))
  )
}

/** mm³ of a line, for sums in tests. */
export const lineVolume = (length: number, width: number, height: number) => length * beadArea(width, height)
