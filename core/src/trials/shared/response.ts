import { faultOf, isNumberKey, type NumberKey } from '../../recipe/settings'
import type { CriterionId } from '../criteria'
import { driftPValue } from '../fits/drift'
import { curveOf, type FitPoint } from '../fits/points'
import { peakResponse, variesP, type PeakFit } from '../fits/peak'
import {
  LEAST_SD,
  LEAST_SPREAD,
  MOST_SD,
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
import { decidingCriterion, gradedPoints, rangeOf, spreadOf } from './graded'

/** Grades over one stepped value, before a curve is laid through them. */
export interface GradedResponse {
  trial: ReadTrial
  key: VariedKey
  points: FitPoint[]
  /** What every outcome of these points starts from. */
  base: Outcome
  low: number
  high: number
  /** Chance that grades as these come by accident: of all together, or of the criterion that varies most clearly. */
  accident: () => number
  /** Steps between two ends, in the direction of the plan's, within setting, machine and what the roll stands. */
  stepsBetween: (from: number, to: number) => Steps
}

/** Bands, patches, columns or lines graded over one stepped value: a best with its interval. */
export const gradedResponse = (criteria: readonly CriterionId[]): OutcomeRule =>
  responseRule(criteria, 4, bestOf)

/**
 * A rule over graded places: what is too few or all alike is said here, the rest is left to `fit`.
 * @param least how many different values it takes
 */
export const responseRule =
  (
    criteria: readonly CriterionId[],
    least: number,
    fit: (g: GradedResponse, context: OutcomeContext) => Outcome,
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
    if (spreadOf(points) < LEAST_SPREAD) {
      const mean = points.reduce((s, p) => s + p.y, 0) / points.length
      return {
        ...emptyOutcome(
          'flat',
          [
            outcomeReason('graded-alike', { key, from: steps.from, to: steps.to }),
            outcomeReason(mean > 0.8 ? 'keep-in-use' : 'something-else-wrong'),
          ],
          key,
        ),
        points,
      }
    }
    const drift = driftPValue(points)
    const [low, high] = rangeOf(points)
    return fit(
      {
        trial,
        key,
        points,
        base: {
          ...emptyOutcome('found', [], key),
          points,
          decider: decidingCriterion(like, key, criteria),
          drift: drift < 0.05 ? outcomeReason('levels-differ', { key, p: drift }) : null,
        },
        low,
        high,
        accident: () => accidentOf(points, like, key, criteria),
        stepsBetween: (from, to) =>
          stepsOnRoll(context, {
            ...steps,
            from: steps.from <= steps.to ? from : to,
            to: steps.from <= steps.to ? to : from,
          }),
      },
      context,
    )
  }

/**
 * Chance that grades come by accident. Criteria that pull both ways leave their common desirability flat though each
 * of them varies clearly: so each is tried as well, and they share the chance of a mistake (Bonferroni).
 */
function accidentOf(
  points: readonly FitPoint[],
  trials: readonly ReadTrial[],
  key: VariedKey,
  criteria: readonly CriterionId[],
): number {
  const each = criteria.length > 1 ? criteria.map((c) => gradedPoints(trials, key, [c])) : []
  const sets = [points, ...each].filter(
    (set) => new Set(set.map((p) => p.x)).size >= 4 && spreadOf(set) > LEAST_SPREAD,
  )
  return sets.length ? Math.min(1, sets.length * Math.min(...sets.map(variesP))) : 1
}

const ordered = (a: number, b: number): [number, number] => (a <= b ? [a, b] : [b, a])

/** Chance of an accident from which on nothing is offered. */
export const BY_ACCIDENT = 0.05

/** What is said where the grades might as well have come about by accident; null where they tell something. */
export function unsettled(g: Pick<GradedResponse, 'key' | 'accident'>): Partial<Outcome> | null {
  const p = g.accident()
  return p > BY_ACCIDENT
    ? {
        kind: 'few',
        reasons: [outcomeReason('might-be-accident', { key: g.key, p }), outcomeReason('grade-once-more')],
      }
    : null
}

/** The best of a one-peaked response, or the end it lies beyond. */
function bestOf(g: GradedResponse, context: OutcomeContext): Outcome {
  const { key, points, base, low, high } = g
  const fit = peakResponse(points, LEAST_SD)
  if (!fit) return { ...base, kind: 'few', reasons: [outcomeReason('four-at-least')] }
  const common = { ...base, curve: curveOf(fit.at, low, high), r2: fit.r2, sd: fit.sd }
  if (fit.sd > MOST_SD) return { ...common, ...disagreement(key) }
  const open = unsettled(g)
  if (open) return { ...common, ...open }
  if (!fit.inside) {
    // not by where the best of the fit lies: before a cliff and a level after it the best is the level
    const end = fit.at(low) > fit.at(high) ? low : high
    const bounds = isNumberKey(key) ? boundsOf(context, key) : null
    const limited = !!bounds && (end === low ? end <= bounds.min : end >= bounds.max)
    return { ...common, ...beyondEnd(g, end, limited, fit) }
  }
  // an interval as wide as what was printed is no answer
  if (fit.high - fit.low >= high - low)
    return {
      ...common,
      kind: 'few',
      reasons: [outcomeReason('wider-than-printed'), outcomeReason('grade-once-more')],
    }
  return { ...common, ...within(g, fit) }
}

function beyondEnd(g: GradedResponse, end: number, limited: boolean, fit: PeakFit): Partial<Outcome> {
  const { key, low, high } = g
  const span = high - low
  const other = end === low ? 1 : -1
  const next = g.stepsBetween(...ordered(end - other * span * 0.6, end + other * span * 0.3))
  const moves = Math.min(next.from, next.to) < low - 1e-9 || Math.max(next.from, next.to) > high + 1e-9
  const further = !limited && moves
  const plateau = plateauOf(fit, low, high, end)
  const level = plateau[1] - plateau[0] >= span / 2
  if ((level || !further) && isNumberKey(key)) return asGoodAs(g, key, { end, plateau, further, level })
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

/** How far into what is as good the answer lies, from the end on. Common practice, no source. */
const HALF_WAY = 0.5
const TOWARDS_END = 0.25

/**
 * Where what does about as well as the end is half of what was printed, the answer lies in that: in its middle where more may
 * lie beyond, nearer to the end where nothing does. Where it is less and nothing goes beyond the end, that end is the answer.
 */
function asGoodAs(
  { key, low, high, trial }: GradedResponse,
  own: NumberKey,
  {
    end,
    plateau,
    further,
    level,
  }: { end: number; plateau: [number, number]; further: boolean; level: boolean },
): Partial<Outcome> {
  const other = end === plateau[0] ? plateau[1] : plateau[0]
  const inwards = !level ? 0 : further ? HALF_WAY : TOWARDS_END
  const value = roundVaried(key, end + inwards * (other - end))
  const apart = (high - low) / Math.max(1, trial.plan.steps.count - 1)
  const half = Math.max((plateau[1] - plateau[0]) / 2, apart / 2)
  return {
    kind: 'found',
    best: value,
    low: plateau[0] - apart / 2,
    high: plateau[1] + apart / 2,
    plateau,
    adopt: faultOf(own, value) ? [] : [{ key: own, value, plusMinus: Number(half.toPrecision(2)) }],
    reasons: [
      ...(further
        ? []
        : [outcomeReason('best-at-end', { key, value: end }), outcomeReason('goes-no-further')]),
      outcomeReason('nearly-as-good', { key, from: plateau[0], to: plateau[1] }),
      ...(level ? [outcomeReason('among-these', { key, value })] : []),
    ],
  }
}

/** What is as good as the best to within a twentieth of its desirability, in one piece with an end that is in it. */
function plateauOf(fit: PeakFit, low: number, high: number, end: number): [number, number] {
  const least = 0.95 * fit.at(end)
  const curve = curveOf(fit.at, low, high, 240)
  const outwards = end === low ? curve : [...curve].reverse()
  const stop = outwards.findIndex((c) => c.y < least)
  const other = stop < 0 ? outwards[outwards.length - 1].x : outwards[Math.max(0, stop - 1)].x
  return ordered(end, other)
}

function within(g: GradedResponse, fit: PeakFit): Partial<Outcome> {
  const { key, low, high, base } = g
  // as good as the best to within a twentieth of its desirability
  const good = curveOf(fit.at, low, high, 240).filter((c) => c.y >= 0.95 * fit.at(fit.best))
  const plateau: [number, number] | null = good.length ? [good[0].x, good[good.length - 1].x] : null
  const value = roundVaried(key, fit.best)
  const half = (fit.high - fit.low) / 2
  return {
    best: fit.best,
    low: fit.low,
    high: fit.high,
    plateau,
    adopt:
      isNumberKey(key) && !faultOf(key, value)
        ? [{ key, value, plusMinus: Number(half.toPrecision(2)) }]
        : [],
    reasons: [
      outcomeReason('best-at', { key, value: fit.best, low: fit.low, high: fit.high }),
      ...(plateau ? [outcomeReason('nearly-as-good', { key, from: plateau[0], to: plateau[1] })] : []),
      ...(base.decider ? [outcomeReason('criterion-decided', { criterion: base.decider })] : []),
    ],
  }
}
