import { cardOf } from '../../../material/cards'
import type { CriterionId } from '../../criteria'
import { pieceFault, stepReason } from '../../reasons'
import { heatTower } from '../../shared/heatTower'
import { stepsOf, type PieceDefinition } from '../piece'
import { fanOutcome } from './outcome'

const CRITERIA: readonly CriterionId[] = ['overhang', 'bridge', 'detail', 'surface', 'bonding']

export const FAN_TOWER: PieceDefinition = {
  name: 'Fan tower',
  what: 'Bands at stepped fan: overhang, bridge, a slender column, gloss, and a wall to snap.',
  place: 'band',
  places: 'bands',
  keys: ['fan'],
  across: [],
  counts: { min: 3, max: 9, usual: 6 },
  criteria: CRITERIA,
  settles: ['fan', 'fanOverhang', 'fanBridge'],
  above: ['cooling-too-strong'],
  below: ['cooling-too-weak'],
  lacks: ({ machine }) => (machine.fan.present ? null : pieceFault('piece-needs-fan')),
  propose: ({ filament }) => {
    const { rest } = cardOf(filament.family).fan
    return rest >= 80
      ? { steps: stepsOf('fan', 25, 100, 6), reason: stepReason('fan-quarter-to-full') }
      : rest <= 20
        ? { steps: stepsOf('fan', 0, 50, 6), reason: stepReason('fan-off-to-half') }
        : { steps: stepsOf('fan', 0, 100, 6), reason: stepReason('fan-off-to-full') }
  },
  build: heatTower,
  outcome: fanOutcome,
}
