import { stepReason } from '../../reasons'
import { stepsOf, type PieceDefinition } from '../piece'
import { seamColumns } from './build'
import { seamOutcome } from './outcome'

export const SEAM_COLUMNS: PieceDefinition = {
  name: 'Seam columns',
  what: 'Columns with stepped early stop and wipe; starts stacked in the lower half and scattered in the upper.',
  place: 'column',
  places: 'columns',
  keys: ['earlyStop', 'flowOuter'],
  across: ['wipe', 'flowOuter'],
  counts: { min: 2, max: 4, usual: 3 },
  criteria: ['seam'],
  settles: ['earlyStop', 'wipe', 'flowOuter'],
  above: ['loop-start-starved'],
  below: ['loop-end-overfill'],
  propose: ({ machine }, key) => {
    const d = machine.nozzle.diameter
    return {
      steps:
        key === 'flowOuter'
          ? stepsOf('flowOuter', 94, 100, 3)
          : stepsOf('earlyStop', 0, Number((2 * d ** 3).toFixed(2)), 3),
      across: stepsOf('wipe', 0, d, 2),
      reason: stepReason('early-stop-and-wipe'),
    }
  },
  build: seamColumns,
  outcome: seamOutcome,
}
