import type { NumericPrintSetting } from '../gcode/printSettings'
import { GcodeWriter } from '../gcode/writer'
import { cornerSpeed, type CornerRule } from '../machine/cornerRule'
import type { Machine } from '../machine/machine'
import { moveTime } from '../motion/trapezoid'
import { LINE_FLOW, LINE_SPEED } from './lineKinds'
import type { Place } from '../geometry/hull'
import { perimeterOf, type Point } from '../geometry/shapes'
import type { PartPlan } from './plan'
import type { PartSettings } from './settings'
import type { Stroke, StrokeKind, StrokeLayer } from './strokes'

/** Names of the settings that are numbers. */
type NumericPartSetting = {
  [K in keyof PartSettings]: PartSettings[K] extends number ? K : never
}[keyof PartSettings]

const FLOW: Partial<Record<StrokeKind, NumericPrintSetting>> = LINE_FLOW
const SPEED: Record<StrokeKind, NumericPartSetting> = {
  'raft-bottom': 'raftBottomSpeed',
  'raft-top': 'raftTopSpeed',
  support: 'sparseSpeed',
  skirt: 'outerSpeed',
  brim: 'outerSpeed',
  'draught-wall': 'outerSpeed',
  ...LINE_SPEED,
}

/** Share of the overall flow that a line of a kind is fed. */
function flowOf(kind: StrokeKind, { index, overRaft }: StrokeLayer, s: PartSettings): number {
  const own = overRaft ? s.flowOverRaft : index === 0 ? s.flowFirst : FLOW[kind] ? s[FLOW[kind]] : 100
  return (s.flow / 100) * (own / 100)
}

/** What a line is laid at, mm/s, before the layer is slowed. */
export function speedOf(stroke: Stroke, { index, z, overRaft }: StrokeLayer, s: PartSettings): number {
  let v = s[SPEED[stroke.kind]]
  if (stroke.kind === 'raft-bottom' || stroke.kind === 'raft-top') return v
  if (index === 0 || overRaft) return s.firstSpeed
  if (stroke.hangs) v = Math.min(v, stroke.hangs === 60 ? s.steepSpeed : s.overhangSpeed)
  if (stroke.small && (stroke.kind === 'outer' || stroke.kind === 'inner')) v = Math.min(v, s.smallLoopSpeed)
  if (z <= s.slowZoneHeight + 1e-6) v = Math.min(v, s.slowZoneSpeed)
  return v
}

const accelerationOf = (kind: StrokeKind, first: boolean, s: PartSettings): number =>
  first ? s.firstAcceleration : kind === 'outer' ? s.outerAcceleration : s.innerAcceleration

/** Turns gentler than this are taken as straight when a layer's time is reckoned, degrees. */
const STRAIGHT = 25

/** A line's stretches from sharp turn to sharp turn: lengths, mm, and the unit ways before and behind each turn. */
interface Stretches {
  lengths: number[]
  turns: [ax: number, ay: number, bx: number, by: number][]
}
/** Stretches of lines that were looked at already: they stay while only speeds change. */
const stretches = new WeakMap<Stroke, Stretches>()

function stretchesOf(stroke: Stroke): Stretches {
  const known = stretches.get(stroke)
  if (known) return known
  const { points, closed } = stroke
  const n = points.length
  const count = closed ? n : n - 1
  const out: Stretches = { lengths: [], turns: [] }
  const straight = Math.cos((STRAIGHT * Math.PI) / 180)
  let run = 0
  let [px, py, before] = [0, 0, 0]
  for (let i = 0; i < count; i++) {
    const [ax, ay] = points[i]
    const [bx, by] = points[i + 1 === n ? 0 : i + 1]
    const [dx, dy] = [bx - ax, by - ay]
    const way = Math.sqrt(dx * dx + dy * dy)
    if (!way) continue
    if (before && px * dx + py * dy < straight * before * way) {
      out.lengths.push(run)
      out.turns.push([px / before, py / before, dx / way, dy / way])
      run = 0
    }
    run += way
    ;[px, py, before] = [dx, dy, way]
  }
  out.lengths.push(run)
  stretches.set(stroke, out)
  return out
}

