import { beadWidth } from '../extrusion/bead'
import { MoveKind } from '../gcode/program'
import { weightedQuantile } from '../statistics/summary'
import type { Analysis } from './analysis'
import { Feature, FEATURE_COUNT } from './features'

/** Per-layer quantities; every array has one entry a layer, lowest first. Plain arrays so that it is JSON. */
export interface LayerTable {
  z: number[]
  height: number[]
  seconds: number[]
  /** Share of full duty, 0 to 1. */
  fan: number[]
  nozzle: (number | null)[]
  bed: (number | null)[]
  /** mm/s really reached on outer walls, and what the file asks there; null where a layer has none. */
  outerSpeed: (number | null)[]
  outerAsked: (number | null)[]
  /** mm³/s, the fastest stretch of at least 1 mm, short chords together, and the mean while feeding. */
  meltPeak: number[]
  meltMean: number[]
  /** mm; width of the outer wall's bead, or of all lines where there is none. */
  width: (number | null)[]
  /** mm of filament */
  fed: number[]
  retractions: number[]
  /** mm of travel in the open without a pull-back. */
  openAir: number[]
  /** s; longest stand of the head. */
  stop: number[]
  /** % of what is laid that rests on something right below. */
  supported: number[]
  /** mm of outer wall over nothing. */
  overhang: number[]
  /** Silhouette from the front: merged spans in X. */
  spans: [number, number][][]
}

/** Sums and means of one feature over the print. */
export interface FeatureTotals {
  /** mm */
  length: number
  seconds: number
  /** mm of filament */
  fed: number
  /** mm/s by length, above the base; 0 where it is only laid there */
  asked: number
  reached: number
  /** mm/s; what the file asks for half of its length or more, above the base; null where it is only laid there. */
  usual: number | null
  /** Fan duty over it above the base, 0 to 1; null where it is only laid there. */
  fan: number | null
  /** mm/s², what the file sets over most of it above the base; null where it sets none. */
  acceleration: number | null
  /** mm, mean by length */
  width: number
  meltPeak: number
}

