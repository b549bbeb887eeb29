import { roundTo, settingOf } from '../../../recipe/settings'
import { outcomeReason, stepReason } from '../../reasons'
import { thresholdOutcome } from '../../shared/threshold'
import { stepsOf, type PieceDefinition } from '../piece'
import { jointLadder } from './build'

/** Gap that parts which print in place are usually drawn with, mm. Common practice, no source. */
const DRAWN_GAP = 0.2

export const JOINT_LADDER: PieceDefinition = {
  name: 'Joint ladder',
  what: 'Pins printed in their sockets with wider and wider gaps: the smallest that turns.',
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
  outcome: thresholdOutcome({
    key: 'gap',
    criterion: 'free',
    easierUpwards: true,
    none: outcomeReason('no-joint-good'),
    disagree: outcomeReason('joints-disagree'),
    found: (gap, below) => outcomeReason('smallest-gap', { gap, below }),
    adopt: (gap, below) => {
      const offset = -(gap - DRAWN_GAP) / 2
      return gap > DRAWN_GAP + 1e-9
        ? {
            values: [
              {
                key: 'contourOffset',
                value: roundTo(settingOf('contourOffset'), offset),
                plusMinus: Number(((gap - (below ?? 0)) / 4 || 0.02).toPrecision(2)),
              },
            ],
            why: [outcomeReason('offset-for-gap', { drawn: DRAWN_GAP, gap, offset })],
          }
        : { values: [], why: [outcomeReason('gap-as-drawn', { gap })] }
    },
    next: ({ to }) => ({ from: to, to: Math.min(1.5, to * 2) }),
  }),
}
