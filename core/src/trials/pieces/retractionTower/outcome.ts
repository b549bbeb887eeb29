import type { Reason } from '../../../quantity/reason'
import { faultOf, isNumberKey } from '../../../recipe/settings'
import { tQuantile } from '../../../statistics/distributions'
import { meanOf } from '../../../statistics/uncertainty'
import { TOP_GRADE } from '../../criteria'
import { brokenStick } from '../../fits/brokenStick'
import { curveOf } from '../../fits/points'
import {
  GOOD_ENOUGH,
  LEAST_SD,
  MOST_SD,
  disagreement,
  type Adoptable,
  type Outcome,
  type OutcomeRule,
} from '../../outcome'
import { outcomeReason } from '../../reasons'
import { responseRule, unsettled, type GradedResponse } from '../../shared/response'
import type { ReadTrial } from '../../types'
import { roundVaried } from '../../varied'

/** mm to which a pull-back is worth knowing: less is neither heard nor seen. Common practice, no source. */
const KNOWN_ENOUGH = 0.3

/** The shortest pull-back on the level part of a broken stick. */
export const retractionOutcome: OutcomeRule = (trials, context) =>
  shortestOfAll(found(trials, context), trials[trials.length - 1], context.machine.drive.kind === 'direct')

const found = responseRule(['strings'], 4, shortestClean)

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

function shortestClean(g: GradedResponse): Outcome {
  const { trial, key, points, base, low, high } = g
  const span = high - low
  const fit = brokenStick(points, -1, LEAST_SD)!
  const common = { ...base, curve: curveOf(fit.at, low, high), r2: fit.r2, sd: fit.sd }
  if (fit.sd > MOST_SD) return { ...common, ...disagreement(key) }
  if (fit.p > 0.1 || unsettled(g))
    return { ...common, kind: 'flat', reasons: [outcomeReason('strings-from-elsewhere')] }
  if (fit.slope < 0)
    return {
      ...common,
      kind: 'end',
      best: low,
      reasons: [outcomeReason('shortest-cleanest')],
      next: g.stepsBetween(Math.max(0, low - span / 2), low + span / 3),
    }
  // the level has to be seen at two lengths at least
  const beyond = new Set(points.map((p) => p.x).filter((x) => x >= fit.knee - 1e-9)).size
  if (beyond < 2)
    return {
      ...common,
      kind: 'end',
      best: high,
      reasons: [outcomeReason('still-better-at', { key, value: high })],
      next: g.stepsBetween(high - span / 3, high + span / 2),
    }
  const apart = span / (trial.plan.steps.count - 1)
  const half = Math.max((fit.high - fit.low) / 2, apart / (2 * Math.sqrt(3)))
  // a little too much costs next to nothing, a little too little strings: some way into what the knee may be
  const enough = roundVaried(
    key,
    Math.min(high, fit.knee + Math.min(0.75 * (fit.high - fit.knee), apart / 2)),
  )
  const second = acrossEffect(trial)
  // between bands that stand far apart the knee may lie anywhere
  const closer =
    half > KNOWN_ENOUGH && apart > KNOWN_ENOUGH
      ? g.stepsBetween(Math.max(low, fit.knee - apart), Math.min(high, fit.knee + 1.5 * apart))
      : null
  return {
    ...common,
    next: closer,
    best: fit.knee,
    low: fit.low,
    high: fit.high,
    plateau: [fit.knee, high],
    adopt: [
      {
        key: 'retractLength',
        value: enough,
        plusMinus: Number(half.toFixed(2)),
      },
      ...(second?.adopt ?? []),
    ],
    reasons: [
      outcomeReason('shortest-clean', { key, value: fit.knee, low: fit.low, high: fit.high }),
      outcomeReason('as-clean-up-to', { key, value: high }),
      ...(enough > roundVaried(key, fit.knee)
        ? [outcomeReason('a-little-more', { key, value: enough })]
        : []),
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
  const half = tQuantile(0.975, dof) * Math.max(u, LEAST_SD / Math.sqrt(gains.length))
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
