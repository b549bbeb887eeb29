import { entriesOf } from './types'

const { number } = entriesOf('speed')

/** In the order in which they show on the part: what is looked at first, then what is hidden. */
export const SPEED = {
  outerSpeed: number('Outer wall', 'mm/s', [3, 500, 1], 'Speed of the outer wall.', {
    aka: ['outer perimeter speed', 'outline speed', 'print speed'],
    shareOf: 'innerSpeed',
    up: 'saves time',
    down: 'better face',
    inFile: {
      read: (r) => (r.layerCount > 1 ? r.rest.outerSpeed : null),
      slack: (recipe) => Math.max(2, 0.1 * recipe),
    },
  }),
  topSpeed: number('Top face', 'mm/s', [3, 500, 1], 'Speed of the last layer of a top.', {
    aka: ['top layer speed'],
  }),
  bridgeSpeed: number('Bridges', 'mm/s', [3, 200, 1], 'Speed of lines laid over air.', {
    shareOf: 'outerSpeed',
  }),
  smallLoopSpeed: number('Small loops', 'mm/s', [3, 300, 1], 'Speed of short closed loops.', {
    aka: ['hole speed'],
    shareOf: 'outerSpeed',
  }),
  smallLoopLength: number(
    'Small loops, up to',
    'mm',
    [0, 100, 1],
    'Loops no longer than this count as small.',
  ),
  innerSpeed: number('Inner walls', 'mm/s', [3, 500, 1], 'Speed of the inner walls.', {
    aka: ['print speed', 'perimeter speed'],
  }),
  solidSpeed: number(
    'Solid layers',
    'mm/s',
    [3, 500, 1],
    'Speed of bottoms, of tops but their last layer, and of every full layer.',
  ),
  sparseSpeed: number('Infill', 'mm/s', [3, 500, 1], 'Speed of the infill.', { aka: ['print speed'] }),
  travelSpeed: number('Travel', 'mm/s', [10, 1000, 5], 'Speed without feeding.', {
    aka: ['non-print move', 'rapid'],
    up: 'fewer strings, more ringing',
    down: 'gentler',
    inFile: { read: (r) => r.travel.speed, slack: 8 },
  }),
  outerAcceleration: number(
    'Acceleration, outer wall',
    'mm/s²',
    [50, 30000, 50],
    'How hard the outer wall speeds up.',
    { up: 'saves time', down: 'less ghosting' },
  ),
  innerAcceleration: number(
    'Acceleration, rest',
    'mm/s²',
    [50, 30000, 50],
    'How hard everything else speeds up.',
  ),
  travelAcceleration: number('Acceleration, travel', 'mm/s²', [50, 30000, 50], 'How hard travels speed up.'),
  firstAcceleration: number(
    'Acceleration, first layer',
    'mm/s²',
    [50, 30000, 50],
    'How hard the first layer speeds up.',
  ),
  cornerChange: number(
    'Corner change',
    'mm/s',
    [0.1, 50, 0.1],
    'Speed that may change at once in a corner (jerk).',
    { aka: ['jerk', 'instantaneous speed change'], up: 'faster corners', down: 'less ghosting' },
  ),
  junctionDeviation: number(
    'Junction deviation',
    'mm',
    [0.001, 0.5, 0.001],
    'How far a corner may be cut, for firmware with this rule.',
    { aka: ['cornering'], up: 'faster corners', down: 'less ghosting' },
  ),
}
