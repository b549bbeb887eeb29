import { quantity } from '../../quantity/format'
import type { PlanFaults } from '../../planner/planError'
import { plain, type Sentences } from './sentences'

export const planFaultSentences: Sentences<PlanFaults> = {
  'part-too-wide': plain('The part is wider than the bed: turn it, or make it smaller.'),
  'part-too-tall': plain('The part is taller than the machine: lay it down, or make it smaller.'),
  'part-too-many-layers': plain('These are more layers than can be laid: take higher ones.'),
  'spiral-in-pieces': plain(
    'A single-wall spiral has one outline in each layer: this part has several. Switch the spiral off, or turn the part.',
  ),
  'too-tall-one-by-one': ({ height, under }) =>
    `One copy after another may be ${quantity(under, 'mm', 0)} tall, so that the head clears them; this part has ${quantity(height, 'mm', 1)}. Lay them together.`,
  'no-room-for-copies': ({ copies }) => `The bed has no room for ${copies} copies: take fewer.`,
  'nothing-laid': plain(
    'Nothing of this part is thick enough for a line: make it larger, or lines narrower.',
  ),
}
