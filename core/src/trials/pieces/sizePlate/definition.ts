import { stepReason } from '../../reasons'
import { stepsOf, type PieceDefinition } from '../piece'
import { sizePlate } from './build'
import { sizePlateOutcome } from './outcome'

export const SIZE_PLATE: PieceDefinition = {
  name: 'Size plate',
  what: 'Bars, frames, bores, a square and a stair of known size, for calipers: contour, holes, scale, flare and angle.',
  place: 'bar',
  places: 'bars',
  keys: ['length'],
  across: [],
  counts: { min: 3, max: 6, usual: 4 },
  criteria: [],
  settles: ['contourOffset', 'holeOffset', 'scaleX', 'scaleY', 'scaleZ', 'footTrim'],
  above: [],
  below: [],
  propose: ({ machine }) => ({
    steps: stepsOf('length', 10, Math.min(70, Math.floor(machine.bed.width * 0.3)), 4),
    reason: stepReason('centimetre-to-third-of-bed'),
  }),
  speeds: true,
  build: sizePlate,
  outcome: sizePlateOutcome,
}
