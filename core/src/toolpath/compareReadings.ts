import { Feature } from './features'
import type { PathReading } from './reading'

/** What is held against each other; those of one feature carry its number. */
export const COMPARED = [
  'layers',
  'height',
  'layer-height',
  'first-height',
  'first-speed',
  'first-width',
  'first-flow',
  'contact',
  'first-nozzle',
  'nozzle',
  'first-bed',
  'bed',
  'fan',
  'fan-from-layer',
  'feature-speed',
  'feature-width',
  'travel-speed',
  'retraction',
  'retraction-length',
  'retraction-speed',
  'retractions',
  'z-lift',
  'open-air',
  'most-passes',
  'early-stop',
  'wipe',
  'stacked',
  'melt-peak',
  'skirt',
  'brim',
  'draught-wall',
  'raft-layers',
  'support',
  'pressure',
] as const
export type ComparedId = (typeof COMPARED)[number]

/** One thing that two prints do differently, as printed. */
export interface ReadingDifference {
  id: ComparedId
  feature?: Feature
  unit: string
  digits: number
  a: number | string | boolean | null
  b: number | string | boolean | null
}

export interface ReadingComparison {
  differences: ReadingDifference[]
  /** By feature: seconds and mm of filament in each. */
  features: {
    feature: Feature
    secondsA: number
    secondsB: number
    fedA: number
    fedB: number
  }[]
  /** Seconds and mm of filament by height, both laid on slices of the same thickness. */
  heights: { z: number[]; secondsA: number[]; secondsB: number[]; fedA: number[]; fedB: number[] }
  secondsA: number
  secondsB: number
  massA: number
  massB: number
}

