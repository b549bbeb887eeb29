import { faultOf } from '../../../recipe/settings'
import { meanOf } from '../../../statistics/uncertainty'
import { flowFromWall } from '../../fits/wallFlow'
import { emptyOutcome, type Outcome, type OutcomeContext, type OutcomeRule } from '../../outcome'
import { outcomeReason } from '../../reasons'
import { bestOf, responseRule } from '../../shared/response'
import type { ReadTrial } from '../../types'
import { roundVaried } from '../../varied'

/** Flow from the measured wall, and the flow of solid layers from the strips. */
export const flowBoxOutcome: OutcomeRule = (trials, context) => {
  const t = trials[trials.length - 1]
  const out = emptyOutcome('found', [], 'flow')
  fromWall(t, context.recipe.flow.value, out)
  fromStrips([t], context, out)
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

/** The strips that are closed best; like all graded places they answer by what they show and by how surely. */
const strips = responseRule(['closed'], {
  least: 3,
  varies: bestOf,
  alike: (g) => ({ ...g.base, kind: 'flat' }),
})

function fromStrips(trials: readonly ReadTrial[], context: OutcomeContext, out: Outcome): void {
  const found = strips(trials, context)
  out.points = found.points
  if (found.kind === 'few') return
  const [taken] = found.adopt
  if (!taken) {
    out.reasons.push(outcomeReason('strips-show-no-best'))
    return
  }
  out.curve = found.curve
  out.r2 = found.r2
  out.sd = found.sd
  out.reasons.push(outcomeReason('solid-closes-best', { flow: taken.value }))
  out.adopt.push(taken)
}
