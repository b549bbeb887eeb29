import { outcomeReason, stepReason } from '../../reasons'
import { thresholdOutcome } from '../../shared/threshold'
import { stepsOf, type PieceDefinition } from '../piece'
import { bridgeComb } from './build'

export const BRIDGE_COMB: PieceDefinition = {
  name: 'Bridge comb',
  what: 'Bars over wider and wider gaps: how far this pair bridges.',
  place: 'bridge',
  places: 'bridges',
  keys: ['span'],
  across: [],
  counts: { min: 3, max: 7, usual: 5 },
  criteria: ['bridge'],
  settles: [],
  above: [],
  below: [],
  propose: ({ machine }) => ({
    steps: stepsOf('span', 10, Math.min(50, Math.round(machine.bed.width / 4)), 5),
    reason: stepReason('one-to-five-centimetres'),
  }),
  build: bridgeComb,
  outcome: thresholdOutcome({
    key: 'span',
    criterion: 'bridge',
    easierUpwards: false,
    none: outcomeReason('no-bridge-good'),
    disagree: outcomeReason('bridges-disagree'),
    found: (span, beyond) => outcomeReason('bridges-up-to', { span, beyond }),
    next: ({ from }) => ({ from: Math.max(3, from / 3), to: from }),
  }),
}