/** Rough time of a line at a speed, s: straight moves with their ramps, each sharp turn at the machine's corner speed. */
function timeOf(stroke: Stroke, v: number, a: number, rule: CornerRule): number {
  const { lengths, turns } = stretchesOf(stroke)
  // from the end back: no faster than what can be braked for what follows
  const caps = new Float64Array(turns.length)
  for (let i = turns.length - 1, next = 0; i >= 0; i--) {
    const [ax, ay, bx, by] = turns[i]
    next = Math.min(
      v,
      cornerSpeed(rule, a, ax, ay, 0, bx, by, 0),
      Math.sqrt(next * next + 2 * a * lengths[i + 1]),
    )
    caps[i] = next
  }
  let time = 0
  let entry = 0
  lengths.forEach((run, i) => {
    const exit = i < caps.length ? Math.min(caps[i], Math.sqrt(entry * entry + 2 * a * run)) : 0
    time += moveTime(run, v, a, entry, exit)
    entry = exit
  })
  return time
}

/** How much a layer is slowed: a factor on speeds, none of them under the floor. */
function slowing(layer: StrokeLayer, s: PartSettings, machine: Machine): number {
  // what holds the bed or a raft has its own slow speed
  const low = layer.index === 0 || layer.overRaft || layer.strokes.some((t) => t.kind.startsWith('raft'))
  if (low || !(s.minLayerTime > 0)) return 1
  const { limits } = machine
  let travels = 0
  let at: readonly [number, number] | null = null
  for (const { points, closed } of layer.strokes) {
    if (at) {
      const way = Math.hypot(points[0][0] - at[0], points[0][1] - at[1])
      travels += moveTime(
        way,
        Math.min(s.travelSpeed, limits.speed),
        Math.min(s.travelAcceleration, limits.travelAcceleration),
      )
      if (s.retract && way > s.minTravel) travels += (2 * s.retractLength) / s.retractSpeed
    }
    at = closed ? points[0] : points[points.length - 1]
  }
  const total = (factor: number) =>
    layer.strokes.reduce((sum, stroke) => {
      const a = Math.min(accelerationOf(stroke.kind, false, s), limits.acceleration)
      return sum + timeOf(stroke, slowed(speedOf(stroke, layer, s), factor, s), a, limits.corner)
    }, travels)
  let factor = 1
  for (let k = 0; k < 6; k++) {
    const time = total(factor)
    if (time >= s.minLayerTime * 0.995) break
    factor *= Math.max(0.05, time / s.minLayerTime)
  }
  return factor
}

const slowed = (v: number, factor: number, s: PartSettings) => Math.max(Math.min(s.speedFloor, v), v * factor)

/** The head goes from copy to copy so high over them, mm. */
const OVER = 3
/** Whole copies one after another, and what is otherwise at some heights. */
export interface WriteOptions {
  /** mm from where the plan has it. */
  places?: readonly Place[]
  /** What is written otherwise in the layer whose top is at a height: heats, fans, speeds. */
  at?: (z: number) => Partial<PartSettings>
}

/** A rising wall begins this high over what is below, mm. */
const LEAST_BEAD = 0.05

/** Head of a file: what it was made from. */
export interface ProgramNotes {
  title: string
  notes?: readonly string[]
}

/**
 * Writes a plan as G-code in the machine's commands, within its limits: heats, fan by layer and for bridges, speeds with the
 * slow-down for the minimum layer time, seams with early stop and wipe. Other speeds, heats, fans or pull-backs need no
 * new plan.
 */
export function writePlan(
  plan: PartPlan,
  machine: Machine,
  s: PartSettings,
  { title, notes = [] }: ProgramNotes,
  { places = [{ x: 0, y: 0 }], at }: WriteOptions = {},
): string {
  const g = new GcodeWriter(machine, s)
  g.begin(title)
  for (const n of notes) g.note(n)
  places.forEach(({ x, y }, copy) => {
    if (copy) {
      // over what stands there already, and as for a first layer
      g.lift((plan.layers.at(-1)?.z ?? 0) + OVER)
      g.nozzle(s.nozzleFirst)
    }
    writeLayers(g, x || y ? plan.layers.map((l) => shifted(l, x, y)) : plan.layers, machine, s, at)
  })
  g.end()
  return g.text()
}

