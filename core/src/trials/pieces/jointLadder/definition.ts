import { stepReason } from '../../reasons'
import { stepsOf, type PieceDefinition } from '../piece'
import { jointLadder } from './build'
import { jointOutcome } from './outcome'

export const JOINT_LADDER: PieceDefinition = {
  name: 'Joint ladder',
  what: 'Joints printed in place with wider and wider gaps, upright or on their side: the smallest that moves.',
  place: 'joint',
  places: 'joints',
  keys: ['gap'],
  across: [],
  counts: { min: 4, max: 9, usual: 6 },
  criteria: ['free'],
  settles: ['contourOffset'],
  above: [],
  below: [],
  propose: () => ({ steps: stepsOf('gap', 0.1, 0.6, 6), reason: stepReason('tenth-to-six-tenths') }),
  build: jointLadder,
  outcome: jointOutcome,
}
