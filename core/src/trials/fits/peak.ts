import { chiSquarePValue, fQuantile } from '../../statistics/distributions'
import { randomStream } from '../../statistics/random'
import type { FitPoint } from './points'

/** A response with one best and two sides of their own: gentle on one, steep or a cliff on the other. */
export interface PeakFit {
  best: number
  /** 95 % interval of the best, up to one step beyond the ends. */
  low: number
  high: number
  at: (x: number) => number
  sd: number
  r2: number
  /** The best lies inside; false where the curve only rises or falls over the range. */
  inside: boolean
}

/** How a side falls away from the best: evenly, ever faster, or at once. */
type Fall = (distance: number) => number
const FALLS: readonly Fall[] = [(d) => d, (d) => d * d, () => 1]

/** Rounds of weighing odd points less, and the standard deviations beyond which a point is odd (Huber 1964). */
const ROUNDS = 3
const ODD = 1.5
/** How far grades of one thing scatter, as a desirability: 0.6 of a grade of 4. From memory. */
const RATER_SD = 0.17
/** Shares of the chance of a mistake: of the tests by order, by size and by trend. */
const BY_ORDER = 0.5
const BY_SIZE = 0.04
const BY_TREND = 0.3
/** Orders tried in the permutation test. */
const ORDERS = 199
/** The test is seeded, so that the same readings give the same answer. */
const SEED = 20261127
/** How much wider than the profile says: the sides are chosen among nine, and no shape is the true one. Found by simulation. */
const WIDER = 2
/** With very few readings left over the least noise of grades says more than their own scatter. */
const MOST_F = 6
/** Grades that lie on a curve as closely as this are a steady hand's. From memory. */
const CALM = 0.045
const CALM_F = 4
/** Part of a step that no reading can tell. Found by simulation. */
const UNSEEN = 0.2
/** Places of the best that are tried, a step. */
const PLACES = 6

interface Sides {
  left: Fall
  right: Fall
  /** Height at the best, and how far each side falls. */
  top: number
  down: number
  off: number
  rss: number
}

/** Weighted least squares of y = top − down·l − off·r with neither side rising; by normal equations. */
function solve(l: readonly number[], r: readonly number[], y: readonly number[], w: readonly number[]) {
  let [sw, sl, sr, sy, sll, srr, slr, sly, sry, syy] = [0, 0, 0, 0, 0, 0, 0, 0, 0, 0]
  for (let i = 0; i < y.length; i++) {
    const [a, b, v, k] = [l[i], r[i], y[i], w[i]]
    sw += k
    sl += k * a
    sr += k * b
    sy += k * v
    sll += k * a * a
    srr += k * b * b
    slr += k * a * b
    sly += k * a * v
    sry += k * b * v
    syy += k * v * v
  }
  const cll = sll - (sl * sl) / sw
  const crr = srr - (sr * sr) / sw
  const clr = slr - (sl * sr) / sw
  const cly = sly - (sl * sy) / sw
  const cry = sry - (sr * sy) / sw
  const cyy = Math.max(0, syy - (sy * sy) / sw)
  const tiny = 1e-12
  const det = cll * crr - clr * clr
  let down = 0
  let off = 0
  if (det > tiny * Math.max(tiny, cll * crr)) {
    down = -(cly * crr - cry * clr) / det
    off = -(cry * cll - cly * clr) / det
  }
  if (det <= tiny * Math.max(tiny, cll * crr) || down < 0 || off < 0) {
    // one side alone, whichever explains more, or none
    const one = cll > tiny ? Math.max(0, -cly / cll) : 0
    const other = crr > tiny ? Math.max(0, -cry / crr) : 0
    const gainLeft = one > 0 ? (cly * cly) / cll : 0
    const gainRight = other > 0 ? (cry * cry) / crr : 0
    down = gainLeft >= gainRight ? one : 0
    off = gainLeft >= gainRight ? 0 : other
  }
  const top = (sy + down * sl + off * sr) / sw
  const rss = Math.max(
    0,
    cyy + 2 * (down * cly + off * cry) + down * down * cll + off * off * crr + 2 * down * off * clr,
  )
  return { top, down, off, rss }
}

