import { entriesOf } from './types'

const { number, choice } = entriesOf('walls')
const ofNozzle = { shareOf: 'nozzle-diameter' }

export const WALLS = {
  layerHeight: number('Layer height', 'mm', [0.04, 0.8, 0.01], 'Height of every layer after the first.', {
    ...ofNozzle,
    aka: ['layer thickness', 'resolution'],
    up: 'faster, stronger',
    down: 'finer steps',
    inFile: { read: (r) => (r.layerCount > 1 ? r.layerHeight : null), slack: 0.006 },
  }),
  outerWidth: number('Outer line width', 'mm', [0.1, 2, 0.01], 'Width of the outer wall’s line.', {
    ...ofNozzle,
    aka: ['extrusion width'],
  }),
  innerWidth: number('Inner line width', 'mm', [0.1, 2, 0.01], 'Width of the inner walls’ lines.', ofNozzle),
  fillWidth: number(
    'Infill line width',
    'mm',
    [0.1, 2, 0.01],
    'Width of the lines of infill and solid layers.',
    ofNozzle,
  ),
  wallCount: number('Walls', 'lines', [1, 12, 1], 'Lines side by side in a wall.', {
    aka: ['perimeters', 'shells', 'outlines', 'wall count'],
  }),
  topLayers: number('Top layers', 'layers', [0, 30, 1], 'Solid layers that close the top.', {
    aka: ['top thickness', 'roof'],
  }),
  bottomLayers: number('Bottom layers', 'layers', [0, 30, 1], 'Solid layers at the base.', {
    aka: ['bottom thickness', 'floor'],
  }),
  sparseDensity: number('Infill density', '%', [0, 100, 1], 'Share of the inside that is plastic.', {
    aka: ['infill percentage', 'fill'],
    percentOf: 'a solid inside',
    up: 'stiffer',
    down: 'softer, lighter',
  }),
  wallOrder: choice(
    'Wall order',
    'Which wall of a layer is laid first.',
    [
      { value: 'inside-first', label: 'inside first' },
      { value: 'outside-first', label: 'outside first' },
    ],
    { aka: ['outer wall first', 'perimeter order'] },
  ),
  seamPlace: choice(
    'Seam place',
    'Where the loops of the outer wall start.',
    [
      { value: 'stacked', label: 'stacked' },
      { value: 'tucked', label: 'tucked into a corner' },
      { value: 'turned-away', label: 'turned away' },
      { value: 'scattered', label: 'scattered' },
    ],
    { aka: ['seam position', 'seam alignment', 'start point of loops', 'z seam'] },
  ),
  seamDirection: number(
    'Seam direction',
    '°',
    [0, 359, 1],
    'The side a turned-away seam faces; 90 is the back.',
    { when: { key: 'seamPlace', is: 'turned-away' } },
  ),
}
