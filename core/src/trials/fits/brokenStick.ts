import { fPValue } from '../../statistics/distributions'
import { leastAt, separableFit } from '../../statistics/separable'
import { sortedQuantile } from '../../statistics/summary'
import { DRAWS, bootstrapNormals, drawnSd } from './bootstrap'
import type { FitPoint } from './points'

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
  const normal = bootstrapNormals()
  const knees = Array.from({ length: DRAWS / 2 - 40 }, () => {
    const s = drawnSd(sd, dof, normal)
    const drawn = points.map((p) => ({ ...p, y: at(p.x) + (s * normal()) / Math.sqrt(p.weight) }))
    return bestKnee(drawn, side, low, high)
  }).sort((a, b) => a - b)
  const f = dof > 0 && rss > 0 ? (tss - rss) / 2 / (rss / dof) : Infinity
  return {
    knee,
    low: sortedQuantile(knees, 0.025),
    high: sortedQuantile(knees, 0.975),
    level,
    slope,
    sd,
    r2: tss > 0 ? 1 - rss / tss : 1,
    p: dof > 0 && Number.isFinite(f) ? fPValue(f, 2, dof) : rss === 0 && tss > 0 ? 0 : NaN,
    at,
  }
}
