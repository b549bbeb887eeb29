import { TOP_GRADE, type CriterionId } from '../criteria'
import { desirability } from '../fits/desirability'
import type { FitPoint } from '../fits/points'
import type { ReadTrial, VariedKey } from '../types'

/** What an unsure reading, or one of an older trial, counts. Common practice, no source. */
const HALF = 0.5

/** Graded cells as points: the desirability of what was graded, over the stepped value. */
export function gradedPoints(
  trials: readonly ReadTrial[],
  key: VariedKey,
  criteria: readonly CriterionId[],
): FitPoint[] {
  const newest = Math.max(...trials.map((t) => t.number))
  return trials.flatMap((t) =>
    t.cells.flatMap((cell): FitPoint[] => {
      const r = t.readings[cell.id]
      const x = cell.values[key]
      if (!r || r.skipped || x === undefined) return []
      const grades = criteria.flatMap((c) => {
        const grade = r.grades[c]
        return grade === undefined ? [] : [{ grade, weight: 1 }]
      })
      if (!grades.length) return []
      return [
        {
          x,
          y: desirability(grades, TOP_GRADE),
          weight: (r.unsure ? HALF : 1) * (t.number === newest ? 1 : HALF),
          trial: t.number,
        },
      ]
    }),
  )
}

/** The criterion whose grades change most over the range; null where there is only one. */
export function decidingCriterion(
  trials: readonly ReadTrial[],
  key: VariedKey,
  criteria: readonly CriterionId[],
): CriterionId | null {
  if (criteria.length < 2) return null
  let best: CriterionId | null = null
  let most = 0
  for (const c of criteria) {
    const y = gradedPoints(trials, key, [c]).map((p) => p.y)
    if (y.length < 2) continue
    const mean = y.reduce((s, v) => s + v, 0) / y.length
    const variance = y.reduce((s, v) => s + (v - mean) ** 2, 0) / y.length
    if (variance > most) {
      most = variance
      best = c
    }
  }
  return best
}

/** Difference between the best and the worst point. */
export const spreadOf = (points: readonly { y: number }[]) =>
  Math.max(...points.map((p) => p.y)) - Math.min(...points.map((p) => p.y))
/** Least and most of what was stepped. */
export const rangeOf = (points: readonly { x: number }[]): [number, number] => [
  Math.min(...points.map((p) => p.x)),
  Math.max(...points.map((p) => p.x)),
]
