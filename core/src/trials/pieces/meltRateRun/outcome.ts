import { faultOf } from '../../../recipe/settings'
import { meanOf } from '../../../statistics/uncertainty'
import { brokenStick, type StickFit } from '../../fits/brokenStick'
import { curveOf, type FitPoint } from '../../fits/points'
import { disagreement, emptyOutcome, type OutcomeRule } from '../../outcome'
import { outcomeReason } from '../../reasons'
import { rangeOf } from '../../shared/graded'
import { roundVaried } from '../../varied'

/** Loss from which on the hot end is asked for too much, and how far under it the cap is put. */
const LOSS = 0.05
const MARGIN = 0.9
/** Noise of a weighed heap at least, and at most where the heaps still have a common curve. */
const LEAST_SD = 0.004
const MOST_SD = 0.06

/** A hot end gives out little by little or at once: losses that grow straight or ever faster, the best fit first. */
const sticksThrough = (points: readonly FitPoint[]): StickFit[] =>
  ([1, 2, 3] as const)
    .flatMap((power) => brokenStick(points, 1, LEAST_SD, power) ?? [])
    .sort((a, b) => a.sd - b.sd)
/** Times the best fit's scatter up to which another shape may be the true one. */
const AS_WELL = 1.3

/** Heaps from which on one that stands off can be told. */
const MANY = 6

/**
 * One heap that carries what had run out before it, or was weighed wrongly, makes all the others useless: where the rest agree
 * with each other without it, it is left out, and said.
 */
function withoutOdd(points: FitPoint[]): { points: FitPoint[]; odd: FitPoint | null } {
  const sdOf = (list: readonly FitPoint[]) => sticksThrough(list)[0]?.sd ?? Infinity
  if (new Set(points.map((p) => p.x)).size < MANY || sdOf(points) <= MOST_SD) return { points, odd: null }
  const without = points.map((odd) => ({ odd, points: points.filter((p) => p !== odd) }))
  const best = without.reduce((b, w) => (sdOf(w.points) < sdOf(b.points) ? w : b))
  return sdOf(best.points) <= MOST_SD / 2 ? best : { points, odd: null }
}

/** Where a twentieth less comes out than was asked, and a tenth below that: the cap. */
export const meltRateOutcome: OutcomeRule = (trials) => {
  const t = trials[trials.length - 1]
  const weighed = t.cells.flatMap((c): FitPoint[] => {
    const r = t.readings[c.id]
    const x = c.values.meltRate
    if (!r || r.skipped || !r.measures.length || x === undefined || !c.nominal) return []
    return [{ x, y: meanOf(r.measures).mean / c.nominal, weight: r.unsure ? 0.5 : 1, trial: t.number }]
  })
  const { points, odd } = withoutOdd(weighed)
  const base = { ...emptyOutcome('found', [], 'meltRate'), points, scale: 'weighed' as const }
  const fits = new Set(points.map((p) => p.x)).size < 4 ? [] : sticksThrough(points)
  const fit = fits.at(0)
  if (!fit) return { ...base, kind: 'few', reasons: [outcomeReason('weigh-four')] }
  const [low, high] = rangeOf(points)
  const left = odd ? [outcomeReason('heap-left-out', { rate: odd.x, share: odd.y })] : []
  const common = { ...base, curve: curveOf(fit.at, low, high), r2: fit.r2, sd: fit.sd }
  if (fit.sd > MOST_SD) return { ...common, ...disagreement('meltRate') }
  if (fit.slope >= 0 || fit.p > 0.05 || fit.at(high) > (1 - LOSS) * fit.level) {
    const next = {
      ...t.plan.steps,
      from: Number((high * 0.8).toFixed(1)),
      to: Number((high * 1.6).toFixed(1)),
    }
    return {
      ...common,
      kind: 'end',
      reasons: [
        outcomeReason('melts-all', { rate: high }),
        outcomeReason('print-next', { key: 'meltRate', from: next.from, to: next.to }),
        ...left,
      ],
      next,
    }
  }
  // no shape is known to be the true one: those that do about as well share the interval
  const lost = fits.filter((f) => f.sd <= AS_WELL * fit.sd).flatMap((f) => f.lostAt(LOSS) ?? [])
  const loss = lost[0].x
  const [from, to] = [Math.min(...lost.map((l) => l.low)), Math.max(...lost.map((l) => l.high))]
  const cap = MARGIN * loss
  const half = (MARGIN * (to - from)) / 2
  const value = roundVaried('meltCap', cap)
  return {
    ...common,
    best: cap,
    low: MARGIN * from,
    high: MARGIN * to,
    adopt: faultOf('meltCap', value) ? [] : [{ key: 'meltCap', value, plusMinus: Number(half.toFixed(1)) }],
    reasons: [outcomeReason('melt-loss', { loss, cap: value, plusMinus: half }), ...left],
  }
}
