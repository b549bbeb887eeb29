import { stepReason } from '../../reasons'
import { stepsOf, type PieceDefinition } from '../piece'
import { meltRateRun } from './build'
import { meltRateOutcome } from './outcome'

export const MELT_RATE_RUN: PieceDefinition = {
  name: 'Melt-rate run',
  what: 'The same volume fed at rising rates, one heap each, to be weighed: where less comes out is the cap. It takes a scale that shows 0.01 g: a heap weighs about a quarter of a gram.',
  place: 'heap',
  places: 'heaps',
  keys: ['meltRate'],
  across: [],
  counts: { min: 5, max: 12, usual: 8 },
  criteria: [],
  settles: ['meltCap'],
  above: ['melt-rate-exceeded'],
  below: [],
  propose: ({ recipe }) => {
    const cap = recipe.meltCap.value
    return {
      steps: stepsOf('meltRate', Number((cap * 0.4).toFixed(1)), Number((cap * 1.8).toFixed(1)), 8),
      reason: stepReason('under-to-over-cap', { cap }),
    }
  },
  build: meltRateRun,
  outcome: meltRateOutcome,
}
