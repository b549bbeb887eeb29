import {
  fPValue,
  nestedPValue,
  leastAt,
  linearFit,
  normalStream,
  randomStream,
  separableFit,
} from '../statistics'

/** One graded or measured place: where it was, and how good it was. */
export interface FitPoint {
  x: number
  y: number
  /** 1 for a sure reading; less for an unsure or an old one. */
  weight: number
  /** The trial it comes from, to see drift. */
  trial: number
}

export interface ResponseFit {
  /** Where the best is, unclipped. */
  best: number
  /** 95 % interval of the best. */
  low: number
  high: number
  /** The fitted curve. */
  at: (x: number) => number
  /** Residual standard deviation. */
  sd: number
  r2: number
  /** Chance that a response this strong comes from noise alone. */
  p: number
  /** An optimum lies at `best`; false when the curve only falls or rises. */
  bends: boolean
}

/** Samples for an interval; seeded, so that the same readings give the same answer. */
const DRAWS = 400
const quantileOf = (sorted: number[], q: number) =>
  sorted[Math.min(sorted.length - 1, Math.max(0, Math.round(q * (sorted.length - 1))))]

/** A χ² number as a sum of squares; for few degrees of freedom only. */
function chiSquare(dof: number, normal: () => number): number {
  let s = 0
  for (let i = 0; i < Math.min(dof, 60); i++) s += normal() ** 2
  return dof > 60 ? (s * dof) / 60 : s
}

/**
 * A quadratic response with its vertex. The interval is a parametric bootstrap (Efron & Tibshirani 1993): the noise is
 * pooled over all places and its own uncertainty is drawn with it, so that few readings give wide intervals.
 * @param leastSd noise that readings have at least, from their resolution
 * @returns null with fewer than three different x
 */
export function quadraticResponse(points: readonly FitPoint[], leastSd: number): ResponseFit | null {
  if (new Set(points.map((p) => p.x)).size < 3) return null
  const xs = points.map((p) => p.x)
  const mid = (Math.min(...xs) + Math.max(...xs)) / 2
  const half = (Math.max(...xs) - Math.min(...xs)) / 2
  const u = (x: number) => (x - mid) / half
  const y = points.map((p) => p.y)
  const w = points.map((p) => p.weight)
  const fit = linearFit(
    points.map((p) => [1, u(p.x), u(p.x) ** 2]),
    y,
    w,
  )
  const flat = linearFit(
    points.map(() => [1]),
    y,
    w,
  )
  if (!fit || !flat) return null
  const [a, b, c] = fit.coefficients
  const dof = Math.max(1, fit.dof)
  const sd = Math.max(leastSd, fit.dof > 0 ? fit.sd : leastSd)
  const vertex = (b1: number, c1: number) => (c1 < -1e-9 ? -b1 / (2 * c1) : b1 >= 0 ? 3 : -3)
  const best = vertex(b, c)
  const draw = sampler(fit.inverse)
  const normal = normalStream(randomStream(20261125))
  const found = Array.from({ length: DRAWS }, () => {
    const s = fit.dof > 0 ? sd * Math.sqrt(dof / Math.max(1e-9, chiSquare(dof, normal))) : sd
    const d = draw(normal)
    return Math.min(3, Math.max(-3, vertex(b + s * d[1], c + s * d[2])))
  }).sort((p, q) => p - q)
  const back = (v: number) => mid + half * v
  return {
    best: back(Math.min(3, Math.max(-3, best))),
    low: back(quantileOf(found, 0.025)),
    high: back(quantileOf(found, 0.975)),
    at: (x) => a + b * u(x) + c * u(x) ** 2,
    sd,
    r2: fit.r2,
    p: fit.dof > 0 ? nestedPValue(fit, flat) : NaN,
    bends: c < -1e-9 && Math.abs(best) <= 1,
  }
}

/** Draws from a normal distribution with the given covariance (Cholesky). */
function sampler(cov: number[][]): (normal: () => number) => number[] {
  const n = cov.length
  const l = cov.map((row) => row.map(() => 0))
  for (let i = 0; i < n; i++)
    for (let j = 0; j <= i; j++) {
      let s = cov[i][j]
      for (let k = 0; k < j; k++) s -= l[i][k] * l[j][k]
      l[i][j] = i === j ? Math.sqrt(Math.max(0, s)) : s / (l[j][j] || 1)
    }
  return (normal) => {
    const z = cov.map(() => normal())
    return l.map((row) => row.reduce((s, v, k) => s + v * z[k], 0))
  }
}

export interface StickFit {
  /** Where the two straight lines meet. */
  knee: number
  low: number
  high: number
  /** Height of the level part, and the slope of the other. */
  level: number
  slope: number
  sd: number
  r2: number
  p: number
  at: (x: number) => number
}

