import { median } from '../statistics/summary'
import { figure } from '../quantity/format'
import { reasonsOf, type Reason } from '../quantity/reason'
import type { LayerTable } from './table'

/** A per-layer quantity that can be laid beside the part. */
export interface LayerQuantity {
  id: QuantityId
  label: string
  unit: string
  digits: number
  values: (number | null)[]
}
export type QuantityId =
  | 'seconds'
  | 'outerSpeed'
  | 'outerAsked'
  | 'meltPeak'
  | 'meltMean'
  | 'fan'
  | 'nozzle'
  | 'bed'
  | 'width'
  | 'height'
  | 'retractions'
  | 'openAir'
  | 'stop'
  | 'supported'
  | 'overhang'

/** What can be laid beside the part: its label, unit and digits. */
export const LAYER_QUANTITIES: Record<
  QuantityId,
  { label: string; unit: string; digits: number; scale?: number }
> = {
  outerAsked: {
    label: 'Outer wall, asked',
    unit: 'mm/s',
    digits: 0,
  },
  outerSpeed: {
    label: 'Outer wall, reached',
    unit: 'mm/s',
    digits: 0,
  },
  seconds: {
    label: 'Layer time',
    unit: 's',
    digits: 1,
  },
  meltPeak: {
    label: 'Melt rate, peak',
    unit: 'mm³/s',
    digits: 1,
  },
  meltMean: {
    label: 'Melt rate, mean',
    unit: 'mm³/s',
    digits: 1,
  },
  fan: {
    label: 'Fan',
    unit: '%',
    digits: 0,
    scale: 100,
  },
  nozzle: {
    label: 'Nozzle',
    unit: '°C',
    digits: 0,
  },
  bed: { label: 'Bed', unit: '°C', digits: 0 },
  width: {
    label: 'Line width',
    unit: 'mm',
    digits: 2,
  },
  height: { label: 'Layer height', unit: 'mm', digits: 2 },
  retractions: {
    label: 'Retractions',
    unit: '',
    digits: 0,
  },
  openAir: {
    label: 'Open-air travel',
    unit: 'mm',
    digits: 0,
  },
  stop: {
    label: 'Longest stop',
    unit: 's',
    digits: 1,
  },
  supported: {
    label: 'Rests on the layer below',
    unit: '%',
    digits: 0,
  },
  overhang: {
    label: 'Wall over nothing',
    unit: 'mm',
    digits: 0,
  },
}

/** The quantities of a table that say anything: those known on most layers. */
export function layerQuantities(layers: LayerTable): LayerQuantity[] {
  return (Object.keys(LAYER_QUANTITIES) as QuantityId[]).map((id) => {
    const q = LAYER_QUANTITIES[id]
    const raw = layers[id] as (number | null)[]
    return {
      id,
      label: q.label,
      unit: q.unit,
      digits: q.digits,
      values: q.scale ? raw.map((v) => (v === null ? null : v * q.scale!)) : raw,
    }
  })
}

/** Heights on a part, mm. */
export interface HeightRange {
  from: number
  to: number
}

export interface Correlation {
  id: QuantityId
  label: string
  unit: string
  /** Point-biserial correlation between being marked and the quantity's rank, −1 to 1. */
  r: number
  /** How much of the quantity's range changes right at the marks' edges, 0 to 1. */
  edge: number
  /** What ranks: |r| with edges counting as much again. */
  strength: number
  /** Chance that any quantity matches as well if the marks lay anywhere else on the part. */
  p: number
  /** Medians on marked and unmarked layers. */
  inside: number
  outside: number
  /** What happens at the marks. */
  reason: Reason
}

/** Layers whose middle lies in a mark. */
export function markedLayers(layers: LayerTable, marks: readonly HeightRange[]): boolean[] {
  return layers.z.map((z, l) => {
    const middle = z - layers.height[l] / 2
    return marks.some((m) => middle >= Math.min(m.from, m.to) && middle <= Math.max(m.from, m.to))
  })
}

const MOST_SHIFTS = 2000

/**
 * Ranks per-layer quantities by how well they separate the layers a person marked from the rest: point-biserial
 * correlation over mid-ranks, and the step at the marks' edges, so that a sudden change counts more than slow drift. The
 * p-value is that of a permutation test over all circular shifts of the marks along the height, which keeps their lengths and
 * the quantity's own smoothness, of all quantities together: how often the best of them matches as well (maxT; Westfall
 * & Young 1993). A plain drift over the whole height is taken out for it, since any mark near an end would match that.
 * @returns strongest first; empty when nothing or everything is marked
 */
