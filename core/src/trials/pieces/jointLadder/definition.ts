import { outcomeReason, stepReason } from '../../reasons'
import { thresholdOutcome } from '../../shared/threshold'
import { stepsOf, type PieceDefinition } from '../piece'
import { jointLadder } from './build'

export const JOINT_LADDER: PieceDefinition = {
  name: 'Joint ladder',
  what: 'Pins printed in their sockets with wider and wider gaps: the smallest that turns.',
  place: 'joint',
  places: 'joints',
  keys: ['gap'],
  across: [],
  counts: { min: 4, max: 9, usual: 6 },
  criteria: ['free'],
  settles: [],
  above: [],
  below: [],
  propose: () => ({ steps: stepsOf('gap', 0.1, 0.6, 6), reason: stepReason('tenth-to-six-tenths') }),
  build: jointLadder,
  outcome: thresholdOutcome({
    key: 'gap',
    criterion: 'free',
    easierUpwards: true,
    none: outcomeReason('no-joint-good'),
    disagree: outcomeReason('joints-disagree'),
    found: (gap, below) => outcomeReason('smallest-gap', { gap, below }),
    next: ({ to }) => ({ from: to, to: Math.min(1.5, to * 2) }),
  }),
}