/** Least squares of y = level + slope·g(x) for one knee, by sums: the work of every step of the search. */
function stickAt(points: readonly FitPoint[], knee: number, side: 1 | -1) {
  let [sw, sg, sy, sgg, sgy, syy] = [0, 0, 0, 0, 0, 0]
  for (const { x, y, weight: w } of points) {
    const d = x - knee
    const g = side * d > 0 ? d : 0
    sw += w
    sg += w * g
    sy += w * y
    sgg += w * g * g
    sgy += w * g * y
    syy += w * y * y
  }
  const gg = sgg - (sg * sg) / sw
  const gy = sgy - (sg * sy) / sw
  const slope = gg > 1e-12 ? gy / gg : 0
  const level = (sy - slope * sg) / sw
  return { slope, level, rss: Math.max(0, syy - (sy * sy) / sw - slope * gy) }
}

/** The same search as in the point fit, on the sums. */
const bestKnee = (points: readonly FitPoint[], side: 1 | -1, low: number, high: number) =>
  leastAt((k) => stickAt(points, k, side).rss, [low, high], 30, 14) ?? low

/**
 * A level and a straight line that meet at a knee (broken stick). `side` −1: the slope lies before the knee, 1: after it.
 * The knee's interval is a parametric bootstrap: readings drawn anew round the fit with the pooled noise.
 * @returns null with fewer than four different x
 */
export function brokenStick(points: readonly FitPoint[], side: 1 | -1, leastSd: number): StickFit | null {
  const xs = [...new Set(points.map((p) => p.x))].sort((a, b) => a - b)
  if (xs.length < 4) return null
  const [low, high] = [xs[0], xs[xs.length - 1]]
  const found = separableFit(
    points.map((p) => p.x),
    points.map((p) => p.y),
    (x, k) => [1, side * (x - k) > 0 ? x - k : 0],
    [low, high],
    { weights: points.map((p) => p.weight) },
  )
  if (!found) return null
  const knee = found.parameter
  const [level, slope] = found.fit.coefficients
  const { rss } = found.fit
  const dof = points.length - 3
  const sw = points.reduce((s, p) => s + p.weight, 0)
  const mean = points.reduce((s, p) => s + p.weight * p.y, 0) / sw
  const tss = points.reduce((s, p) => s + p.weight * (p.y - mean) ** 2, 0)
  const sd = Math.max(leastSd, dof > 0 ? Math.sqrt(rss / dof) : leastSd)
  const at = (x: number) => level + slope * (side * (x - knee) > 0 ? x - knee : 0)
  const normal = normalStream(randomStream(20261125))
  const knees = Array.from({ length: DRAWS / 2 - 40 }, () => {
    const s = dof > 0 ? sd * Math.sqrt(dof / Math.max(1e-9, chiSquare(dof, normal))) : sd
    const drawn = points.map((p) => ({ ...p, y: at(p.x) + (s * normal()) / Math.sqrt(p.weight) }))
    return bestKnee(drawn, side, low, high)
  }).sort((a, b) => a - b)
  const f = dof > 0 && rss > 0 ? (tss - rss) / 2 / (rss / dof) : Infinity
  return {
    knee,
    low: quantileOf(knees, 0.025),
    high: quantileOf(knees, 0.975),
    level,
    slope,
    sd,
    r2: tss > 0 ? 1 - rss / tss : 1,
    p: dof > 0 && Number.isFinite(f) ? fPValue(f, 2, dof) : rss === 0 && tss > 0 ? 0 : NaN,
    at,
  }
}

/**
 * Overall desirability of several grades (Derringer & Suich 1980): the weighted geometric mean of each grade's share
 * of the best one. One useless grade makes the whole useless.
 * @param grades 0 to `top`, each with its weight
 */
export function desirability(grades: readonly { grade: number; weight: number }[], top: number): number {
  const total = grades.reduce((s, g) => s + g.weight, 0)
  if (!(total > 0)) return NaN
  if (grades.some((g) => g.grade <= 0 && g.weight > 0)) return 0
  return Math.exp(grades.reduce((s, g) => s + g.weight * Math.log(Math.min(1, g.grade / top)), 0) / total)
}

/** Whether trials of the same thing disagree in level: chance that a shift as large comes from noise; NaN for one trial. */
export function driftPValue(points: readonly FitPoint[]): number {
  const trials = [...new Set(points.map((p) => p.trial))]
  if (trials.length < 2 || points.length < trials.length + 4) return NaN
  const base = (p: FitPoint) => [1, p.x, p.x * p.x]
  const y = points.map((p) => p.y)
  const w = points.map((p) => p.weight)
  const less = linearFit(points.map(base), y, w)
  const full = linearFit(
    points.map((p) => [...base(p), ...trials.slice(1).map((t) => Number(p.trial === t))]),
    y,
    w,
  )
  return full && less ? nestedPValue(full, less) : NaN
}
