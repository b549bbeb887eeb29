import type { Reason } from '../../quantity/reason'
import { TOP_GRADE, type CriterionId } from '../criteria'
import { emptyOutcome, type Adoptable, type OutcomeRule } from '../outcome'
import { outcomeReason } from '../reasons'
import type { Steps, VariedKey } from '../types'

/** A grade from which on a place counts as good. */
const GOOD = 3

/** What a threshold is read from, and what is said of it. */
export interface ThresholdRule {
  key: VariedKey
  criterion: CriterionId
  /** Whether larger values are the easier ones. */
  easierUpwards: boolean
  none: Reason
  disagree: Reason
  found: (best: number, beyond: number | null) => Reason
  /** What the recipe may take from it. */
  adopt?: (best: number, beyond: number | null) => { values: Adoptable[]; why: Reason[] }
  /** Steps worth printing when none was good. */
  next: (steps: Steps) => Pick<Steps, 'from' | 'to'>
}

/** The hardest value that still came out good, with all easier ones good as well. */
export const thresholdOutcome =
  (rule: ThresholdRule): OutcomeRule =>
  (trials) => {
    const t = trials[trials.length - 1]
    const { key, easierUpwards } = rule
    const seen = t.cells
      .flatMap((c) => {
        const r = t.readings[c.id]
        const grade = r?.grades[rule.criterion]
        const x = c.values[key]
        return !r || r.skipped || grade === undefined || x === undefined
          ? []
          : [{ x, ok: grade >= GOOD, grade }]
      })
      .sort((a, b) => (easierUpwards ? a.x - b.x : b.x - a.x))
    const points = seen.map((s) => ({ x: s.x, y: s.grade / TOP_GRADE, weight: 1, trial: t.number }))
    const at = seen.findIndex((s) => s.ok)
    if (seen.length < 2) return { ...emptyOutcome('few', [outcomeReason('grade-two')], key), points }
    if (at < 0)
      return {
        ...emptyOutcome('end', [rule.none], key),
        points,
        next: { ...t.plan.steps, ...rule.next(t.plan.steps) },
      }
    if (seen.slice(at).some((s) => !s.ok))
      return { ...emptyOutcome('disagree', [rule.disagree], key), points }
    const best = seen[at].x
    const beyond = at > 0 ? seen[at - 1].x : null
    const taken = rule.adopt?.(best, beyond)
    return {
      ...emptyOutcome('found', [rule.found(best, beyond), ...(taken?.why ?? [])], key),
      adopt: taken?.values ?? [],
      points,
      best,
      low: easierUpwards ? beyond : best,
      high: easierUpwards ? best : beyond,
    }
  }
