import { tQuantile } from './distributions'

export interface Uncertain {
  value: number
  /** Combined standard uncertainty. */
  u: number
  /** Effective degrees of freedom; infinite where nothing was estimated from few readings. */
  dof: number
  /** Half of the interval that holds it with 95 %. */
  expanded: number
}

/**
 * A value with its uncertainty from independent parts, in quadrature, the degrees of freedom after
 * Welch–Satterthwaite (JCGM 100, GUM, 5.1 and G.4).
 * @param parts standard uncertainties of the value, each with its degrees of freedom
 */
export function combineUncertainties(value: number, parts: readonly { u: number; dof: number }[]): Uncertain {
  const u2 = parts.reduce((s, p) => s + p.u * p.u, 0)
  const u = Math.sqrt(u2)
  const low = parts.reduce((s, p) => s + (Number.isFinite(p.dof) && p.u > 0 ? p.u ** 4 / p.dof : 0), 0)
  const dof = low > 0 ? (u2 * u2) / low : Infinity
  return { value, u, dof, expanded: u * tQuantile(0.975, Math.max(1, dof)) }
}

/** Mean of repeated readings with its standard uncertainty. One reading has none: NaN. */
export function meanOf(readings: readonly number[]): { mean: number; sd: number; u: number; dof: number } {
  const n = readings.length
  const mean = readings.reduce((s, v) => s + v, 0) / n
  const sd = n > 1 ? Math.sqrt(readings.reduce((s, v) => s + (v - mean) ** 2, 0) / (n - 1)) : NaN
  return { mean, sd, u: sd / Math.sqrt(n), dof: n - 1 }
}

/** Standard uncertainty of a display that shows steps of `a` (GUM F.2.2.1). */
export const resolutionUncertainty = (a: number) => a / Math.sqrt(12)
