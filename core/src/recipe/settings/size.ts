import { entriesOf } from './types'

const { number } = entriesOf('size')
const ofDrawn = { percentOf: 'the drawn size', aka: ['shrinkage compensation', 'scaling'] }

export const SIZE = {
  contourOffset: number(
    'Contour offset',
    'mm',
    [-0.5, 0.5, 0.005],
    'Moves every outline; negative shrinks, positive grows.',
    {
      aka: ['XY compensation', 'size compensation', 'tolerance'],
      up: 'part grows',
      down: 'fused joints come free',
    },
  ),
  holeOffset: number(
    'Hole offset',
    'mm',
    [-0.5, 0.5, 0.005],
    'Moves the edge of holes only; positive opens them.',
    { aka: ['hole compensation', 'hole expansion'], up: 'larger holes', down: 'smaller holes' },
  ),
  footTrim: number('Foot trim', 'mm', [0, 1, 0.01], 'Pulls the first layers in against elephant’s foot.', {
    aka: ['elephant’s foot compensation', 'first layer expansion'],
  }),
  scaleX: number('Scale X', '%', [95, 105, 0.01], 'Makes up for shrinking along X.', ofDrawn),
  scaleY: number('Scale Y', '%', [95, 105, 0.01], 'Makes up for shrinking along Y.', ofDrawn),
  scaleZ: number('Scale Z', '%', [95, 105, 0.01], 'Makes up for shrinking along Z.', ofDrawn),
}
