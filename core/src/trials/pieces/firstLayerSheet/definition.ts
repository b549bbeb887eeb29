import { gradedResponse } from '../../shared/response'
import { stepReason } from '../../reasons'
import {
  stepsAround,
  stepsOf,
  stepsWithin,
  type PairOnBench,
  type PieceDefinition,
  type StepProposal,
} from '../piece'
import { firstLayerSheet } from './build'

/** As far up and down as a sheet of paper is thick, and never into the bed. */
function heights({ machine, recipe }: PairOnBench): StepProposal {
  const from = Math.max(-0.6 * recipe.firstHeight.value, recipe.zOffset.value - 0.08)
  return {
    steps: stepsWithin(machine, stepsOf('zOffset', from, from + 0.16, 9)),
    reason: stepReason('paper-each-side'),
  }
}

export const FIRST_LAYER_SHEET: PieceDefinition = {
  name: 'First-layer sheet',
  what: 'Patches of one layer at stepped heights of the nozzle: which one closes without being ploughed.',
  place: 'patch',
  places: 'patches',
  keys: ['zOffset', 'flowFirst', 'firstWidth'],
  across: [],
  counts: { min: 4, max: 9, usual: 9 },
  criteria: ['sheet'],
  settles: ['zOffset', 'flowFirst', 'firstWidth'],
  above: ['nozzle-gap-too-large'],
  below: ['nozzle-gap-too-small'],
  propose: (pair, key) =>
    key === 'flowFirst'
      ? { steps: stepsAround(pair, key, 16, 9), reason: stepReason('flow-each-side') }
      : key === 'firstWidth'
        ? { steps: stepsAround(pair, key, 0.12, 9), reason: stepReason('width-each-side') }
        : heights(pair),
  build: firstLayerSheet,
  outcome: gradedResponse(['sheet']),
}
