import { tubeRetraction } from '../../../machine/machine'
import { cardOf } from '../../../material/cards'
import { stepReason } from '../../reasons'
import { stepsOf, type PieceDefinition } from '../piece'
import { retractionTower } from './build'
import { retractionOutcome } from './outcome'

export const RETRACTION_TOWER: PieceDefinition = {
  name: 'Retraction tower',
  what: 'Two posts far apart; each band pulls back another length. The shortest that stays clean is wanted.',
  place: 'band',
  places: 'bands',
  keys: ['retractLength'],
  across: ['retractSpeed'],
  counts: { min: 3, max: 9, usual: 7 },
  criteria: ['strings'],
  settles: ['retractLength', 'retractSpeed'],
  above: ['retraction-too-long'],
  below: ['retraction-too-short', 'retraction-off'],
  propose: ({ machine, filament }) => {
    const { kind, tubeLength } = machine.drive
    const direct = kind === 'direct'
    const soft = cardOf(filament.family).flexible
    const most = soft ? (direct ? 0.8 : 3) : direct ? 2 : Math.min(8, tubeRetraction(tubeLength) + 3)
    return {
      steps: stepsOf('retractLength', direct ? 0.2 : 1, Number(most.toFixed(1)), 7),
      reason: stepReason('little-to-above', { drive: kind }),
    }
  },
  build: retractionTower,
  outcome: retractionOutcome,
}
