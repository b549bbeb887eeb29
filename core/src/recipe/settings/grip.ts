import { entriesOf, whenOn, whenSome } from './types'

const { number, toggle, choice } = entriesOf('grip')
const ofLayer = { percentOf: 'a solid layer' }
const SUPPORTED = { when: { key: 'supports', not: 'none' } }

export const GRIP = {
  skirtLoops: number('Skirt loops', 'loops', [0, 10, 1], 'Loops around the part that prime the nozzle.', {
    aka: ['skirt lines', 'priming loops'],
    inFile: {
      // a line laid beside the part or a brim primes as well
      read: (r) => (r.layerCount < 2 || (r.primed && !r.build.skirtLoops) ? null : r.build.skirtLoops),
      only: 'less',
    },
    write: (lines) => ({ kind: 'skirt', lines }),
  }),
  brimLines: number('Brim lines', 'lines', [0, 40, 1], 'Flat lines joined to the edge of the first layer.', {
    aka: ['brim width', 'brim loops'],
    inFile: {
      read: (r) => (r.layerCount > 1 && !r.base.raftLayers ? r.build.brimLines : null),
      slack: 1,
    },
    write: (lines, _, recipe) => ({ kind: 'brim', lines, gap: Number(recipe.brimGap?.value ?? 0) }),
    up: 'corners hold',
    down: 'nothing to trim',
  }),
  brimWidth: number('Brim line width', 'mm', [0.1, 2.5, 0.01], 'Width of the brim’s lines.', {
    ...whenSome('brimLines'),
    shareOf: 'nozzle-diameter',
  }),
  brimGap: number('Brim gap', 'mm', [0, 1, 0.01], 'Space between part and brim; 0 joins them.', {
    ...whenSome('brimLines'),
    aka: ['brim separation'],
  }),
  cornerTabs: number(
    'Corner tabs',
    'mm',
    [0, 30, 1],
    'Diameter of round tabs under the corners; 0 is none.',
    {
      aka: ['mouse ears', 'corner discs', 'anti-warp pads'],
      write: (diameter) => ({ kind: 'tabs', diameter }),
    },
  ),
  raft: toggle('Raft', 'A printed platform under the part.', {
    aka: ['raft under the part'],
    inFile: {
      read: (r) => (r.layerCount > 3 ? r.base.raftLayers > 0 : null),
      leftover: (there) => there,
    },
  }),
  raftBottomLayers: number(
    'Raft bottom layers',
    'layers',
    [1, 5, 1],
    'Thick layers that hold the bed.',
    whenOn('raft'),
  ),
  raftTopLayers: number(
    'Raft top layers',
    'layers',
    [1, 6, 1],
    'Normal layers the part stands on.',
    whenOn('raft'),
  ),
  raftMargin: number('Raft margin', 'mm', [0, 20, 0.5], 'How far the raft reaches beyond the part.', {
    ...whenOn('raft'),
    aka: ['raft expansion'],
  }),
  raftGap: number('Raft gap', 'mm', [0, 1, 0.01], 'Air between raft and part.', {
    ...whenOn('raft'),
    up: 'comes off easily',
    down: 'smoother underside',
  }),
  raftBottomWidth: number(
    'Raft bottom line width',
    'mm',
    [0.2, 4, 0.05],
    'Width of the bottom layer’s lines.',
    { ...whenOn('raft'), shareOf: 'nozzle-diameter' },
  ),
  raftBottomSpeed: number(
    'Raft bottom speed',
    'mm/s',
    [2, 60, 1],
    'Speed of the bottom layer.',
    whenOn('raft'),
  ),
  raftDensity: number(
    'Raft bottom density',
    '%',
    [20, 100, 5],
    'Share of the bottom layer that is plastic.',
    {
      ...whenOn('raft'),
      ...ofLayer,
      up: 'more grip',
      down: 'easier to remove',
    },
  ),
  raftTopWidth: number('Raft top line width', 'mm', [0.1, 2.5, 0.01], 'Width of the top layers’ lines.', {
    ...whenOn('raft'),
    shareOf: 'nozzle-diameter',
  }),
  raftTopSpeed: number('Raft top speed', 'mm/s', [2, 100, 1], 'Speed of the top layers.', whenOn('raft')),
  raftTopDensity: number('Raft top density', '%', [20, 100, 5], 'Share of the top layers that is plastic.', {
    ...whenOn('raft'),
    ...ofLayer,
    up: 'smoother underside',
    down: 'easier to remove',
  }),
  raftCrossing: number(
    'Raft crossing angle',
    '°',
    [0, 90, 5],
    'Angle of the part’s lines to the raft’s top lines.',
    whenOn('raft'),
  ),
  supports: choice(
    'Supports',
    'What carries faces that hang.',
    [
      { value: 'none', label: 'none' },
      { value: 'bed', label: 'from the bed' },
      { value: 'everywhere', label: 'from the part too' },
    ],
    {
      aka: ['support material', 'scaffold'],
    },
  ),
  supportAngle: number(
    'Support from',
    '°',
    [30, 85, 1],
    'Faces that hang farther than this from upright are carried.',
    { ...SUPPORTED, aka: ['overhang angle', 'support threshold'], up: 'less to remove', down: 'less sag' },
  ),
  supportDensity: number('Support density', '%', [5, 60, 1], 'Share of the supports that is plastic.', {
    ...SUPPORTED,
    percentOf: 'a solid support',
    up: 'face lies truer',
    down: 'comes off easily',
  }),
  supportGap: number('Support gap', 'mm', [0, 1, 0.01], 'Air between supports and the face they carry.', {
    aka: ['support distance', 'support air gap'],
    shareOf: 'layerHeight',
    up: 'comes off cleanly, face sags more',
    down: 'face lies truer, scars stay',
  }),
  draughtWall: number(
    'Draught wall',
    'lines',
    [0, 5, 1],
    'A thin wall around the part that keeps moving air off; 0 is none.',
    {
      aka: ['draft shield', 'wind guard'],
      inFile: { read: (r) => r.build.draughtWall },
      write: (lines) => ({ kind: 'draught-wall', lines }),
    },
  ),
}
