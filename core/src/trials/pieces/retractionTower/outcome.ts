import type { Reason } from '../../../quantity/reason'
import { faultOf, isNumberKey } from '../../../recipe/settings'
import { tQuantile } from '../../../statistics/distributions'
import { meanOf } from '../../../statistics/uncertainty'
import { TOP_GRADE } from '../../criteria'
import {
  GOOD_ENOUGH,
  MOST_SCATTER,
  disagreement,
  type Adoptable,
  type Outcome,
  type OutcomeRule,
} from '../../outcome'
import { outcomeReason } from '../../reasons'
import { responseRule, type GradedResponse } from '../../shared/response'
import type { ReadTrial } from '../../types'
import { roundVaried } from '../../varied'

/** mm to which a pull-back is worth knowing: less is neither heard nor seen. Common practice, no source. */
const KNOWN_ENOUGH = 0.3

/** The shortest pull-back that is as clean as any longer one. */
export const retractionOutcome: OutcomeRule = (trials, context) =>
  shortestOfAll(found(trials, context), trials[trials.length - 1], context.machine.drive.kind === 'direct')

const found = responseRule(['strings'], {
  leanings: { strings: 'rises' },
  varies: shortestClean,
  alike: ({ base, key, curve }) =>
    curve.scatter >= MOST_SCATTER
      ? { ...base, ...disagreement(key) }
      : { ...base, kind: 'flat', reasons: [outcomeReason('strings-from-elsewhere')] },
})

/** Noise that grades have at least, as a desirability. Common practice, no source. */
const LEAST_GRADE_SD = 0.035
/** Half a grade: lengths that differ by less are as good as each other. */
const HALF_A_GRADE = 0.5 / TOP_GRADE
/** So many lengths in a row have to be clean before the shortest of them is taken. */
const CLEAN_IN_A_ROW = 3

/** Mean desirability at each printed length, the shortest first. */
function byLength(points: Outcome['points']): { x: number; y: number }[] {
  const at = new Map<number, number[]>()
  for (const p of points) at.set(p.x, [...(at.get(p.x) ?? []), p.y])
  return [...at]
    .map(([x, ys]) => ({ x, y: ys.reduce((a, b) => a + b, 0) / ys.length }))
    .sort((a, b) => a.x - b.x)
}

/**
 * Where the fit finds no difference: of lengths that are all clean from one on, that one is enough, since a longer pull-back
 * only works the filament more; the lengths before it were not clean and are not taken. With a direct drive the shortest is
 * also enough where none of them helps and none is worse; in a tube all of them may have been too short.
 */
function shortestOfAll(out: Outcome, trial: ReadTrial, direct: boolean): Outcome {
  const lengths = byLength(out.points)
  if (out.kind !== 'flat' || out.points.length < 4) return out
  let first = lengths.length
  while (first > 0 && lengths[first - 1].y >= GOOD_ENOUGH) first--
  const clean = lengths.length - first >= CLEAN_IN_A_ROW
  const level = lengths.reduce((s, p) => s + p.y, 0) / Math.max(1, lengths.length)
  const alike = direct && lengths.every((p) => p.y >= level - HALF_A_GRADE)
  if (!clean && !alike) return out
  const place = clean ? first : 0
  const value = roundVaried('retractLength', lengths[place].x)
  const { from, to, count } = trial.plan.steps
  const step = Math.abs(to - from) / Math.max(1, count - 1)
  const reason = !clean
    ? outcomeReason('as-well', { value })
    : place
      ? outcomeReason('clean-from', { value, not: lengths[place - 1].x })
      : outcomeReason('all-clean', { value })
  return {
    ...out,
    kind: 'found',
    best: value,
    low: place ? lengths[place - 1].x : value,
    high: value,
    plateau: [value, lengths[lengths.length - 1].x],
    adopt: [{ key: 'retractLength', value, plusMinus: Number(step.toFixed(2)) }],
    reasons: clean ? [reason] : [...out.reasons, reason],
  }
}

/** A desirability without strings: between the two best grades. */
const CLEAN = 3.5 / TOP_GRADE
/** How likely a printed length has to be clean before it is proposed. From memory. */
const SURE_ENOUGH = 0.8

const share = (list: readonly number[], is: (i: number) => boolean) => list.filter(is).length / list.length

