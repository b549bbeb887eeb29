import {
  combineUncertainties,
  meanOf,
  resolutionUncertainty,
  type Uncertain,
} from '../../statistics/uncertainty'

/**
 * Flow from a wall of known width: nominal over measured, with its uncertainty after JCGM 100 (GUM): scatter of the
 * repeats, step of the display, and the caliper itself (± 0.02 mm, rectangular; common practice for hobby calipers).
 * @returns the new flow in %, with its 95 % interval
 */
export function flowFromWall(
  measures: readonly number[],
  nominal: number,
  flow: number,
  resolution: number,
): Uncertain {
  const { mean, u, dof } = meanOf(measures)
  const relative = (v: number) => v / mean
  const parts = [
    ...(measures.length > 1 ? [{ u: relative(u), dof }] : []),
    { u: relative(resolutionUncertainty(resolution)), dof: Infinity },
    { u: relative(0.02 / Math.sqrt(3)), dof: Infinity },
  ]
  const value = (flow * nominal) / mean
  return combineUncertainties(
    value,
    parts.map((p) => ({ u: p.u * value, dof: p.dof })),
  )
}