export function correlate(layers: LayerTable, marks: readonly HeightRange[]): Correlation[] {
  const n = layers.z.length
  const marked = markedLayers(layers, marks)
  const count = marked.filter(Boolean).length
  if (n < 6 || count === 0 || count === n) return []
  const stride = Math.max(1, Math.ceil(n / MOST_SHIFTS))
  const shifts = Array.from({ length: Math.ceil(n / stride) }, (_, k) => k * stride)
  const tried = layerQuantities(layers).flatMap((q) => {
    const known = q.values.filter((v): v is number => v !== null)
    if (known.length < 0.6 * n) return []
    const fill = median(known)
    const v = q.values.map((x) => x ?? fill)
    if (Math.max(...v) - Math.min(...v) < 1e-9) return []
    const level = withoutDrift(v)
    const range = Math.max(...level) - Math.min(...level)
    // a drift and nothing else
    if (range < 1e-6 * (Math.max(...v) - Math.min(...v))) return []
    const ranks = midRanks(level)
    const strengths = shifts.map((s) => separation(level, ranks, marked, s, range).strength)
    const own = separation(v, midRanks(v), marked, 0, Math.max(...v) - Math.min(...v))
    return [{ q, v, own, strengths }]
  })
  // how well the best of all quantities matches at each shift
  const best = shifts.map((_, k) => Math.max(...tried.map((t) => t.strengths[k])))
  const out: Correlation[] = []
  for (const { q, v, own, strengths } of tried) {
    const inside = median(v.filter((_, l) => marked[l]))
    const outside = median(v.filter((_, l) => !marked[l]))
    if (figure(inside, q.digits) === figure(outside, q.digits) && own.edge < 0.3) continue
    out.push({
      id: q.id,
      label: q.label,
      unit: q.unit,
      ...own,
      p: best.filter((b) => b >= strengths[0] - 1e-12).length / best.length,
      inside,
      outside,
      reason: reasonOf(q, v, inside, outside, layers, marks),
    })
  }
  // near ties stay in the order of the list: what was asked before what followed from it
  const near = (c: Correlation) => Math.round(c.strength * 20)
  return out
    .map((c, i) => ({ c, i }))
    .sort((a, b) => near(b.c) - near(a.c) || a.i - b.i)
    .map(({ c }) => c)
    .filter((c, _, all) => {
      const twin = TWINS[c.id]
      const first = twin && all.find((o) => o.id === twin)
      return !first || c.strength > first.strength + 0.1
    })
}

/** Quantities that say the same as another one, unless they say it far more clearly. */
const TWINS: Partial<Record<QuantityId, QuantityId>> = { outerSpeed: 'outerAsked', meltMean: 'meltPeak' }

/** Share of a quantity's variance from which on a straight line over the layers is all there is: of one step it is at most 0.75. */
const A_DRIFT = 0.85

/** What is left of a quantity that is a drift when its straight line is taken out; others as they are. */
function withoutDrift(v: readonly number[]): number[] {
  const n = v.length
  const middle = (n - 1) / 2
  const mean = v.reduce((s, x) => s + x, 0) / n
  const slope =
    v.reduce((s, x, i) => s + (i - middle) * (x - mean), 0) / Math.max(1e-12, (n * (n * n - 1)) / 12)
  const left = v.map((x, i) => x - mean - slope * (i - middle))
  const squares = (list: readonly number[], about: number) => list.reduce((s, x) => s + (x - about) ** 2, 0)
  return squares(left, 0) < (1 - A_DRIFT) * squares(v, mean) ? left : [...v]
}

/** Ranks with ties shared: a few odd layers at the base or the top then weigh no more than any other. */
function midRanks(v: readonly number[]): number[] {
  const order = v.map((_, i) => i).sort((a, b) => v[a] - v[b])
  const out = new Array<number>(v.length)
  for (let i = 0; i < order.length;) {
    let j = i
    while (j < order.length && Math.abs(v[order[j]] - v[order[i]]) < 1e-9) j++
    for (let k = i; k < j; k++) out[order[k]] = (i + j - 1) / 2
    i = j
  }
  return out
}

