import { chiSquarePValue, fPValue, tPValue } from '../statistics/distributions'
import { linearFit, nestedPValue, type LinearFit } from '../statistics/regression'
import type { BedPoint } from './types'

/** How a bed lies, as far as its readings tell. Places are shifted to their middle and shared by half of the bed. */
export interface BedSurface {
  /** The plane through what is kept, weighed by its readings. */
  plane: LinearFit
  /** mm that one sure reading scatters, and the degrees of freedom that is known by. */
  sd: number
  dof: number
  /** Readings that stand off all others, and are left out. */
  odd: { point: BedPoint; off: number }[]
  kept: BedPoint[]
  /** Whether it leans by more than the readings scatter. */
  leans: boolean
  /** mm from hollow to hill that no plane takes away; 0 where the readings alone would do that. */
  bow: number
  /** mm from the lowest to the highest place as it lies; 0 where the readings alone would do that. */
  uneven: number
}

/** Chance of a mistake of each question that is asked of a bed. */
const BY_CHANCE = 0.05
/** A reading is left out only where it can hardly be one of the others. */
const HARDLY = 0.001
/** Share of the readings that may be left out. */
const MOST_ODD = 0.1
/** How many a curved bed and what is left over take at least. */
const ENOUGH_FOR_CURVE = 9
/** Chance from which on a curve explains nothing, so that what it leaves and what the plane leaves are the same noise. */
const NO_CURVE = 0.25
/** A curve is asked for more: whoever has none is not to be told of one. */
const A_CURVE = 0.03
/** Probes repeat to this, mm, where nothing tells it: counted as so many readings. From memory. */
const WORST_REPEAT = 0.02
const ASSUMED_READINGS = 4
/** mm that no probe scatters by: what is left beyond it is the bed's. From memory. */
const NO_PROBE = 0.03
/** Places that are the same, mm. */
const SAME_PLACE = 0.5

const range = (list: readonly number[]) => (list.length ? Math.max(...list) - Math.min(...list) : 0)

/**
 * The shape of a bed from its readings: plane and curve by weighted least squares, each believed only where it explains more
 * than the readings' own scatter (F test; Draper & Smith). How far readings scatter is told by places probed more than once,
 * else by what a curved bed leaves of nine or more; with fewer it is assumed. Single readings that stand off all others
 * (deleted residuals with Bonferroni's correction; Cook & Weisberg 1982) are left out and said.
 * @param stated what the readings scatter is known beforehand, as of gaps that are felt: it is not told by what is left
 * @returns null where the places lie in a line or are too few
 */
export function bedSurface(points: readonly BedPoint[], half: number, stated = false): BedSurface | null {
  const least = Math.min(...points.map((p) => p.u))
  const [cx, cy] = middleOf(points)
  const at = (p: BedPoint) => [(p.x - cx) / half, (p.y - cy) / half] as const
  const flat = (p: BedPoint) => [1, ...at(p)]
  const curved = (p: BedPoint) => {
    const [x, y] = at(p)
    return [1, x, y, x * x, x * y, y * y]
  }
  const fitted = (list: readonly BedPoint[], row: (p: BedPoint) => number[]) =>
    linearFit(
      list.map(row),
      list.map((p) => p.z),
      list.map((p) => (least / p.u) ** 2),
    )
  const { kept, odd } = withoutOdd(points, points.length >= ENOUGH_FOR_CURVE + 3 ? curved : flat, least)
  const plane = fitted(kept, flat)
  const level = fitted(kept, () => [1])
  if (!plane || !level) return null
  const curve = kept.length >= ENOUGH_FOR_CURVE ? fitted(kept, curved) : null
  const repeats = repeatability(kept)
  const noise = stated
    ? { sd: Math.max(least, plane.dof > 0 ? Math.sqrt(plane.rss / plane.dof) : 0), dof: Infinity }
    : noiseOf(plane, curve, repeats, least)
  // whether a curve, or anything else that is no plane, is there
  const leftByCurve = curve ?? plane
  const rough =
    leftByCurve.dof > 0 &&
    (repeats && repeats.dof >= 3
      ? fPValue(leftByCurve.rss / leftByCurve.dof / noise.sd ** 2, leftByCurve.dof, repeats.dof)
      : chiSquarePValue(leftByCurve.rss / NO_PROBE ** 2, leftByCurve.dof)) <
      BY_CHANCE / 5
  const bends = !!curve && moreThan(plane.rss - curve.rss, plane.dof - curve.dof, noise) < A_CURVE
  const leans = moreThan(level.rss - plane.rss, 2, noise) < BY_CHANCE
  const bow = rough
    ? range(kept.map((p, i) => p.z - plane.fitted[i]))
    : bends
      ? range(kept.map((_, i) => curve.fitted[i] - plane.fitted[i]))
      : 0
  const lies = rough ? kept.map((p) => p.z) : bends ? curve.fitted : leans ? plane.fitted : []
  return { plane, ...noise, odd, kept, leans, bow, uneven: range(lies) }
}

