import { faultOf } from '../../../recipe/settings'
import { meanOf } from '../../../statistics/uncertainty'
import { curveOf } from '../../fits/points'
import { peakResponse, variesP } from '../../fits/peak'
import { flowFromWall } from '../../fits/wallFlow'
import { LEAST_SD, MOST_SD, emptyOutcome, type Outcome, type OutcomeRule } from '../../outcome'
import { outcomeReason } from '../../reasons'
import { gradedPoints, rangeOf } from '../../shared/graded'
import { BY_ACCIDENT } from '../../shared/response'
import type { ReadTrial } from '../../types'
import { roundVaried } from '../../varied'

/** Flow from the measured wall, and the flow of solid layers from the strips. */
export const flowBoxOutcome: OutcomeRule = (trials, { recipe }) => {
  const t = trials[trials.length - 1]
  const out = emptyOutcome('found', [], 'flow')
  fromWall(t, recipe.flow.value, out)
  fromStrips(t, out)
  return out.reasons.length ? out : emptyOutcome('few', [outcomeReason('measure-wall-or-strips')], 'flow')
}

function fromWall(t: ReadTrial, present: number, out: Outcome): void {
  const box = t.cells.find((c) => c.measure === 'wall')
  const measures = (box && t.readings[box.id]?.measures) ?? []
  if (!box || box.nominal === undefined || !measures.length) return
  const found = flowFromWall(measures, box.nominal, box.values.flow ?? present, t.resolution)
  const value = roundVaried('flow', found.value)
  out.best = found.value
  out.low = found.value - found.expanded
  out.high = found.value + found.expanded
  out.reasons.push(
    outcomeReason('wall-flow', {
      measured: meanOf(measures).mean,
      nominal: box.nominal,
      flow: value,
      plusMinus: found.expanded,
    }),
  )
  if (measures.length < 3) out.reasons.push(outcomeReason('measure-all-sides'))
  const plusMinus = Number(found.expanded.toFixed(2))
  // what cannot be told from the value in use confirms it: another one would only be the caliper's scatter
  if (Math.abs(found.value - present) < found.expanded) {
    out.reasons.push(outcomeReason('in-use-within', { flow: present }))
    out.adopt.push({ key: 'flow', value: present, plusMinus })
    return
  }
  const fault = faultOf('flow', value)
  if (fault) out.reasons.push(fault)
  else out.adopt.push({ key: 'flow', value, plusMinus })
}

function fromStrips(t: ReadTrial, out: Outcome): void {
  const strips = gradedPoints([t], 'flowSolid', ['closed'])
  if (new Set(strips.map((p) => p.x)).size < 3) return
  out.points = strips
  const fit = peakResponse(strips, LEAST_SD)
  if (!fit || !fit.inside || fit.sd > MOST_SD || variesP(strips) > BY_ACCIDENT) {
    out.reasons.push(outcomeReason('strips-show-no-best'))
    return
  }
  out.curve = curveOf(fit.at, ...rangeOf(strips))
  out.r2 = fit.r2
  out.sd = fit.sd
  const value = roundVaried('flowSolid', fit.best)
  out.reasons.push(outcomeReason('solid-closes-best', { flow: value }))
  if (!faultOf('flowSolid', value))
    out.adopt.push({ key: 'flowSolid', value, plusMinus: Number(((fit.high - fit.low) / 2).toFixed(1)) })
}