function separation(v: number[], ranks: number[], marked: boolean[], shift: number, range: number) {
  const n = v.length
  let n1 = 0
  let s1 = 0
  let s0 = 0
  let edges = 0
  let jump = 0
  let sum = 0
  let squares = 0
  let before = marked[(n - 1 + shift) % n]
  for (let l = 0; l < n; l++) {
    const m = marked[(l + shift) % n]
    const x = ranks[l]
    sum += x
    squares += x * x
    if (m) {
      n1++
      s1 += x
    } else s0 += x
    if (l > 0 && m !== before) {
      edges++
      // the edge of a flaw is read to a layer or two
      let best = 0
      for (let k = Math.max(1, l - 1); k <= Math.min(n - 1, l + 1); k++)
        best = Math.max(best, Math.abs(v[k] - v[k - 1]))
      jump += best / range
    }
    before = m
  }
  const n0 = n - n1
  const variance = squares / n - (sum / n) ** 2
  const r =
    n1 && n0 && variance > 1e-18
      ? ((s1 / n1 - s0 / n0) / Math.sqrt(variance)) * Math.sqrt((n1 * n0) / (n * n))
      : 0
  const edge = edges ? Math.min(1, jump / edges) : 0
  return { r, edge, strength: (Math.abs(r) * (1 + edge)) / 2 }
}

/** What a quantity does at marked heights, with the values its sentence needs. */
export interface HeightReasons {
  /** Inside the longest mark against outside, in the quantity's unit; heights in mm. */
  'changes-at-heights': {
    quantity: QuantityId
    change: 'drops' | 'rises' | 'steps'
    inside: number
    outside: number
    from: number
    to: number
    /** The marked layers take nearly the same time, as they do when a limit holds them there. */
    held: boolean
  }
}
const heightReason = reasonsOf<HeightReasons>()

function reasonOf(
  q: LayerQuantity,
  values: readonly number[],
  inside: number,
  outside: number,
  layers: LayerTable,
  marks: readonly HeightRange[],
): Reason {
  const longest = marks.reduce((a, b) => (b.to - b.from > a.to - a.from ? b : a))
  const same = figure(inside, q.digits) === figure(outside, q.digits)
  const down = inside < outside
  return heightReason('changes-at-heights', {
    quantity: q.id,
    change: same ? 'steps' : down ? 'drops' : 'rises',
    inside,
    outside,
    ...changeNear(values, layers, longest),
    held:
      (q.id === 'outerAsked' || q.id === 'outerSpeed') &&
      down &&
      evenTime(layers, markedLayers(layers, marks)),
  })
}

/** A mark's edge is read to a few layers: what changes is looked for that far from it. */
const EDGE_LAYERS = 4

/** Heights between which a quantity is another one, nearest to a mark: where it jumps most beside the mark's edges. */
function changeNear(v: readonly number[], { z, height }: LayerTable, mark: HeightRange): HeightRange {
  const edge = (at: number): number => {
    let best = -1
    let most = 0
    for (let k = 1; k < v.length; k++) {
      const boundary = z[k] - height[k]
      if (Math.abs(boundary - at) > EDGE_LAYERS * Math.max(height[k], 0.05)) continue
      const jump = Math.abs(v[k] - v[k - 1])
      if (jump > most) {
        most = jump
        best = boundary
      }
    }
    return best < 0 ? at : Number(best.toFixed(2))
  }
  const [low, high] = [Math.min(mark.from, mark.to), Math.max(mark.from, mark.to)]
  const found = { from: edge(low), to: edge(high) }
  return found.from < found.to ? found : { from: low, to: high }
}

/**
 * Whether a limit of the layer time shows: the marked layers all take the same time, and no other layer is quicker,
 * since those that would be are brought to it as well.
 */
function evenTime(layers: LayerTable, marked: boolean[]): boolean {
  const t = layers.seconds.filter((_, l) => marked[l] && l > 0)
  const rest = layers.seconds.filter((_, l) => !marked[l] && l > 0)
  if (t.length < 2 || !rest.length) return false
  const m = median(t)
  const even = t.filter((s) => Math.abs(s - m) < 0.1 * m).length > 0.7 * t.length
  return even && rest.filter((s) => s < 0.9 * m).length < 0.1 * rest.length
}
