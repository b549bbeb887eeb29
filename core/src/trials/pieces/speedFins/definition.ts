import { machineLimit } from '../../../recipe/derive'
import type { CriterionId } from '../../criteria'
import { stepReason } from '../../reasons'
import { gradedResponse } from '../../shared/response'
import { stepsOf, stepsWithin, type PieceDefinition } from '../piece'
import { speedFins } from './build'

const CRITERIA: readonly CriterionId[] = ['ripples', 'surface']

export const SPEED_FINS: PieceDefinition = {
  name: 'Speed fins',
  what: 'A long face at stepped outer-wall speed or acceleration: gloss, and ripples after the corners.',
  place: 'band',
  places: 'bands',
  keys: ['outerSpeed', 'outerAcceleration'],
  across: [],
  counts: { min: 3, max: 8, usual: 6 },
  criteria: CRITERIA,
  settles: ['outerSpeed', 'outerAcceleration'],
  above: ['outer-wall-too-fast', 'acceleration-too-high'],
  below: [],
  propose: ({ machine, recipe }, wanted) => {
    const key = wanted === 'outerAcceleration' ? wanted : 'outerSpeed'
    const now = recipe[key].value
    const top = machineLimit(key, machine) ?? now * 2
    return {
      steps: stepsWithin(machine, stepsOf(key, now * 0.5, Math.min(top, now * 1.75), 6)),
      reason: stepReason('half-to-twice'),
    }
  },
  build: speedFins,
  // faster never ripples less
  outcome: gradedResponse(CRITERIA, { ripples: 'falls' }),
}
