import { faultOf, isNumberKey } from '../../../recipe/settings'
import { HAND_SCATTER, TOP_GRADE } from '../../criteria'
import { mainEffects, type Effect } from '../../fits/effects'
import { LEAST_SPREAD, emptyOutcome, type OutcomeRule } from '../../outcome'
import { outcomeReason } from '../../reasons'
import type { PiecePlan, VariedKey } from '../../types'

/** How far a hand scatters that grades alike seams, as a share of full marks, and as how many grades that counts. From memory. */
const HAND = { sd: HAND_SCATTER / TOP_GRADE, dof: 12 }
/** One trial in twenty may name a factor that does nothing, all its factors together. */
const BY_ACCIDENT = 0.05

/** What early stop, wipe or flow do to the seam: main effects, and the best level of those that count. */
export const seamOutcome: OutcomeRule = (trials, { recipe }) => {
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
  const effects = runs.length < least ? null : mainEffects(runs, keys, HAND)
  if (!effects)
    return {
      ...emptyOutcome('few', [outcomeReason('grade-columns', { count: least })], steps.key),
      points,
    }
  const counts = (e: Effect) => e.p < BY_ACCIDENT / keys.length && e.spread > LEAST_SPREAD
  const counting = effects
    .filter(counts)
    .map((e) => ({ ...e, best: bestLevel(e, isNumberKey(e.key) ? recipe[e.key].value : null) }))
  if (!counting.length)
    return { ...emptyOutcome('flat', [outcomeReason('columns-alike')], steps.key), points }
  const best = (key: VariedKey) => counting.find((e) => e.key === key)?.best ?? null
  return {
    ...emptyOutcome(
      'found',
      effects.map((e) =>
        best(e.key) === null
          ? outcomeReason('factor-scatter', { key: e.key })
          : outcomeReason('factor-counts', { key: e.key, grades: e.spread * TOP_GRADE, best: best(e.key)! }),
      ),
      steps.key,
    ),
    points,
    best: best(steps.key),
    adopt: counting.flatMap((e) =>
      isNumberKey(e.key) && !faultOf(e.key, e.best)
        ? [{ key: e.key, value: e.best, plusMinus: halfStep(t.plan, e.key) }]
        : [],
    ),
  }
}

/** The level that came out best; among those about as good the one nearest to the value in use. */
function bestLevel({ levels }: Effect, inUse: number | null): number {
  const top = Math.max(...levels.map((l) => l.mean))
  const good = levels.filter((l) => l.mean > top - LEAST_SPREAD)
  const far = (v: number) => (inUse === null ? 0 : Math.abs(v - inUse))
  return good.reduce((m, l) =>
    far(l.value) < far(m.value) || (far(l.value) === far(m.value) && l.mean > m.mean) ? l : m,
  ).value
}

/** Between two levels nothing was seen: half a step each way. */
function halfStep({ steps, across }: PiecePlan, key: VariedKey): number {
  const s = steps.key === key || !across ? steps : across
  return Number((Math.abs(s.to - s.from) / Math.max(1, s.count - 1) / 2).toFixed(3))
}
