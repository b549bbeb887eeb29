import { stepReason } from '../../reasons'
import { stepsAround, stepsOf, type PieceDefinition } from '../piece'
import { flowBox } from './build'
import { flowBoxOutcome } from './outcome'

export const FLOW_BOX: PieceDefinition = {
  name: 'Flow box',
  what: 'A thin-walled box to measure, and strips of solid layers at stepped flows.',
  place: 'strip',
  places: 'strips',
  keys: ['flowSolid'],
  across: ['wallCount'],
  counts: { min: 3, max: 5, usual: 5 },
  criteria: ['closed'],
  settles: ['flow', 'flowSolid'],
  above: ['flow-too-high'],
  below: ['flow-too-low', 'solid-fill-starved'],
  propose: (pair) => ({
    steps: stepsAround(pair, 'flowSolid', 6, 5),
    // not stepped: how many walls the box has
    across: stepsOf('wallCount', 2, 2, 1),
    reason: stepReason('solid-flow-each-side'),
  }),
  build: flowBox,
  outcome: flowBoxOutcome,
}
