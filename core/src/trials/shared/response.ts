import { faultOf, isNumberKey } from '../../recipe/settings'
import type { CriterionId } from '../criteria'
import { driftPValue } from '../fits/drift'
import { drawnCurve, gradedCurve, type GradedCurve, type Leanings } from '../fits/gradedCurve'
import { curveOf, type FitPoint } from '../fits/points'
import {
  GOOD_ENOUGH,
  MOST_SCATTER,
  disagreement,
  emptyOutcome,
  type Outcome,
  type OutcomeContext,
  type OutcomeRule,
} from '../outcome'
import { boundsOf, stepsOnRoll } from '../pieces/piece'
import { outcomeReason } from '../reasons'
import type { ReadTrial, Steps, VariedKey } from '../types'
import { roundVaried } from '../varied'
import { gradedPlaces, gradedPoints, rangeOf } from './graded'

/** Grades over one stepped value, as the curves that explain them. */
export interface GradedResponse {
  trial: ReadTrial
  key: VariedKey
  points: FitPoint[]
  curve: GradedCurve
  /** What every outcome of these points starts from. */
  base: Outcome
  low: number
  high: number
  /** Steps between two ends, in the direction of the plan's, within setting, machine and what the roll stands. */
  stepsBetween: (from: number, to: number) => Steps
}

/** What comes of graded places, once there are enough of them. */
export interface ResponseRule {
  /** How many different values it takes. */
  least?: number
  leanings?: Leanings
  /** Where something varies. */
  varies: (g: GradedResponse, context: OutcomeContext) => Outcome
  /** Where all might be alike. */
  alike: (g: GradedResponse, context: OutcomeContext) => Outcome
}

/** Chance of an accident from which on no difference is spoken of. */
export const BY_ACCIDENT = 0.05
const ENOUGH_PLACES = 4

/** Bands, patches, columns or lines graded over one stepped value: a best with its interval, or that it makes no difference. */
export const gradedResponse = (criteria: readonly CriterionId[], leanings: Leanings = {}): OutcomeRule =>
  responseRule(criteria, { leanings, varies: bestOf, alike: noDifference })

/** A rule over graded places: what is too few is said here, the rest is left to it. */
export const responseRule =
  (
    criteria: readonly CriterionId[],
    { least = ENOUGH_PLACES, leanings, varies, alike }: ResponseRule,
  ): OutcomeRule =>
  (trials, context) => {
    const trial = trials[trials.length - 1]
    const { steps, piece } = trial.plan
    const { key } = steps
    const like = trials.filter((t) => t.plan.steps.key === key)
    const points = gradedPoints(like, key, criteria)
    const count = new Set(points.map((p) => p.x)).size
    if (count < least)
      return {
        ...emptyOutcome('few', [outcomeReason('few-graded', { piece, count, least })], key),
        points,
      }
    const curve = gradedCurve(gradedPlaces(like, key, criteria), criteria, leanings)
    const drift = driftPValue(points)
    const [low, high] = rangeOf(points)
    const g: GradedResponse = {
      trial,
      key,
      points,
      curve,
      base: {
        ...emptyOutcome('found', [], key),
        points,
        curve: drawnCurve(curve),
        ...scatterOf(points, curve),
        decider: curve.decider,
        drift: drift < 0.05 ? outcomeReason('levels-differ', { key, p: drift }) : null,
      },
      low,
      high,
      stepsBetween: (from, to) =>
        stepsOnRoll(context, {
          ...steps,
          from: steps.from <= steps.to ? from : to,
          to: steps.from <= steps.to ? to : from,
        }),
    }
    return (curve.accident > BY_ACCIDENT ? alike : varies)(g, context)
  }

/** How far readings scatter round the curve, and what share of their differences it explains. */
function scatterOf(points: readonly FitPoint[], { at }: GradedCurve): { sd: number; r2: number } {
  const total = points.reduce((s, p) => s + p.weight, 0)
  const mean = points.reduce((s, p) => s + p.weight * p.y, 0) / total
  const about = (of: (p: FitPoint) => number) =>
    points.reduce((s, p) => s + p.weight * (p.y - of(p)) ** 2, 0) / total
  const [left, all] = [about((p) => at(p.x)), about(() => mean)]
  return { sd: Math.sqrt(left), r2: all > 0 ? Math.max(0, 1 - left / all) : 1 }
}

/** Desirability that a value in use may be short of the best and still stays: where something varies, and where nothing might. */
const NO_GAIN = 0.02
const NO_PLAIN_GAIN = 0.05
/** Odds of *all alike* from which on that is said. */
const ALIKE = 1

/** Where the grades do not tell one value from another: what is in use stays where it is good, or something else is wrong. */
function noDifference(g: GradedResponse, context: OutcomeContext): Outcome {
  const { key, base, curve, points, trial } = g
  if (curve.scatter >= MOST_SCATTER) return { ...base, ...disagreement(key) }
  const kept = keptIn(g, context, NO_PLAIN_GAIN)
  // as far as these grades tell, the best may lie anywhere
  if (kept)
    return {
      ...kept,
      low: g.low,
      high: g.high,
      plateau: [g.low, g.high],
      adopt: kept.adopt.map((a) => ({ ...a, plusMinus: Number(((g.high - g.low) / 2).toPrecision(2)) })),
      reasons: [
        outcomeReason('keep-value', { key, value: kept.best!, from: kept.best!, to: kept.best! }),
        outcomeReason('graded-alike', { key, from: g.low, to: g.high }),
      ],
    }
  if (curve.alike < ALIKE)
    return {
      ...base,
      kind: 'few',
      reasons: [
        outcomeReason('might-be-accident', { key, p: curve.accident }),
        outcomeReason('grade-once-more'),
      ],
    }
  const { from, to } = trial.plan.steps
  const mean = points.reduce((s, p) => s + p.y, 0) / points.length
  return {
    ...base,
    kind: 'flat',
    reasons: [
      outcomeReason('graded-alike', { key, from, to }),
      outcomeReason(mean >= GOOD_ENOUGH ? 'keep-in-use' : 'something-else-wrong'),
    ],
  }
}

