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
  counts: { min: 3, max: 9, usual: 8 },
  criteria: ['strings'],
  settles: ['retractLength', 'retractSpeed'],
  above: ['retraction-too-long'],
  below: ['retraction-too-short', 'retraction-off'],
  propose: ({ machine, filament, recipe }) => {
    const { kind, tubeLength } = machine.drive
    const direct = kind === 'direct'
    const soft = cardOf(filament.family).flexible
    const start = tubeRetraction(tubeLength)
    // steps close enough that the shortest clean one is worth something
    const [least, most] = soft
      ? [direct ? 0.2 : 1, direct ? 0.8 : 3]
      : direct
        ? [0.2, 1.6]
        : [Math.max(1, start - 3.6), Math.min(8, start + 2.4)]
    const count = soft ? 7 : direct ? 8 : 9
    return {
      steps: stepsOf('retractLength', Number(least.toFixed(1)), Number(most.toFixed(1)), count),
      reason: recipe.retract.value
        ? stepReason('little-to-above', { drive: kind })
        : stepReason('pulls-back-nothing'),
    }
  },
  build: retractionTower,
  outcome: retractionOutcome,
}
