// eslint-disable-next-line @typescript-eslint/triple-slash-reference -- the package brings no types of its own
/// <reference path="./jstat.d.ts" />
import jstat from 'jstat'

const { jStat } = jstat

/**
 * Quantile of Student's t. The numerical work is jstat's.
 * @param p 0 to 1
 * @param dof degrees of freedom, above 0; infinite gives the normal quantile
 */
export function tQuantile(p: number, dof: number): number {
  if (!(dof > 0)) throw new RangeError(`degrees of freedom are above 0, not ${dof}`)
  return Number.isFinite(dof) ? jStat.studentt.inv(p, dof) : normalQuantile(p)
}

/** Two-sided p-value of a t statistic. */
export function tPValue(t: number, dof: number): number {
  return 2 * (1 - jStat.studentt.cdf(Math.abs(t), dof))
}

/** Quantile of F with the degrees of freedom of numerator and denominator. */
export function fQuantile(p: number, d1: number, d2: number): number {
  return jStat.centralF.inv(p, d1, d2)
}

/** Chance of an F at least so large. */
export function fPValue(f: number, d1: number, d2: number): number {
  return f <= 0 ? 1 : 1 - jStat.centralF.cdf(f, d1, d2)
}

/** Chance of a χ² at least so large. */
export function chiSquarePValue(x: number, dof: number): number {
  return x <= 0 ? 1 : 1 - jStat.chisquare.cdf(x, dof)
}

/** Share of the standard normal distribution below z. */
export function normalShare(z: number): number {
  return jStat.normal.cdf(z, 0, 1)
}

/** Quantile of the standard normal distribution. */
export function normalQuantile(p: number): number {
  return jStat.normal.inv(p, 0, 1)
}