/** The value in use stays where it was printed round, is good, and another one gains too little; null otherwise. */
function keptIn(g: GradedResponse, context: OutcomeContext, gain: number): Outcome | null {
  const { key, base, curve, low, high, trial } = g
  if (!isNumberKey(key)) return null
  const { value } = context.recipe[key]
  if (value < low || value > high || faultOf(key, value)) return null
  const most = curve.at(curve.best)
  if (curve.at(value) < Math.max(GOOD_ENOUGH, most - gain)) return null
  const good = plateauOf(g, value)
  const [from, to] = intervalOf(g)
  const apart = (high - low) / Math.max(1, trial.plan.steps.count - 1)
  return {
    ...base,
    kind: 'found',
    best: value,
    low: Math.min(from, good[0]),
    high: Math.max(to, good[1]),
    plateau: good,
    adopt: [{ key, value, plusMinus: Number(Math.max((good[1] - good[0]) / 2, apart / 2).toPrecision(2)) }],
    reasons: [outcomeReason('keep-value', { key, value, from: good[0], to: good[1] })],
  }
}

/** What is as good as the best to within a twentieth of its desirability, in one piece round a value. */
function plateauOf({ curve, low, high }: GradedResponse, value: number): [number, number] {
  const least = 0.95 * curve.at(curve.best)
  const steps = curveOf(curve.at, low, high, FINE)
  const at = Math.round(((value - low) / (high - low)) * FINE)
  let [a, b] = [at, at]
  while (a > 0 && steps[a - 1].y >= least) a--
  while (b < FINE && steps[b + 1].y >= least) b++
  return [steps[a].x, steps[b].x]
}
/** Parts of the range that a plateau is told to. */
const FINE = 240

const quantile = (sorted: readonly number[], share: number) =>
  sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))]

/** The best of a one-peaked response, the value in use where nothing is gained by another, or the end it lies beyond. */
export function bestOf(g: GradedResponse, context: OutcomeContext): Outcome {
  const { key, base, curve, low, high } = g
  const kept = keptIn(g, context, NO_GAIN)
  if (kept) return kept
  if (curve.atLow > 0.5 || curve.atHigh > 0.5) {
    const end = curve.atLow > curve.atHigh ? low : high
    const bounds = isNumberKey(key) ? boundsOf(context, key) : null
    const limited = !!bounds && (end === low ? end <= bounds.min : end >= bounds.max)
    return { ...base, ...beyondEnd(g, end, limited) }
  }
  return { ...base, ...within(g) }
}

const ordered = (a: number, b: number): [number, number] => (a <= b ? [a, b] : [b, a])

function beyondEnd(g: GradedResponse, end: number, limited: boolean): Partial<Outcome> {
  const { key, low, high } = g
  const span = high - low
  const other = end === low ? 1 : -1
  const next = g.stepsBetween(...ordered(end - other * span * 0.6, end + other * span * 0.3))
  const moves = Math.min(next.from, next.to) < low - 1e-9 || Math.max(next.from, next.to) > high + 1e-9
  const further = !limited && moves
  if (!further && isNumberKey(key)) {
    const value = roundVaried(key, end)
    const apart = span / Math.max(1, g.trial.plan.steps.count - 1)
    const [from, to] = intervalOf(g)
    return {
      kind: 'found',
      best: value,
      low: from,
      high: to,
      plateau: plateauOf(g, end),
      adopt: faultOf(key, value)
        ? []
        : [{ key, value, plusMinus: Number(Math.max((to - from) / 2, apart / 2).toPrecision(2)) }],
      reasons: [outcomeReason('best-at-end', { key, value: end }), outcomeReason('goes-no-further')],
    }
  }
  return {
    kind: 'end',
    best: end,
    reasons: [
      outcomeReason('best-at-end', { key, value: end }),
      further
        ? outcomeReason('print-next', { key, from: next.from, to: next.to })
        : outcomeReason('goes-no-further'),
    ],
    next: further ? next : null,
  }
}

/** Where the best lies, 95 %. */
function intervalOf({ curve }: GradedResponse): [number, number] {
  const sorted = [...curve.bests].sort((a, b) => a - b)
  return [quantile(sorted, 0.04), quantile(sorted, 0.96)]
}

function within(g: GradedResponse): Partial<Outcome> {
  const { key, base, curve } = g
  const { best } = curve
  const [low, high] = intervalOf(g)
  const plateau = plateauOf(g, best)
  const value = roundVaried(key, best)
  const half = (high - low) / 2
  return {
    best,
    low,
    high,
    plateau,
    adopt:
      isNumberKey(key) && !faultOf(key, value)
        ? [{ key, value, plusMinus: Number(half.toPrecision(2)) }]
        : [],
    reasons: [
      outcomeReason('best-at', { key, value: best, low, high }),
      ...(plateau[0] < plateau[1]
        ? [outcomeReason('nearly-as-good', { key, from: plateau[0], to: plateau[1] })]
        : []),
      ...(base.decider ? [outcomeReason('criterion-decided', { criterion: base.decider })] : []),
    ],
  }
}
