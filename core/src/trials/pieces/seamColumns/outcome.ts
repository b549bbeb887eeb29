import { faultOf, isNumberKey } from '../../../recipe/settings'
import { TOP_GRADE } from '../../criteria'
import { mainEffects, type Effect } from '../../fits/effects'
import { LEAST_SPREAD, emptyOutcome, type OutcomeRule } from '../../outcome'
import { outcomeReason } from '../../reasons'
import { spreadOf } from '../../shared/graded'
import type { PiecePlan, VariedKey } from '../../types'

/** What early stop, wipe or flow do to the seam: main effects, and the best level of those that count. */
export const seamOutcome: OutcomeRule = (trials) => {
  const t = trials[trials.length - 1]
  const { steps, across } = t.plan
  const keys = [steps.key, ...(across ? [across.key] : [])]
  const runs = t.cells.flatMap((c) => {
    const r = t.readings[c.id]
    const grade = r?.grades.seam
    return !r || r.skipped || grade === undefined
      ? []
      : [{ values: c.values, y: grade / TOP_GRADE, weight: r.unsure ? 0.5 : 1 }]
  })
  const points = runs.map((r) => ({
    x: r.values[steps.key]!,
    y: r.y,
    weight: r.weight,
    trial: t.number,
  }))
  const least = keys.length + 2
  const effects = runs.length < least ? null : mainEffects(runs, keys)
  if (!effects)
    return {
      ...emptyOutcome('few', [outcomeReason('grade-columns', { count: least })], steps.key),
      points,
    }
  if (spreadOf(runs) < LEAST_SPREAD)
    return { ...emptyOutcome('flat', [outcomeReason('columns-alike')], steps.key), points }
  const counting = effects.filter(counts)
  return {
    ...emptyOutcome(
      counting.length ? 'found' : 'flat',
      effects.map(({ key, effect, ...e }) =>
        counts(e)
          ? outcomeReason('factor-counts', { key, effect, best: e.best })
          : outcomeReason('factor-scatter', { key, effect }),
      ),
      steps.key,
    ),
    points,
    best: counting.find((e) => e.key === steps.key)?.best ?? null,
    adopt: counting.flatMap((e) =>
      isNumberKey(e.key) && !faultOf(e.key, e.best)
        ? [{ key: e.key, value: e.best, plusMinus: halfStep(t.plan, e.key) }]
        : [],
    ),
  }
}

/** Whether an effect stands out of the scatter. */
const counts = (e: Pick<Effect, 'interval'>) =>
  e.interval !== null && (e.interval[0] > 0 || e.interval[1] < 0)

/** Between two levels nothing was seen: half a step each way. */
function halfStep({ steps, across }: PiecePlan, key: VariedKey): number {
  const s = steps.key === key || !across ? steps : across
  return Number((Math.abs(s.to - s.from) / Math.max(1, s.count - 1) / 2).toFixed(3))
}
