import { cardFor } from '../../../material/filling'
import type { CriterionId } from '../../criteria'
import { stepReason } from '../../reasons'
import { heatTower } from '../../shared/heatTower'
import { gradedResponse } from '../../shared/response'
import { stepsOf, type PieceDefinition } from '../piece'

const CRITERIA: readonly CriterionId[] = ['strings', 'bonding', 'overhang', 'bridge', 'surface']
/** Hotter bonds better, and strings and sags more. Common practice, no source. */
const LEANINGS = { bonding: 'rises', strings: 'falls', overhang: 'falls', bridge: 'falls' } as const

export const TEMPERATURE_TOWER: PieceDefinition = {
  name: 'Temperature tower',
  what: 'Bands at stepped nozzle heats, each with a fin, a bridge, a gap to string across and a wall to snap.',
  place: 'band',
  places: 'bands',
  keys: ['nozzle'],
  across: [],
  counts: { min: 3, max: 9, usual: 7 },
  criteria: CRITERIA,
  settles: ['nozzle'],
  above: ['nozzle-too-hot'],
  below: ['nozzle-too-cold'],
  propose: ({ machine, filament }) => {
    const range = filament.label.nozzle ?? cardFor(filament).nozzle
    const top = Math.min(range.max, machine.limits.nozzle)
    const count = Math.min(9, Math.max(4, Math.round((top - range.min) / 5) + 1))
    return {
      // hottest first: the bottom bands stand on a warm plate
      steps: stepsOf('nozzle', top, range.min, count),
      reason: stepReason('whole-range', {
        of: filament.label.nozzle ? 'label' : 'card',
        min: range.min,
        max: top,
      }),
    }
  },
  build: heatTower,
  outcome: gradedResponse(CRITERIA, LEANINGS),
}
