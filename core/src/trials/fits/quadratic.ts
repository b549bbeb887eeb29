import { linearFit, nestedPValue } from '../../statistics/regression'
import { sortedQuantile } from '../../statistics/summary'
import { DRAWS, bootstrapNormals, drawnSd, sampler } from './bootstrap'
import type { FitPoint } from './points'

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
  const sd = Math.max(leastSd, fit.dof > 0 ? fit.sd : leastSd)
  const vertex = (b1: number, c1: number) => (c1 < -1e-9 ? -b1 / (2 * c1) : b1 >= 0 ? 3 : -3)
  const best = vertex(b, c)
  const draw = sampler(fit.inverse)
  const normal = bootstrapNormals()
  const found = Array.from({ length: DRAWS }, () => {
    const s = drawnSd(sd, fit.dof, normal)
    const d = draw(normal)
    return Math.min(3, Math.max(-3, vertex(b + s * d[1], c + s * d[2])))
  }).sort((p, q) => p - q)
  const back = (v: number) => mid + half * v
  return {
    best: back(Math.min(3, Math.max(-3, best))),
    low: back(sortedQuantile(found, 0.025)),
    high: back(sortedQuantile(found, 0.975)),
    at: (x) => a + b * u(x) + c * u(x) ** 2,
    sd,
    r2: fit.r2,
    p: fit.dof > 0 ? nestedPValue(fit, flat) : NaN,
    bends: c < -1e-9 && Math.abs(best) <= 1,
  }
}
