import { stepReason } from '../../reasons'
import { gradedResponse } from '../../shared/response'
import { lacksPressure, mostPressure, stepsOf, type PieceDefinition } from '../piece'
import { pressureLines } from './build'

export const PRESSURE_LINES: PieceDefinition = {
  name: 'Pressure lines',
  what: 'Lines that go slow, fast and slow, each with another pressure compensation.',
  place: 'line',
  places: 'lines',
  keys: ['pressureCompensation'],
  across: [],
  counts: { min: 5, max: 15, usual: 11 },
  criteria: ['evenness'],
  settles: ['pressureCompensation'],
  above: ['pressure-compensation-too-high'],
  below: ['pressure-compensation-too-low', 'pressure-not-relieved'],
  lacks: lacksPressure,
  propose: ({ machine }) => {
    const top = mostPressure(machine)
    return {
      steps: stepsOf('pressureCompensation', 0, top, 11),
      reason: stepReason('none-to-most', { top, drive: machine.drive.kind }),
    }
  },
  build: pressureLines,
  outcome: gradedResponse(['evenness']),
}
