import { stepReason } from '../../reasons'
import { gradedResponse } from '../../shared/response'
import { lacksPressure, mostPressure, stepsOf, type PieceDefinition } from '../piece'
import { cornerColumns } from './build'

export const CORNER_COLUMNS: PieceDefinition = {
  name: 'Corner columns',
  what: 'Square columns, each with another pressure compensation: bulging or hollow corners tell.',
  place: 'column',
  places: 'columns',
  keys: ['pressureCompensation'],
  across: [],
  counts: { min: 3, max: 9, usual: 6 },
  criteria: ['corners'],
  settles: ['pressureCompensation'],
  above: ['pressure-compensation-too-high'],
  below: ['pressure-compensation-too-low', 'pressure-not-relieved'],
  lacks: lacksPressure,
  propose: ({ machine }) => {
    const top = mostPressure(machine)
    return {
      steps: stepsOf('pressureCompensation', 0, top, 6),
      reason: stepReason('none-to-most', { top, drive: machine.drive.kind }),
    }
  },
  build: cornerColumns,
  outcome: gradedResponse(['corners']),
}
