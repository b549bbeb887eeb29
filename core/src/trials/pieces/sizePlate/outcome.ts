import { coefficientInterval, linearFit } from '../../../statistics/regression'
import { meanOf } from '../../../statistics/uncertainty'
import { curveOf } from '../../fits/points'
import { emptyOutcome, type OutcomeRule } from '../../outcome'
import { outcomeReason } from '../../reasons'
import { rangeOf } from '../../shared/graded'

/** A constant error and one that grows with the length, from the outsides; the mean error of the insides. */
export const sizePlateOutcome: OutcomeRule = (trials) => {
  const t = trials[trials.length - 1]
  const rows = t.cells.flatMap((c) => {
    const measures = t.readings[c.id]?.measures ?? []
    return measures.length && c.nominal
      ? [{ cell: c, nominal: c.nominal, error: meanOf(measures).mean - c.nominal }]
      : []
  })
  const outside = rows.filter((r) => r.cell.measure === 'outside' && r.cell.axis !== 'z')
  const inside = rows.filter((r) => r.cell.measure === 'inside')
  const points = outside.map((r) => ({ x: r.nominal, y: r.error, weight: 1, trial: t.number }))
  const base = { ...emptyOutcome('found', [], 'length'), points, scale: 'error' as const }
  const fit =
    new Set(points.map((p) => p.x)).size < 3
      ? null
      : linearFit(
          points.map((p) => [1, p.x]),
          points.map((p) => p.y),
        )
  if (!fit) return { ...base, kind: 'few', reasons: [outcomeReason('measure-three-bars')] }
  const stands = (i: number) => {
    if (fit.dof <= 0) return false
    const [low, high] = coefficientInterval(fit, i)
    return low > 0 || high < 0
  }
  const [constant, slope] = fit.coefficients
  return {
    ...base,
    kind: stands(0) || stands(1) ? 'found' : 'flat',
    reasons: [
      stands(0) ? outcomeReason('outside-constant', { error: constant }) : outcomeReason('no-constant-error'),
      stands(1) ? outcomeReason('length-error', { share: slope * 100 }) : outcomeReason('nothing-grows'),
      ...(inside.length
        ? [
            outcomeReason('inside-average', {
              error: inside.reduce((s, r) => s + r.error, 0) / inside.length,
            }),
          ]
        : []),
    ],
    curve: curveOf((x) => constant + slope * x, ...rangeOf(points), 2),
    r2: fit.r2,
    sd: fit.sd,
  }
}