/** What differs between two readings: settings as they come out, time and filament by feature and by height. */
export function compareReadings(a: PathReading, b: PathReading): ReadingComparison {
  const out: ReadingDifference[] = []
  const put = (
    id: ComparedId,
    unit: string,
    digits: number,
    x: number | string | boolean | null | undefined,
    y: number | string | boolean | null | undefined,
    slack = 0.5 * 10 ** -digits,
    feature?: Feature,
  ) => {
    const p = x ?? null
    const q = y ?? null
    if (p === q) return
    if (typeof p === 'number' && typeof q === 'number' && Math.abs(p - q) <= slack) return
    out.push({ id, unit, digits, a: p, b: q, ...(feature !== undefined && { feature }) })
  }
  put('layers', '', 0, a.layerCount, b.layerCount)
  put('height', 'mm', 2, a.height, b.height)
  put('layer-height', 'mm', 3, a.layerHeight, b.layerHeight)
  put('first-height', 'mm', 3, a.firstLayer?.height, b.firstLayer?.height)
  put('first-speed', 'mm/s', 0, a.firstLayer?.speed, b.firstLayer?.speed)
  put('first-width', 'mm', 2, a.firstLayer?.width, b.firstLayer?.width, 0.011)
  put('first-flow', '%', 0, a.firstLayer?.flow, b.firstLayer?.flow, 1.5)
  put('contact', 'mm²', 0, a.firstLayer?.contact, b.firstLayer?.contact, 5)
  put('first-nozzle', '°C', 0, a.firstLayer?.nozzle, b.firstLayer?.nozzle)
  put('nozzle', '°C', 0, a.rest.nozzle, b.rest.nozzle)
  put('first-bed', '°C', 0, a.firstLayer?.bed, b.firstLayer?.bed)
  put('bed', '°C', 0, a.rest.bed, b.rest.bed)
  put('fan', '%', 0, a.rest.fan * 100, b.rest.fan * 100, 1.5)
  put('fan-from-layer', '', 0, a.fanFromLayer, b.fanFromLayer)
  for (const f of [Feature.Outer, Feature.Inner, Feature.Solid, Feature.Infill, Feature.Bridge]) {
    const x = a.features[f]
    const y = b.features[f]
    put('feature-speed', 'mm/s', 0, x.length ? x.asked : null, y.length ? y.asked : null, 1, f)
    if (f === Feature.Outer || f === Feature.Inner)
      put('feature-width', 'mm', 2, x.length ? x.width : null, y.length ? y.width : null, 0.011, f)
  }
  put('travel-speed', 'mm/s', 0, a.travel.speed, b.travel.speed, 2)
  put('retraction', '', 0, a.retraction.kind, b.retraction.kind)
  put('retraction-length', 'mm', 2, a.retraction.length, b.retraction.length, 0.03)
  put('retraction-speed', 'mm/s', 0, a.retraction.speed, b.retraction.speed, 1)
  put('retractions', '', 0, a.retraction.count, b.retraction.count)
  put('z-lift', 'mm', 2, a.retraction.zLift, b.retraction.zLift, 0.02)
  put('open-air', '', 0, a.travel.openUnretracted, b.travel.openUnretracted)
  put('most-passes', '', 0, a.ledger.worst?.passes ?? 0, b.ledger.worst?.passes ?? 0)
  put('early-stop', 'mm', 2, a.seam.early, b.seam.early, 0.03)
  put('wipe', 'mm', 2, a.seam.wipe, b.seam.wipe, 0.03)
  put('stacked', '%', 0, share(a.seam.stacked), share(b.seam.stacked), 5)
  put('melt-peak', 'mm³/s', 1, a.meltPeak, b.meltPeak, 0.15)
  // how many where they can be counted
  put('skirt', 'loops', 0, a.build.skirtLoops || a.base.skirt, b.build.skirtLoops || b.base.skirt)
  put('brim', 'lines', 0, a.build.brimLines || a.base.brim, b.build.brimLines || b.base.brim)
  put('draught-wall', 'lines', 0, a.build.draughtWall ?? 0, b.build.draughtWall ?? 0)
  put('raft-layers', '', 0, a.base.raftLayers, b.base.raftLayers)
  put('support', '', 0, a.base.support, b.base.support)
  put('pressure', 's', 3, a.pressure, b.pressure)
  return {
    differences: out,
    features: a.features
      .map((_, f) => ({
        feature: f as Feature,
        secondsA: a.features[f].seconds,
        secondsB: b.features[f].seconds,
        fedA: a.features[f].fed,
        fedB: b.features[f].fed,
      }))
      .filter((f) => f.feature !== Feature.None && (f.fedA > 0 || f.fedB > 0)),
    heights: byHeight(a, b),
    secondsA: a.seconds,
    secondsB: b.seconds,
    massA: a.filament.mass,
    massB: b.filament.mass,
  }
}

const share = (v: number | null) => (v === null ? null : v * 100)
const SLICES = 60

/** Layers of any thickness shared out to slices of equal thickness. */
function byHeight(a: PathReading, b: PathReading): ReadingComparison['heights'] {
  const top = Math.max(a.height, b.height, 0.1)
  const thick = top / SLICES
  const spread = (r: PathReading, values: number[]) => {
    const out = new Array<number>(SLICES).fill(0)
    for (let l = 0; l < r.layerCount; l++) {
      const to = r.layers.z[l]
      const from = Math.max(0, to - r.layers.height[l])
      const first = Math.min(SLICES - 1, Math.floor(from / thick + 1e-9))
      const last = Math.min(SLICES - 1, Math.max(first, Math.ceil(to / thick - 1e-9) - 1))
      for (let s = first; s <= last; s++) {
        const part = Math.min(to, (s + 1) * thick) - Math.max(from, s * thick)
        out[s] += values[l] * Math.min(1, Math.max(0, part / Math.max(1e-9, to - from)))
      }
    }
    return out
  }
  return {
    z: Array.from({ length: SLICES }, (_, s) => (s + 1) * thick),
    secondsA: spread(a, a.layers.seconds),
    secondsB: spread(b, b.layers.seconds),
    fedA: spread(a, a.layers.fed),
    fedB: spread(b, b.layers.fed),
  }
}