/** Quantities of each layer and totals of each feature. Linear in the moves. */
export function tabulate(a: Analysis, area: number) {
  const { program, timeline, index, featureOf } = a
  const { count, x, y, z, e, kind, state, states, speed } = program
  const n = index.z.length
  const zeros = () => new Float64Array(n)
  const seconds = zeros()
  const fed = zeros()
  const pulls = zeros()
  const meltPeak = zeros()
  const meltTime = zeros()
  const volume = zeros()
  const fanTime = zeros()
  const laidTime = zeros()
  const laidLength = zeros()
  const outerLength = zeros()
  const outerTime = zeros()
  const outerAskedTime = zeros()
  const outerVolume = zeros()
  const stop = zeros()
  const nozzle = new Array<number | null>(n).fill(null)
  const bed = new Array<number | null>(n).fill(null)
  const totals: FeatureTotals[] = Array.from({ length: FEATURE_COUNT }, () => ({
    length: 0,
    seconds: 0,
    fed: 0,
    asked: 0,
    reached: 0,
    usual: null,
    fan: null,
    acceleration: null,
    width: 0,
    meltPeak: 0,
  }))
  const bodyLength = new Float64Array(FEATURE_COUNT)
  const bodyAsked = new Float64Array(FEATURE_COUNT)
  const bodySeconds = new Float64Array(FEATURE_COUNT)
  const bodyFan = new Float64Array(FEATURE_COUNT)
  const askedOf = totals.map(() => new Map<number, number>())
  const accelerationOf = totals.map(() => new Map<number, number>())
  let firstAcceleration: number | null = null
  const travelAccelerations = new Map<number, number>()
  const speeds = new Map<number, number>()
  const travelSpeeds = new Map<number, number>()
  const add = (m: Map<number, number>, key: number, w: number) => m.set(key, (m.get(key) ?? 0) + w)
  const lastLaid = kind.lastIndexOf(MoveKind.Extrude)
  let retracted = false
  let worst = { rate: 0, layer: 0, feature: 0 as Feature }
  let px = 0
  let py = 0
  let pz = 0
  let runLaid = 0
  let runTime = 0
  let runLength = 0
  for (let i = 0; i < count; i++) {
    const l = index.layerOf[i]
    const k = kind[i]
    const dx = x[i] - px
    const dy = y[i] - py
    const dz = z[i] - pz
    px = x[i]
    py = y[i]
    pz = z[i]
    if (k === MoveKind.Retract || k === MoveKind.RetractMoving) {
      if (!retracted && l >= 0) pulls[l]++
      retracted = true
    } else if (k === MoveKind.Feed || k === MoveKind.Extrude) retracted = false
    if (l < 0) continue
    const t = timeline.seconds[i]
    seconds[l] += t
    fed[l] += e[i]
    if (k === MoveKind.Extrude) {
      const length = Math.sqrt(dx * dx + dy * dy + dz * dz)
      const s = states[state[i]]
      const v = timeline.reached[i]
      fanTime[l] += s.fan * t
      laidTime[l] += t
      laidLength[l] += length
      if (nozzle[l] === null) nozzle[l] = s.nozzle
      if (bed[l] === null) bed[l] = s.bed
      const laid = e[i] * area
      volume[l] += laid
      meltTime[l] += t
      const f = featureOf[i]
      const total = totals[f]
      total.length += length
      total.seconds += t
      total.fed += e[i]
      // the base is laid at its own speed: it says nothing of the rest
      if (l > a.raftLayers || n <= a.raftLayers + 2) {
        bodyLength[f] += length
        bodyAsked[f] += length / (speed[i] || 1)
        bodySeconds[f] += t
        bodyFan[f] += s.fan * t
        add(askedOf[f], Math.round(speed[i] * 10), length)
        if (s.printAcceleration !== null) add(accelerationOf[f], s.printAcceleration, length)
      } else firstAcceleration ??= s.printAcceleration
      // short chords, as arcs and curves are made of, count together from 1 mm on
      runLaid += laid
      runTime += length / (v || 1)
      runLength += length
      if (runLength >= 1) {
        const rate = runLaid / runTime
        if (rate > meltPeak[l]) meltPeak[l] = rate
        if (rate > total.meltPeak) total.meltPeak = rate
        if (rate > worst.rate) worst = { rate, layer: l, feature: f as Feature }
        runLaid = runTime = runLength = 0
      }
      if (f === Feature.Outer) {
        outerLength[l] += length
        outerTime[l] += length / (v || 1)
        outerAskedTime[l] += length / (speed[i] || 1)
        outerVolume[l] += laid
      }
      if (l > 0 && speed[i] > 0) add(speeds, Math.round(speed[i] * 10), length)
    } else runLaid = runTime = runLength = 0
    if (k === MoveKind.Travel) {
      if (i < lastLaid) {
        const d = Math.sqrt(dx * dx + dy * dy)
        if (d > 0.5) add(travelSpeeds, Math.round(speed[i] * 10), d)
        const set = states[state[i]].travelAcceleration
        if (set !== null && l > a.raftLayers) add(travelAccelerations, set, d)
      }
    } else if (k === MoveKind.Dwell && speed[i] > stop[l]) stop[l] = speed[i]
  }
  const openAir = zeros()
  for (const t of a.travels) if (!t.retracted) openAir[t.layer] += t.length
  const list = (v: Float64Array, digits: number) => Array.from(v, (q) => Number(q.toFixed(digits)))
  const each = (make: (l: number) => number | null, digits: number) =>
    Array.from({ length: n }, (_, l) => {
      const v = make(l)
      return v === null ? null : Number(v.toFixed(digits))
    })
  const table: LayerTable = {
    z: index.z.map((v) => Number(v.toFixed(3))),
    height: index.height.map((v) => Number(v.toFixed(3))),
    seconds: list(seconds, 2),
    fan: each((l) => (laidTime[l] ? fanTime[l] / laidTime[l] : 0), 3) as number[],
    nozzle,
    bed,
    outerSpeed: each((l) => (outerTime[l] ? outerLength[l] / outerTime[l] : null), 1),
    outerAsked: each((l) => (outerAskedTime[l] ? outerLength[l] / outerAskedTime[l] : null), 1),
    meltPeak: list(meltPeak, 2),
    meltMean: each((l) => (meltTime[l] ? volume[l] / meltTime[l] : 0), 2) as number[],
    width: each((l) => {
      const length = outerLength[l] || laidLength[l]
      const laid = outerLength[l] ? outerVolume[l] : volume[l]
      return length ? beadWidth(laid / length, Math.max(0.02, index.height[l])) : null
    }, 3),
    fed: list(fed, 2),
    retractions: list(pulls, 0),
    openAir: list(openAir, 1),
    stop: list(stop, 2),
    supported: Array.from(a.supported, (v) => Number((v * 100).toFixed(1))),
    overhang: Array.from(a.overhang, (v) => Number(v.toFixed(1))),
    spans: a.spans.map((s) =>
      s.map(([p, q]): [number, number] => [Number(p.toFixed(1)), Number(q.toFixed(1))]),
    ),
  }
  const middle = (m: Map<number, number>) => {
    if (!m.size) return null
    const v = weightedQuantile([...m.keys()], [...m.values()], 0.5)
    return Number.isFinite(v) ? v / 10 : null
  }
  const meanHeight = new Float64Array(FEATURE_COUNT)
  for (const s of a.stretches) meanHeight[s.feature] += s.length * Math.max(0.02, index.height[s.layer])
  totals.forEach((t, f) => {
    if (!t.length) return
    t.asked = bodyAsked[f] ? bodyLength[f] / bodyAsked[f] : 0
    t.reached = bodySeconds[f] ? bodyLength[f] / bodySeconds[f] : 0
    t.usual = middle(askedOf[f])
    t.fan = bodySeconds[f] ? Number((bodyFan[f] / bodySeconds[f]).toFixed(3)) : null
    t.acceleration = most(accelerationOf[f])
    t.width = beadWidth((t.fed * area) / t.length, meanHeight[f] / t.length || 0.2)
  })
  return {
    table,
    totals,
    meltPlace: worst.rate > 0 ? { ...worst, rate: Number(worst.rate.toFixed(2)) } : null,
    restSpeed: middle(speeds),
    travelSpeed: middle(travelSpeeds),
    firstAcceleration,
    travelAcceleration: most(travelAccelerations),
  }
}

/** The key with the greatest weight; null where there is none. */
function most(weights: ReadonlyMap<number, number>): number | null {
  let best: number | null = null
  let weight = 0
  for (const [key, w] of weights)
    if (w > weight) {
      best = key
      weight = w
    }
  return best
}
