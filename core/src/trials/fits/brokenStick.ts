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
  /** Where a share of the level is lost, with its 95 % interval; null where the slope does not fall. */
  lostAt: (share: number) => { x: number; low: number; high: number } | null
}

/** How the part beside the level falls: straight, or ever faster. */
export type StickPower = 1 | 2 | 3

/** Distance beyond the knee, raised. */
const bent = (beyond: number, power: StickPower) => (beyond > 0 ? beyond ** power : 0)

/** Least squares of y = level + slope·g(x) for one knee, by sums: the work of every step of the search. */
function stickAt(points: readonly FitPoint[], knee: number, side: 1 | -1, power: StickPower) {
  let [sw, sg, sy, sgg, sgy, syy] = [0, 0, 0, 0, 0, 0]
  for (const { x, y, weight: w } of points) {
    const d = x - knee
    const g = bent(side * d, power) * side
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
const bestKnee = (points: readonly FitPoint[], side: 1 | -1, power: StickPower, low: number, high: number) =>
  leastAt((k) => stickAt(points, k, side, power).rss, [low, high], 30, 14) ?? low

/**
 * A level and a line that meet at a knee (broken stick), straight or falling ever faster. `side` −1: the slope lies before the knee, 1: after it.
 * The knee's interval is a parametric bootstrap: readings drawn anew round the fit with the pooled noise.
 * @returns null with fewer than four different x
 */
export function brokenStick(
  points: readonly FitPoint[],
  side: 1 | -1,
  leastSd: number,
  power: StickPower = 1,
): StickFit | null {
  const xs = [...new Set(points.map((p) => p.x))].sort((a, b) => a - b)
  if (xs.length < 4) return null
  const [low, high] = [xs[0], xs[xs.length - 1]]
  const found = separableFit(
    points.map((p) => p.x),
    points.map((p) => p.y),
    (x, k) => [1, side * bent(side * (x - k), power)],
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
  const at = (x: number) => level + slope * side * bent(side * (x - knee), power)
  const normal = bootstrapNormals()
  const draws = Array.from({ length: DRAWS / 2 - 40 }, () => {
    const s = drawnSd(sd, dof, normal)
    const drawn = points.map((p) => ({ ...p, y: at(p.x) + (s * normal()) / Math.sqrt(p.weight) }))
    const k = bestKnee(drawn, side, power, low, high)
    return { knee: k, ...stickAt(drawn, k, side, power) }
  })
  const knees = draws.map((d) => d.knee).sort((a, b) => a - b)
  const lost = (of: { knee: number; level: number; slope: number }, share: number) =>
    of.slope * side < 0 ? of.knee + side * ((share * of.level) / Math.abs(of.slope)) ** (1 / power) : NaN
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
    lostAt(share) {
      const x = lost({ knee, level, slope }, share)
      const all = draws
        .map((d) => lost(d, share))
        .filter((v) => !Number.isNaN(v))
        .sort((a, b) => a - b)
      return Number.isNaN(x) || !all.length
        ? null
        : { x, low: sortedQuantile(all, 0.025), high: sortedQuantile(all, 0.975) }
    },
  }
}
