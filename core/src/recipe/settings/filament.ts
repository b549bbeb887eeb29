import type { Lines } from '../../rewrite/change'
import { Feature } from '../../toolpath/features'
import { onBed } from '../../toolpath/onBed'
import { entriesOf, whenOn, type WriteIntoFile } from './types'

const { number } = entriesOf('filament')
const ofFlow = { percentOf: 'the overall flow' }

/** Scales what some lines are fed. */
const flowOf =
  (where: Lines): WriteIntoFile<number> =>
  (value, from) =>
    from ? { kind: 'flow', where, ratio: value / from } : null

export const FILAMENT = {
  diameter: number('Filament diameter', 'mm', [1, 3.2, 0.01], 'Mean diameter the feed is computed from.', {
    up: 'less is fed',
    down: 'more is fed',
    write: (value, from) => (from ? { kind: 'flow', where: 'all', ratio: (from / value) ** 2 } : null),
  }),
  density: number('Filament density', 'g/cm³', [0.5, 4, 0.01], 'Turns length into grams.'),
  meltCap: number(
    'Melt rate cap',
    'mm³/s',
    [0.2, 60, 0.1],
    'The most this hot end melts of this plastic; every speed is held under it.',
    {
      aka: ['maximum volumetric speed', 'volumetric flow rate', 'hot end limit'],
      up: 'faster lines',
      down: 'no starved lines',
    },
  ),
  flow: number('Flow, overall', '%', [70, 130, 0.5], 'Scales everything that is fed.', {
    aka: ['flow rate', 'flow multiplier', 'flow factor'],
    percentOf: 'the computed feed',
    up: 'closes gaps everywhere, walls grow',
    down: 'walls thin out, gaps open',
    write: flowOf('all'),
  }),
  flowFirst: number('Flow, first layer', '%', [70, 150, 0.5], 'Scales the feed of the first layer only.', {
    ...ofFlow,
    aka: ['first layer flow factor', 'overfeed'],
    up: 'fills gaps at the base, flares the edge',
    down: 'less flare',
    inFile: { read: (r) => onBed(r)?.flow, slack: 6, leftover: (v) => v >= 110 },
    write: flowOf('first'),
  }),
  flowOuter: number('Flow, outer wall', '%', [80, 120, 0.5], 'Scales the feed of the outer wall only.', {
    ...ofFlow,
    up: 'fuller face',
    down: 'smoother seam',
    write: flowOf(Feature.Outer),
  }),
  flowInner: number('Flow, inner walls', '%', [80, 120, 0.5], 'Scales the feed of the inner walls only.', {
    ...ofFlow,
    write: flowOf(Feature.Inner),
  }),
  flowSolid: number(
    'Flow, solid layers',
    '%',
    [80, 120, 0.5],
    'Scales the feed of bottoms, tops and every full layer.',
    {
      ...ofFlow,
      aka: ['solid infill flow', 'top and bottom flow'],
      up: 'closes gaps in solid layers',
      down: 'smoother top',
      write: flowOf(Feature.Solid),
    },
  ),
  flowSparse: number('Flow, infill', '%', [80, 120, 0.5], 'Scales the feed of the infill.', {
    ...ofFlow,
    write: flowOf(Feature.Infill),
  }),
  flowOverRaft: number(
    'Flow over a raft',
    '%',
    [60, 120, 0.5],
    'Scales the feed of the part’s first layer where it lies on a raft.',
    { ...whenOn('raft'), ...ofFlow },
  ),
  flowBridge: number('Flow, bridges', '%', [60, 130, 0.5], 'Scales the feed of lines laid over air.', {
    ...ofFlow,
    write: flowOf(Feature.Bridge),
  }),
}
