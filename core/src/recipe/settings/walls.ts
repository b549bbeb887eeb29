import { Feature } from '../../toolpath/features'
import type { PathReading } from '../../toolpath/reading'
import { entriesOf, whenSome, type ValuesByKey } from './types'

const { number, choice, toggle } = entriesOf('walls')
/** Less of what fills than this share of the walls' length: there is no room between the walls. Common practice, no source. */
const ROOM = 0.15
/** A part too thin for all of its walls, and so for what lies within them: it says nothing of either. */
function isThin(r: PathReading, recipe: ValuesByKey): boolean {
  const length = (...of: Feature[]) => of.reduce<number>((sum, f) => sum + r.features[f].length, 0)
  return (
    r.build.walls !== null &&
    r.build.walls > 1 &&
    r.build.walls < Number(recipe.wallCount.value) &&
    length(Feature.Solid, Feature.Infill) < ROOM * length(Feature.Outer, Feature.Inner)
  )
}
const noRoom = (r: PathReading, recipe: ValuesByKey) => isSpiral(r, recipe) || isThin(r, recipe)

/** A file with one rising wall, where that is meant, has no more walls and no top. */
const isSpiral = (r: PathReading, recipe: ValuesByKey) => r.spiral && recipe.spiral.value === true
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
    inFile: {
      read: (r) =>
        r.layerCount > 1 && r.features[Feature.Outer].length ? r.features[Feature.Outer].width : null,
      slack: (recipe) => 0.15 * recipe,
    },
  }),
  innerWidth: number('Inner line width', 'mm', [0.1, 2, 0.01], 'Width of the inner walls’ lines.', ofNozzle),
  fillWidth: number('Infill line width', 'mm', [0.1, 2, 0.01], 'Width of the infill’s lines.', ofNozzle),
  solidWidth: number(
    'Solid layer line width',
    'mm',
    [0.1, 2, 0.01],
    'Width of the lines of bottoms, of tops but their last layer, and of bridges.',
    { ...ofNozzle, aka: ['bottom line width'], up: 'fewer lines, quicker', down: 'closes small places' },
  ),
  topWidth: number('Top face line width', 'mm', [0.1, 2, 0.01], 'Width of the lines of a top’s last layer.', {
    ...ofNozzle,
    aka: ['top line width'],
    up: 'fewer lines to see',
    down: 'finer face',
  }),
  wallCount: number('Walls', 'lines', [1, 12, 1], 'Lines side by side in a wall.', {
    aka: ['perimeters', 'shells', 'outlines', 'wall count'],
    inFile: {
      read: (r) => (r.spiral ? 1 : r.build.walls),
      leftover: (v) => v === 1,
      explained: noRoom,
    },
  }),
  firstWalls: number(
    'Walls, first layer',
    'lines',
    [1, 12, 1],
    'Lines side by side in the walls of the first layer; one leaves a decorative base to its pattern.',
    { aka: ['first layer perimeters'], up: 'outline holds better', down: 'base shows its pattern' },
  ),
  spiral: toggle(
    'Single-wall spiral',
    'One wall that rises without a seam over the bottom layers; no top, no infill.',
    {
      aka: ['vase', 'single-wall mode'],
      inFile: { read: (r) => (r.layerCount > 3 ? r.spiral : null), leftover: (on) => on },
    },
  ),
  topLayers: number('Top layers', 'layers', [0, 30, 1], 'Solid layers that close the top.', {
    aka: ['top thickness', 'roof'],
    inFile: {
      read: (r) => (r.spiral ? 0 : r.build.topLayers),
      leftover: (v) => v === 0,
      explained: noRoom,
    },
  }),
  bottomLayers: number('Bottom layers', 'layers', [0, 30, 1], 'Solid layers at the base.', {
    aka: ['bottom thickness', 'floor'],
    // on a raft the base lies on lines with gaps
    inFile: {
      read: (r) => (r.base.raftLayers ? null : r.build.bottomLayers),
      leftover: (v) => v === 0,
      explained: noRoom,
    },
  }),
  sparseDensity: number('Infill density', '%', [0, 100, 1], 'Share of the inside that is plastic.', {
    aka: ['infill percentage', 'fill'],
    percentOf: 'a solid inside',
    inFile: {
      read: (r) => r.build.sparseDensity,
      slack: (recipe) => 4 + 0.25 * recipe,
      explained: isThin,
    },
    up: 'stiffer',
    down: 'softer, lighter',
  }),
  sparseKind: choice(
    'Infill kind',
    'How the infill’s lines run.',
    [
      { value: 'lines', label: 'lines' },
      { value: 'grid', label: 'grid' },
      { value: 'gyroid', label: 'gyroid' },
    ],
    { aka: ['infill pattern', 'fill pattern'], ...whenSome('sparseDensity') },
  ),
  wallOrder: choice(
    'Wall order',
    'Which wall of a layer is laid first.',
    [
      { value: 'inside-first', label: 'inside first' },
      { value: 'outside-first', label: 'outside first' },
    ],
    { aka: ['outer wall first', 'perimeter order'], inFile: { read: (r) => r.build.wallOrder } },
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
    {
      aka: ['seam position', 'seam alignment', 'start point of loops', 'z seam'],
      inFile: {
        read: (r) => {
          if (r.seam.count <= 8 || r.seam.stacked === null) return null
          if (r.seam.stacked < 0.4) return 'scattered'
          if (r.seam.stacked < 0.8) return null
          return r.seam.outwardCorner + r.seam.inwardCorner > 0.8 ? 'tucked' : 'stacked'
        },
        // where a seam is stacked, whether by a corner or by a side does not show
        agrees: (recipe, file) => (recipe === 'scattered') === (file === 'scattered'),
      },
      write: (place, _, recipe) => ({ kind: 'seam', place, direction: Number(recipe.seamDirection.value) }),
    },
  ),
  seamDirection: number(
    'Seam direction',
    '°',
    [0, 359, 1],
    'The side a turned-away seam faces; 90 is the back.',
    { when: { key: 'seamPlace', is: 'turned-away' } },
  ),
}