function writeLayers(
  g: GcodeWriter,
  layers: readonly StrokeLayer[],
  machine: Machine,
  usual: PartSettings,
  at?: WriteOptions['at'],
): void {
  let s = usual
  const fanOn = (percent: number, index: number) => {
    const on = index - s.fanOffLayers + 1
    g.setFan(on < 1 ? 0 : percent * Math.min(1, on / Math.max(1, s.fanRampLayers)))
  }
  let rise: Rise | null = null
  for (const layer of layers) {
    const { index, z, h, strokes } = layer
    const first = index === 0
    if (!strokes.length) continue
    const own = at?.(z)
    if (own) {
      s = { ...usual, ...own }
      if (!first) g.use(own)
    }
    fanOn(s.fan, index)
    if (index === 1) {
      g.nozzle(s.nozzle)
      g.bed(s.bed)
    }
    const factor = slowing(layer, s, machine)
    for (const stroke of strokes) {
      const { kind, points, closed, width, share } = stroke
      const v = speedOf(stroke, layer, s)
      const speed = first ? v : slowed(v, factor, s)
      const flow = flowOf(kind, layer, s) * share
      g.acceleration(accelerationOf(kind, first, s))
      const air = kind === 'bridge' ? s.fanBridge : stroke.hangs ? Math.max(s.fan, s.fanOverhang) : null
      if (air !== null) fanOn(air, index)
      if (stroke.rises) rise = laidRising(g, stroke, layer, speed, flow, rise === null)
      else if (closed) {
        const stop = kind === 'outer' && !first ? { early: s.earlyStop, wipe: s.wipe } : { early: 0, wipe: 0 }
        g.loop(points, z, width, h, speed, flow, stop)
      } else {
        g.travel(points[0][0], points[0][1], z)
        for (const [x, y] of points.slice(1)) g.line(x, y, width, h, speed, flow)
      }
      if (air !== null) fanOn(s.fan, index)
    }
  }
  // the last round levels the rim
  if (rise) levelled(g, rise)
}

/** A layer's lines elsewhere on the bed. */
const shifted = (layer: StrokeLayer, x: number, y: number): StrokeLayer => ({
  ...layer,
  strokes: layer.strokes.map((t) => ({ ...t, points: t.points.map(([px, py]): Point => [px + x, py + y]) })),
})

/** Where a rising wall has come to. */
interface Rise {
  stroke: Stroke
  z: number
  h: number
  speed: number
  flow: number
}

/** Lays a loop that rises by its layer's height on its way; the first one grows from nothing. */
function laidRising(
  g: GcodeWriter,
  stroke: Stroke,
  { z, h }: StrokeLayer,
  speed: number,
  flow: number,
  first: boolean,
): Rise {
  const { points, width } = stroke
  const below = z - h
  if (first) g.travel(points[0][0], points[0][1], below + Math.min(h, LEAST_BEAD))
  else g.line(points[0][0], points[0][1], width, h, speed, flow, below)
  const all = perimeterOf(points)
  let way = 0
  for (let k = 1; k <= points.length; k++) {
    const [ax, ay] = points[k - 1]
    const [bx, by] = points[k % points.length]
    const d = Math.hypot(bx - ax, by - ay)
    const share = (way + d / 2) / all
    way += d
    g.line(bx, by, width, h, speed, first ? flow * share : flow, below + (h * way) / all)
  }
  return { stroke, z, h, speed, flow }
}

/** A level round over the last rising one, fed less and less. */
function levelled(g: GcodeWriter, { stroke: { points, width }, z, h, speed, flow }: Rise): void {
  const all = perimeterOf(points)
  let way = 0
  for (let k = 1; k <= points.length; k++) {
    const [ax, ay] = points[k - 1]
    const [bx, by] = points[k % points.length]
    const d = Math.hypot(bx - ax, by - ay)
    g.line(bx, by, width, h, speed, flow * (1 - (way + d / 2) / all), z)
    way += d
  }
}
