import { quantity } from '../../quantity/format'
import type { PlanFaults } from '../../planner/planError'
import { plain, type Sentences } from './sentences'

export const planFaultSentences: Sentences<PlanFaults> = {
  'part-too-wide': plain('The part is wider than the bed. Turn it or make it smaller.'),
  'part-too-tall': plain('The part is taller than the machine. Lay it down or make it smaller.'),
  'part-too-many-layers': plain('This part has too many layers. Use a larger layer height.'),
  'spiral-in-pieces': plain(
    'A single-wall spiral needs one outline in each layer, but this part has several. Switch the spiral off or turn the part.',
  ),
  'too-tall-one-by-one': ({ height, under }) =>
    `One copy after another may be ${quantity(under, 'mm', 0)} tall, so that the head clears them; this part has ${quantity(height, 'mm', 1)}. Print them together.`,
  'no-room-for-copies': ({ copies }) => `The bed has no room for ${copies} copies. Print fewer.`,
  'nothing-laid': plain(
    'Nothing on this part is thick enough for a line. Make the part larger or the lines narrower.',
  ),
}