/** Chance that noise alone explains so much with so many columns more. */
function moreThan(explained: number, columns: number, { sd, dof }: { sd: number; dof: number }): number {
  const by = explained / sd ** 2
  return Number.isFinite(dof) ? fPValue(by / columns, columns, dof) : chiSquarePValue(by, columns)
}

export const middleOf = (points: readonly BedPoint[]): [x: number, y: number] => [
  points.reduce((s, p) => s + p.x, 0) / points.length,
  points.reduce((s, p) => s + p.y, 0) / points.length,
]

/** How far readings of one place lie apart, where places were probed more than once. */
function repeatability(points: readonly BedPoint[]): { variance: number; dof: number } | null {
  const places: BedPoint[][] = []
  for (const p of points) {
    const place = places.find(([q]) => Math.hypot(q.x - p.x, q.y - p.y) <= SAME_PLACE)
    if (place) place.push(p)
    else places.push([p])
  }
  let [sum, dof] = [0, 0]
  for (const place of places) {
    const mean = place.reduce((s, p) => s + p.z, 0) / place.length
    sum += place.reduce((s, p) => s + (p.z - mean) ** 2, 0)
    dof += place.length - 1
  }
  return dof ? { variance: sum / dof, dof } : null
}

/** What one sure reading scatters by. */
function noiseOf(
  plane: LinearFit,
  curve: LinearFit | null,
  repeats: { variance: number; dof: number } | null,
  least: number,
): { sd: number; dof: number } {
  const told =
    repeats && repeats.dof >= 3
      ? repeats
      : curve && curve.dof >= 3
        ? nestedPValue(curve, plane) > NO_CURVE
          ? { variance: plane.rss / plane.dof, dof: plane.dof }
          : { variance: curve.rss / curve.dof, dof: curve.dof }
        : {
            variance: (plane.rss + ASSUMED_READINGS * WORST_REPEAT ** 2) / (plane.dof + ASSUMED_READINGS),
            dof: plane.dof + ASSUMED_READINGS,
          }
  return { sd: Math.max(least, Math.sqrt(told.variance)), dof: told.dof }
}

/** Leaves out, one after another, what stands off all others: by externally studentised residuals. */
function withoutOdd(
  points: readonly BedPoint[],
  row: (p: BedPoint) => number[],
  least: number,
): Pick<BedSurface, 'kept' | 'odd'> {
  let kept = [...points]
  const odd: BedSurface['odd'] = []
  while (kept.length >= ENOUGH_FOR_CURVE && odd.length < Math.max(1, Math.floor(MOST_ODD * points.length))) {
    const rows = kept.map(row)
    const weights = kept.map((p) => (least / p.u) ** 2)
    const fit = linearFit(
      rows,
      kept.map((p) => p.z),
      weights,
    )
    if (!fit || fit.dof < 4) break
    const off = kept.map((p, i) => {
      const leverage =
        weights[i] *
        rows[i].reduce((s, a, j) => s + a * rows[i].reduce((q, b, k) => q + b * fit.inverse[j][k], 0), 0)
      const residual = p.z - fit.fitted[i]
      const free = Math.max(1e-9, 1 - leverage)
      const others = Math.sqrt(Math.max(0, fit.rss - (weights[i] * residual ** 2) / free) / (fit.dof - 1))
      return {
        by: residual / free,
        t: (Math.sqrt(weights[i]) * residual) / (Math.max(least, others) * Math.sqrt(free)),
      }
    })
    const at = off.reduce((most, o, i) => (Math.abs(o.t) > Math.abs(off[most].t) ? i : most), 0)
    const p = tPValue(off[at].t, fit.dof - 1) * kept.length
    if (p > HARDLY || Math.abs(off[at].by) < 2 * WORST_REPEAT) break
    odd.push({ point: kept[at], off: off[at].by })
    kept = kept.filter((_, k) => k !== at)
  }
  return { kept, odd }
}