function shortestClean(g: GradedResponse): Outcome {
  const { trial, key, base, low, high, curve } = g
  const { xs, draws } = curve
  const span = high - low
  const last = xs.length - 1
  // of each curve that may be: the first length that is no worse than the cleanest
  const firsts = draws.map((d) => d.findIndex((v) => v >= Math.max(...d) - HALF_A_GRADE))
  if (share(firsts, (i) => i === 0) > 0.5)
    return {
      ...base,
      kind: 'end',
      best: low,
      reasons: [outcomeReason('shortest-cleanest')],
      next: g.stepsBetween(Math.max(0, low - span / 2), low + span / 3),
    }
  // the level has to be seen at two lengths at least, and be clean
  const rises = curve.at(high) < CLEAN && curve.at(high) - curve.at(high - span / 4) > HALF_A_GRADE / 2
  if (rises || share(firsts, (i) => i === last) > 0.5)
    return {
      ...base,
      kind: 'end',
      best: high,
      reasons: [outcomeReason('still-better-at', { key, value: high })],
      next: g.stepsBetween(high - span / 3, high + span / 2),
    }
  // it lies somewhere between the last that was not clean and the first that was
  const knees = firsts
    .map((i, k) => (i === 0 ? low : xs[i] - ((k + 0.5) / firsts.length) * (xs[i] - xs[i - 1])))
    .sort((p, q) => p - q)
  const at = (part: number) => knees[Math.min(knees.length - 1, Math.floor(part * knees.length))]
  const [knee, from, to] = [at(0.5), at(0.025), at(0.975)]
  const apart = span / (trial.plan.steps.count - 1)
  const half = Math.max((to - from) / 2, apart / (2 * Math.sqrt(3)))
  // a length that itself came out far worse than the curve, or than the longer ones, is not proposed, whatever its neighbours say
  const printed = byLength(g.points)
  const longer = (k: number) =>
    printed.slice(k + 1).reduce((sum, p) => sum + p.y, 0) / Math.max(1, printed.length - 1 - k)
  const enough = roundVaried(
    key,
    xs.find(
      (x, k) =>
        share(firsts, (i) => i <= k) >= SURE_ENOUGH &&
        printed[k].y >= Math.max(curve.at(x), longer(k)) - 2 * HALF_A_GRADE,
    ) ?? high,
  )
  const second = acrossEffect(trial)
  // between bands that stand far apart the knee may lie anywhere
  const closer =
    half > KNOWN_ENOUGH && apart > KNOWN_ENOUGH
      ? g.stepsBetween(Math.max(low, knee - apart), Math.min(high, knee + 1.5 * apart))
      : null
  return {
    ...base,
    next: closer,
    best: knee,
    low: from,
    high: to,
    plateau: [knee, high],
    adopt: [
      { key: 'retractLength', value: enough, plusMinus: Number(half.toFixed(2)) },
      ...(second?.adopt ?? []),
    ],
    reasons: [
      outcomeReason('shortest-clean', { key, value: knee, low: from, high: to }),
      outcomeReason('as-clean-up-to', { key, value: high }),
      ...(enough > roundVaried(key, knee) ? [outcomeReason('a-little-more', { key, value: enough })] : []),
      ...(closer ? [outcomeReason('closer-next', { key, from: closer.from, to: closer.to })] : []),
      ...(second ? [second.reason] : []),
    ],
  }
}

/**
 * What a second factor, stepped by row, did: rows are compared band by band, so that the first factor falls out
 * (paired differences, t interval).
 */
function acrossEffect(t: ReadTrial): { reason: Reason; adopt: Adoptable[] } | null {
  const { across, steps } = t.plan
  if (!across || across.count < 2) return null
  const { key } = across
  const gradesAt = (v: number) =>
    new Map(
      t.cells
        .filter((c) => c.values[key] === v)
        .map((c) => [c.values[steps.key], t.readings[c.id]?.grades.strings]),
    )
  const [first, last] = [gradesAt(across.from), gradesAt(across.to)]
  const gains = [...first].flatMap(([x, a]) => {
    const b = last.get(x)
    return a === undefined || b === undefined ? [] : [(b - a) / TOP_GRADE]
  })
  if (gains.length < 3) return null
  const { mean, u, dof } = meanOf(gains)
  const half = tQuantile(0.975, dof) * Math.max(u, LEAST_GRADE_SD / Math.sqrt(gains.length))
  if (Math.abs(mean) <= half) return { reason: outcomeReason('across-no-difference', { key }), adopt: [] }
  const [better, worse] = mean > 0 ? [across.to, across.from] : [across.from, across.to]
  const step = Math.abs(across.to - across.from) / Math.max(1, across.count - 1)
  return {
    reason: outcomeReason('across-better', { key, better, worse }),
    adopt:
      isNumberKey(key) && !faultOf(key, better)
        ? [{ key, value: better, plusMinus: Number((step / 2).toFixed(3)) }]
        : [],
  }
}
