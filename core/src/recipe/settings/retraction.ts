import { beadArea } from '../../extrusion/bead'
import { Feature } from '../../toolpath/features'
import type { PathReading } from '../../toolpath/reading'
import { entriesOf, whenOn } from './types'

const { number, toggle } = entriesOf('retraction')

/** Enough loops to speak of how they end as a rule; a wall that only rises has no ends. */
const manyStarts = (r: PathReading) => !r.spiral && r.seam.count > 8

/** mm³ that are left out where loops close; null where it cannot be told. */
function earlyStopIn(r: PathReading): number | null {
  const { width } = r.features[Feature.Outer]
  const height = r.layerHeight ?? 0
  if (!manyStarts(r) || !(height > 0) || !(width > height)) return null
  return r.seam.early * beadArea(width, height)
}

export const RETRACTION = {
  retract: toggle('Retraction', 'Pulls filament back before a travel.', {
    aka: ['pull-back', 'enable retraction'],
    inFile: { read: (r) => r.retraction.kind !== 'none', leftover: (on) => !on },
    write: (on, _, recipe) =>
      on
        ? {
            kind: 'retract-on',
            length: Number(recipe.retractLength.value),
            speed: Number(recipe.retractSpeed.value),
            extra: Number(recipe.restartExtra.value),
          }
        : { kind: 'retract-off' },
  }),
  retractLength: number('Retraction length', 'mm', [0, 12, 0.1], 'How far the filament is pulled back.', {
    ...whenOn('retract'),
    aka: ['retraction distance', 'retraction amount'],
    up: 'fewer strings, more grinding',
    down: 'gentler on the filament',
    inFile: { read: (r) => r.retraction.length, slack: 0.06 },
    write: (value) => ({ kind: 'retract-length', value }),
  }),
  retractSpeed: number('Retraction speed', 'mm/s', [5, 120, 1], 'How fast the filament is pulled back.', {
    ...whenOn('retract'),
    inFile: { read: (r) => r.retraction.speed, slack: 2 },
    write: (value) => ({ kind: 'retract-speed', value }),
  }),
  restartExtra: number(
    'Restart extra',
    'mm',
    [-0.5, 0.5, 0.01],
    'Fed beyond the pull-back when a path starts again.',
    {
      ...whenOn('retract'),
      aka: ['extra prime', 'extra restart length'],
      inFile: { read: (r) => r.retraction.restartExtra, slack: 0.02 },
      up: 'fills starved starts',
      down: 'flattens fat starts',
      write: (value) => ({ kind: 'restart-extra', value }),
    },
  ),
  zLift: number('Z-lift', 'mm', [0, 2, 0.05], 'Raises the nozzle during a retracted travel.', {
    ...whenOn('retract'),
    aka: ['z-hop', 'lift on travel', 'nozzle lift'],
    inFile: { read: (r) => r.retraction.zLift, slack: 0.03 },
    up: 'clears curled edges',
    down: 'shorter travels, fewer hairs',
    write: (value) => ({ kind: 'z-lift', value }),
  }),
  minTravel: number(
    'Shortest travel with retraction',
    'mm',
    [0, 20, 0.1],
    'Travels shorter than this are made without a pull-back.',
    {
      ...whenOn('retract'),
      aka: ['minimum travel', 'retraction threshold'],
      up: 'fewer pulls',
      down: 'cleaner short hops',
    },
  ),
  wipe: number(
    'Wipe',
    'mm',
    [0, 5, 0.05],
    'Distance the nozzle moves on along the loop after it stops feeding.',
    {
      aka: ['wipe distance'],
      inFile: { read: (r) => (manyStarts(r) ? r.seam.wipe : null), slack: 0.12 },
      shareOf: 'nozzle-diameter',
      write: (value) => ({ kind: 'wipe', length: value }),
      up: 'smaller blob where a loop closes',
      down: 'fuller loop ends',
    },
  ),
  earlyStop: number(
    'Early stop',
    'mm³',
    [0, 0.5, 0.005],
    'Volume left out at the end of a loop so that the pressure empties into it.',
    {
      aka: ['coast', 'stop before the end'],
      up: 'smaller blob',
      down: 'no notch',
      inFile: { read: earlyStopIn, slack: 0.02 },
      write: (value) => ({ kind: 'early-stop', volume: value }),
    },
  ),
  pressureCompensation: number(
    'Pressure compensation',
    's',
    [0, 2, 0.005],
    "The firmware's feed advance; 0 is off.",
    {
      aka: ['pressure advance', 'linear advance', 'K factor'],
      inFile: { read: (r) => r.pressure, slack: 0.003 },
      up: 'sharper corners',
      down: 'fuller line starts',
      write: (value) => ({ kind: 'pressure', value }),
    },
  ),
}
