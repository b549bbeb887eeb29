import { linearFit, nestedPValue } from '../../statistics/regression'
import type { FitPoint } from './points'

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
