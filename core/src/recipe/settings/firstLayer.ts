import { widthAtSpacing } from '../../extrusion/bead'
import { onBed } from '../../toolpath/onBed'
import type { FileChange } from '../../rewrite/change'
import { entriesOf, whenSome, type ValuesByKey } from './types'

const { number } = entriesOf('first-layer')

const slowZoneOf = (recipe: ValuesByKey): FileChange => ({
  kind: 'slow-zone',
  height: Number(recipe.slowZoneHeight.value),
  speed: Number(recipe.slowZoneSpeed.value),
})

export const FIRST_LAYER = {
  firstHeight: number('First-layer height', 'mm', [0.05, 0.8, 0.01], 'Height of the first layer.', {
    aka: ['initial layer height', 'squish'],
    shareOf: 'layerHeight',
    up: 'buries an uneven bed',
    down: 'more squish on a flat bed',
    inFile: { read: (r) => onBed(r)?.height, slack: 0.011 },
  }),
  firstWidth: number('First-layer line width', 'mm', [0.1, 2.5, 0.01], 'Width of the first layer’s lines.', {
    aka: ['first layer extrusion width', 'initial line width'],
    shareOf: 'nozzle-diameter',
    up: 'more grip',
    down: 'finer details',
    inFile: {
      read: (r) => {
        const f = onBed(r)
        return f && f.spacing !== null ? widthAtSpacing(f.spacing, f.height) : null
      },
      slack: 0.05,
    },
  }),
  firstSpeed: number('First-layer speed', 'mm/s', [3, 120, 1], 'Speed of the first layer.', {
    aka: ['initial layer speed'],
    shareOf: 'outerSpeed',
    up: 'saves a minute',
    down: 'lines take hold',
    inFile: {
      read: (r) => onBed(r)?.speed,
      slack: (recipe) => Math.max(1, 0.08 * recipe),
    },
    write: (value) => ({ kind: 'speed', where: 'first', value }),
  }),
  zOffset: number(
    'Z offset',
    'mm',
    [-1, 1, 0.01],
    'Moves the nozzle against the bed; found on the machine.',
    {
      aka: ['nozzle gap', 'baby stepping', 'probe offset'],
      up: 'larger gap',
      down: 'more squish',
      write: (value, from) => (from === null ? null : { kind: 'move', x: 0, y: 0, z: value - from }),
    },
  ),
  slowZoneHeight: number(
    'Slow zone height',
    'mm',
    [0, 10, 0.1],
    'Everything below this height is laid slowly; 0 is off.',
    {
      aka: ['slower layers'],
      up: 'small islands hold',
      down: 'saves time',
      write: (_, __, recipe) => slowZoneOf(recipe),
    },
  ),
  slowZoneSpeed: number('Slow zone speed', 'mm/s', [3, 100, 1], 'Top speed inside the slow zone.', {
    ...whenSome('slowZoneHeight'),
    write: (_, __, recipe) => slowZoneOf(recipe),
  }),
}