/** The best pair of sides for one place of the best. */
function sidesAt(
  x: readonly number[],
  y: readonly number[],
  w: readonly number[],
  m: number,
  span: number,
  falls: readonly (readonly [Fall, Fall])[],
): Sides {
  let best: Sides | null = null
  for (const [left, right] of falls) {
    const l = x.map((v) => (v < m - 1e-9 ? left((m - v) / span) : 0))
    const r = x.map((v) => (v > m + 1e-9 ? right((v - m) / span) : 0))
    const s = solve(l, r, y, w)
    if (!best || s.rss < best.rss - 1e-15) best = { left, right, ...s }
  }
  return best!
}
const ALL = FALLS.flatMap((left) => FALLS.map((right) => [left, right] as const))
const SMOOTH = ALL.filter(([left, right]) => left !== FALLS[2] && right !== FALLS[2])
/** Places from which on cliffs are looked for. */
const MANY = 8
/** For the test, a few that differ most. */
const FEW = [
  [FALLS[0], FALLS[0]],
  [FALLS[1], FALLS[1]],
  [FALLS[0], FALLS[2]],
  [FALLS[2], FALLS[0]],
] as const

const median = (v: number[]) => [...v].sort((p, q) => p - q)[Math.floor(v.length / 2)]

/** Places between two ends, evenly. */
const placesOf = (from: number, to: number, count: number) =>
  Array.from({ length: count + 1 }, (_, i) => from + ((to - from) * i) / count)

/**
 * A unimodal response whose sides fall each in its own way, fitted robustly: residuals beyond {@link ODD} standard
 * deviations count less (Huber 1964). The interval is the profile of the residual sum over the place of the best with
 * the F quantile (Draper & Smith, Applied Regression Analysis). Whether anything varies at all: {@link variesP}.
 * @param leastSd noise that readings have at least, from their resolution
 * @returns null with fewer than four different x
 */
export function peakResponse(points: readonly FitPoint[], leastSd: number): PeakFit | null {
  const xs = [...new Set(points.map((p) => p.x))].sort((p, q) => p - q)
  if (xs.length < 4) return null
  const x = points.map((p) => p.x)
  const y = points.map((p) => p.y)
  const [from, to] = [xs[0], xs[xs.length - 1]]
  const span = to - from
  const step = span / (xs.length - 1)
  const places = placesOf(from - step, to + step, PLACES * (xs.length + 1))
  let w = points.map((p) => p.weight)
  const dof = Math.max(1, points.length - 4)
  // a cliff can only be told from a slope where there are places enough
  const falls = xs.length < MANY ? SMOOTH : ALL
  let profile: Sides[] = []
  let best = 0
  let sd = leastSd
  const at = (v: number) => {
    const s = profile[best]
    const d = (v - places[best]) / span
    return s.top - (d < -1e-9 ? s.down * s.left(-d) : d > 1e-9 ? s.off * s.right(d) : 0)
  }
  for (let round = 0; round <= ROUNDS; round++) {
    profile = places.map((m) => sidesAt(x, y, w, m, span, falls))
    const least = Math.min(...profile.map((s) => s.rss))
    // places that fit alike, as on a plateau, are met in their middle
    const alike = places.map((_, i) => i).filter((i) => profile[i].rss <= least + 1e-9)
    best = alike[Math.floor(alike.length / 2)]
    sd = Math.max(leastSd, Math.sqrt(least / dof))
    if (round === ROUNDS) break
    const off = points.map((p) => Math.abs(p.y - at(p.x)))
    const scale = Math.max(leastSd, 1.4826 * median(off))
    w = points.map((p, i) => p.weight * Math.min(1, (ODD * scale) / Math.max(1e-9, off[i])))
  }
  // places of the best that the points do not speak against
  const limit =
    profile[best].rss + WIDER * sd * sd * Math.min(sd < CALM ? CALM_F : MOST_F, fQuantile(0.95, 1, dof))
  const open = places.filter((_, i) => profile[i].rss <= limit)
  const total = w.reduce((s, v) => s + v, 0)
  const mean = y.reduce((s, v, i) => s + w[i] * v, 0) / total
  const tss = y.reduce((s, v, i) => s + w[i] * (v - mean) ** 2, 0)
  const { down, off } = profile[best]
  const inside = places[best] > from + 0.25 * step && places[best] < to - 0.25 * step && down > 0 && off > 0
  // the mean place, each by how well it fits: steadier than the one that fits best by a hair
  const said = profile.map((s) => Math.exp((profile[best].rss - s.rss) / (2 * sd * sd)))
  const middle = places.reduce((sum, m, i) => sum + m * said[i], 0) / said.reduce((sum, v) => sum + v, 0)
  return {
    best: inside ? Math.min(to, Math.max(from, middle)) : places[best],
    // a best between two bands is known no better than to a part of a step
    low: open[0] - UNSEEN * step,
    high: open[open.length - 1] + UNSEEN * step,
    at,
    sd,
    r2: tss > 0 ? 1 - profile[best].rss / tss : 1,
    inside,
  }
}

