import { TOP_GRADE, type CriterionId } from '../criteria'
import { desirability } from '../fits/desirability'
import type { GradedPlace } from '../fits/gradedCurve'
import type { FitPoint } from '../fits/points'
import type { ReadTrial, VariedKey } from '../types'

/** What an unsure reading, or one of an older trial, counts. Common practice, no source. */
const HALF = 0.5

/** Places of trials that were graded by any of some criteria, over the stepped value. */
export function gradedPlaces(
  trials: readonly ReadTrial[],
  key: VariedKey,
  criteria: readonly CriterionId[],
): (GradedPlace & { trial: number })[] {
  const newest = Math.max(...trials.map((t) => t.number))
  return trials.flatMap((t) =>
    t.cells.flatMap((cell) => {
      const r = t.readings[cell.id]
      const x = cell.values[key]
      if (!r || r.skipped || x === undefined) return []
      const grades = Object.fromEntries(
        criteria.flatMap((c) => (r.grades[c] === undefined ? [] : [[c, r.grades[c]]])),
      )
      if (!Object.keys(grades).length) return []
      const weight = (r.unsure ? HALF : 1) * (t.number === newest ? 1 : HALF)
      return [{ x, grades, weight, trial: t.number }]
    }),
  )
}

/** Graded cells as points: the desirability of what was graded, over the stepped value. */
export const gradedPoints = (
  trials: readonly ReadTrial[],
  key: VariedKey,
  criteria: readonly CriterionId[],
): FitPoint[] =>
  gradedPlaces(trials, key, criteria).map(({ x, grades, weight, trial }) => ({
    x,
    y: desirability(
      Object.values(grades).map((grade) => ({ grade, weight: 1 })),
      TOP_GRADE,
    ),
    weight,
    trial,
  }))

/** Least and most of what was stepped. */
export const rangeOf = (points: readonly { x: number }[]): [number, number] => [
  Math.min(...points.map((p) => p.x)),
  Math.max(...points.map((p) => p.x)),
]
