import { stepReason } from '../../reasons'
import { stepsOf, type PieceDefinition } from '../piece'
import { layerTimePair } from './build'
import { layerTimeOutcome } from './outcome'

export const LAYER_TIME_PAIR: PieceDefinition = {
  name: 'Layer-time pair',
  what: 'The same column two at a time and then alone: whether time between layers is what it lacks.',
  place: 'half',
  places: 'halves',
  keys: ['posts'],
  across: [],
  counts: { min: 2, max: 2, usual: 2 },
  criteria: ['detail', 'surface'],
  settles: ['minLayerTime'],
  timed: true,
  above: ['layer-time-too-short'],
  below: [],
  propose: () => ({ steps: stepsOf('posts', 2, 1, 2), reason: stepReason('two-then-one') }),
  build: layerTimePair,
  outcome: layerTimeOutcome,
}
