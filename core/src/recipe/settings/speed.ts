import { Feature } from '../../toolpath/features'
import type { PathReading } from '../../toolpath/reading'
import { entriesOf, type InFile, type ValuesByKey } from './types'

const { number, choice } = entriesOf('speed')

const tenth = (recipe: number) => Math.max(2, 0.1 * recipe)

/** Programs count the moves of a layer and not its ramps and travels: held layers take a little longer. From memory. */
const SLOWED_TO = 1.25

/** Whether a speed under the recipe's comes of layers being brought to the minimum layer time or to its floor. */
function slowedForTime(r: PathReading, recipe: ValuesByKey, key: string): boolean {
  const seconds = r.layers.seconds.slice(1)
  if (!seconds.length) return false
  const usual = [...seconds].sort((p, q) => p - q)[seconds.length >> 1]
  const own = r.features[Feature.Outer].usual ?? Infinity
  return (
    own < Number(recipe.outerSpeed.value) + 1 &&
    Number(recipe[key].value) > own &&
    (usual < SLOWED_TO * Number(recipe.minLayerTime.value) || own <= Number(recipe.speedFloor.value) + 1)
  )
}

/**
 * What a feature is asked for where no layer is slowed, mm/s: of files that slow some layers by far the quickest layers
 * say it for the outer wall, and others in proportion.
 */
function unslowed(r: PathReading, feature: Feature): number | null {
  const { usual } = r.features[feature]
  const outer = r.features[Feature.Outer].usual
  if (usual === null || outer === null || r.build.slowest === null) return usual
  const quickest = Math.max(...r.layers.outerAsked.slice(1).filter((v) => v !== null))
  return quickest > outer ? usual * (quickest / outer) : usual
}

/** How the speed of one feature shows in a file. */
const speedOf = (feature: Feature, key: string): InFile<number> => ({
  read: (r) => (r.layerCount > 1 ? r.features[feature].usual : null),
  taken: (r) => (r.layerCount > 1 ? unslowed(r, feature) : null),
  slack: tenth,
  explained: (r, recipe) => slowedForTime(r, recipe, key),
})

/** In the order in which they show on the part: what is looked at first, then what is hidden. */
export const SPEED = {
  pace: choice(
    'Pace',
    'How far speeds go towards what machine and melt rate allow.',
    [
      { value: 'careful', label: 'careful' },
      { value: 'brisk', label: 'brisk' },
    ],
    { aka: ['speed profile', 'fast or slow'] },
  ),
  outerSpeed: number('Outer wall', 'mm/s', [3, 500, 1], 'Speed of the outer wall.', {
    aka: ['outer perimeter speed', 'outline speed', 'print speed'],
    shareOf: 'innerSpeed',
    up: 'saves time',
    down: 'better face',
    inFile: {
      read: (r) => (r.layerCount > 1 ? (r.features[Feature.Outer].usual ?? r.rest.outerSpeed) : null),
      slack: tenth,
      taken: (r) => (r.layerCount > 1 ? unslowed(r, Feature.Outer) : null),
      explained: (r, recipe) => slowedForTime(r, recipe, 'outerSpeed'),
    },
    write: (value) => ({ kind: 'speed', where: Feature.Outer, value }),
  }),
  topSpeed: number('Top face', 'mm/s', [3, 500, 1], 'Speed of the last layer of a top.', {
    aka: ['top layer speed'],
  }),
  bridgeSpeed: number('Bridges', 'mm/s', [3, 200, 1], 'Speed of lines laid over air.', {
    shareOf: 'outerSpeed',
    inFile: speedOf(Feature.Bridge, 'bridgeSpeed'),
    write: (value) => ({ kind: 'speed', where: Feature.Bridge, value }),
  }),
  overhangSpeed: number(
    'Overhangs past 45°',
    'mm/s',
    [3, 300, 1],
    'Speed of outer walls that hang between 45 and 60° from upright.',
    { aka: ['overhang speed'], shareOf: 'outerSpeed', up: 'saves time', down: 'edges curl less' },
  ),
  steepSpeed: number(
    'Overhangs past 60°',
    'mm/s',
    [3, 300, 1],
    'Speed of outer walls that hang more than 60° from upright.',
    { aka: ['steep overhang speed'], shareOf: 'outerSpeed', up: 'saves time', down: 'sags less' },
  ),
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
    inFile: speedOf(Feature.Inner, 'innerSpeed'),
    write: (value) => ({ kind: 'speed', where: Feature.Inner, value }),
  }),
  solidSpeed: number(
    'Solid layers',
    'mm/s',
    [3, 500, 1],
    'Speed of bottoms, of tops but their last layer, and of every full layer.',
    {
      inFile: speedOf(Feature.Solid, 'solidSpeed'),
      write: (value) => ({ kind: 'speed', where: Feature.Solid, value }),
    },
  ),
  sparseSpeed: number('Infill', 'mm/s', [3, 500, 1], 'Speed of the infill.', {
    aka: ['print speed'],
    inFile: speedOf(Feature.Infill, 'sparseSpeed'),
    write: (value) => ({ kind: 'speed', where: Feature.Infill, value }),
  }),
  travelSpeed: number('Travel', 'mm/s', [10, 1000, 5], 'Speed without feeding.', {
    aka: ['non-print move', 'rapid'],
    up: 'fewer strings, more ringing',
    down: 'gentler',
    inFile: { read: (r) => r.travel.speed, slack: 8 },
    write: (value) => ({ kind: 'speed', where: 'travel', value }),
  }),
  outerAcceleration: number(
    'Acceleration, outer wall',
    'mm/s²',
    [50, 30000, 50],
    'How hard the outer wall speeds up.',
    {
      up: 'saves time',
      down: 'less ghosting',
      inFile: { read: (r) => r.features[Feature.Outer].acceleration, slack: 25 },
      write: (value) => ({ kind: 'acceleration', where: 'outer', value }),
    },
  ),
  innerAcceleration: number(
    'Acceleration, rest',
    'mm/s²',
    [50, 30000, 50],
    'How hard everything else speeds up.',
    {
      inFile: {
        read: (r) => r.features[Feature.Inner].acceleration ?? r.features[Feature.Infill].acceleration,
        slack: 25,
      },
      write: (value) => ({ kind: 'acceleration', where: 'rest', value }),
    },
  ),
  travelAcceleration: number('Acceleration, travel', 'mm/s²', [50, 30000, 50], 'How hard travels speed up.', {
    inFile: {
      // a machine with one command for both tells nothing of travels
      read: (r) =>
        r.build.travelAcceleration === r.features[Feature.Outer].acceleration
          ? null
          : r.build.travelAcceleration,
      slack: 25,
    },
    write: (value) => ({ kind: 'acceleration', where: 'travel', value }),
  }),
  firstAcceleration: number(
    'Acceleration, first layer',
    'mm/s²',
    [50, 30000, 50],
    'How hard the first layer speeds up.',
    {
      inFile: { read: (r) => r.build.firstAcceleration, slack: 25 },
      write: (value) => ({ kind: 'acceleration', where: 'first', value }),
    },
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