/**
 * Chance that points come out in so orderly a way when nothing varies: the share of shuffled orders that a one-peaked
 * curve fits at least as well (permutation test, Fisher 1935), or how much the curve explains against the scatter of
 * grades, or how clear a plain rise or fall is; the three share the chance of a mistake between them.
 */
export function variesP(points: readonly FitPoint[]): number {
  const xs = [...new Set(points.map((p) => p.x))].sort((p, q) => p - q)
  const span = xs[xs.length - 1] - xs[0]
  const x = points.map((p) => p.x)
  const w = points.map((p) => p.weight)
  const given = points.map((p) => p.y)
  const y = [...given]
  const step = span / (xs.length - 1)
  const places = placesOf(xs[0] - step / 2, xs[xs.length - 1] + step / 2, xs.length)
  // the sides of each place do not change with the order of the readings
  const sides = places.flatMap((m) =>
    FEW.map(([left, right]) => ({
      l: x.map((v) => (v < m - 1e-9 ? left((m - v) / span) : 0)),
      r: x.map((v) => (v > m + 1e-9 ? right((v - m) / span) : 0)),
    })),
  )
  const left = (v: readonly number[]) => {
    let least = Infinity
    for (const { l, r } of sides) least = Math.min(least, solve(l, r, v, w).rss)
    return least
  }
  const own = left(y)
  const random = randomStream(SEED)
  let as = 0
  for (let k = 0; k < ORDERS; k++) {
    for (let i = y.length - 1; i > 0; i--) {
      const j = Math.floor(random() * (i + 1))
      ;[y[i], y[j]] = [y[j], y[i]]
    }
    if (left(y) <= own + 1e-12) as++
  }
  const total = w.reduce((sum, v) => sum + v, 0)
  const mean = y.reduce((sum, v, i) => sum + w[i] * v, 0) / total
  const all = y.reduce((sum, v, i) => sum + w[i] * (v - mean) ** 2, 0)
  // few places have few orders: then what the curve explains is held against how far people's grades scatter
  const explained = chiSquarePValue((all - own) / RATER_SD ** 2, 3)
  const centre = x.reduce((sum, v, i) => sum + w[i] * v, 0) / total
  const xx = x.reduce((sum, v, i) => sum + w[i] * (v - centre) ** 2, 0)
  const xy = x.reduce((sum, v, i) => sum + w[i] * (v - centre) * (given[i] - mean), 0)
  const trend = chiSquarePValue((xy * xy) / xx / RATER_SD ** 2, 1)
  return Math.min(1, (1 + as) / (1 + ORDERS) / BY_ORDER, explained / BY_SIZE, trend / BY_TREND)
}
