import { Feature } from '../../toolpath/features'
import type { PathReading } from '../../toolpath/reading'
import { entriesOf } from './types'

const { number } = entriesOf('cooling')
const percent = (share: number | null) => (share === null ? null : Math.round(share * 100))

/** Layers from the first with fan to the first at (nearly) full duty, both counted; null where the fan stays off. */
function rampLayers(r: PathReading): number | null {
  if (r.fanFromLayer === null || !(r.rest.fan > 0.05)) return null
  const full = r.layers.fan.findIndex((f) => f >= 0.9 * r.rest.fan)
  return full < 0 ? null : Math.max(1, full - (r.fanFromLayer - 1) + 1)
}

/** s; the time quick layers are brought to, or the quickest layer where none is slowed. */
function heldLayerTime(r: PathReading): number | null {
  if (r.build.heldLayerTime !== null) return r.build.heldLayerTime
  if (r.build.slowest !== null || r.layerCount < 6) return null
  return Math.min(...r.layers.seconds.slice(1))
}

const ofFan = { percentOf: "the fan's full speed" }

export const COOLING = {
  fanOffLayers: number(
    'Layers without fan',
    'layers',
    [0, 20, 1],
    'Layers at the base that are laid with the fan off.',
    {
      aka: ['no cooling for the first layers', 'fan off layers'],
      up: 'better grip',
      down: 'crisper base',
      inFile: {
        read: (r) => (r.layerCount > 1 && r.fanFromLayer !== null ? r.fanFromLayer - 1 : null),
        only: 'less',
      },
      write: (value) => ({ kind: 'fan-off-layers', value }),
    },
  ),
  fanRampLayers: number(
    'Fan ramp',
    'layers',
    [0, 20, 1],
    'Layers over which the fan rises to its full duty.',
    { aka: ['full fan speed at layer'], inFile: { read: rampLayers } },
  ),
  fan: number('Fan', '%', [0, 100, 5], 'Part fan after the first layers.', {
    ...ofFan,
    aka: ['part cooling', 'cooling fan', 'fan speed'],
    up: 'sharper overhangs, weaker bond',
    down: 'stronger layers, more gloss',
    inFile: { read: (r) => (r.layerCount > 1 ? r.rest.fan * 100 : null), slack: 3 },
    write: (value) => ({ kind: 'fan', where: 'rest', value: value / 100 }),
  }),
  fanOverhang: number('Fan on overhangs', '%', [0, 100, 5], 'Part fan while an overhang is laid.', ofFan),
  fanBridge: number('Fan on bridges', '%', [0, 100, 5], 'Part fan while a bridge is laid.', {
    ...ofFan,
    aka: ['bridge cooling'],
    inFile: { read: (r) => percent(r.features[Feature.Bridge].fan), slack: 12 },
    write: (value) => ({ kind: 'fan', where: 'bridge', value: value / 100 }),
  }),
  minLayerTime: number('Minimum layer time', 's', [0, 60, 0.5], 'Layers faster than this are slowed down.', {
    aka: ['slow down for short layers', 'layer time threshold'],
    inFile: {
      read: heldLayerTime,
      slack: (recipe) => 0.3 + 0.15 * recipe,
      only: 'less',
      // at the floor a layer may be as quick as it is
      explained: (r, recipe) =>
        Math.min(...r.layers.outerAsked.slice(1).filter((v) => v !== null)) <=
        Number(recipe.speedFloor.value) + 1,
    },
    // how fast a slowed layer was meant to be is not in the file
    write: (value, from, recipe) =>
      from !== null && value < from
        ? null
        : { kind: 'layer-time', seconds: value, floor: Number(recipe.speedFloor.value) },
    up: 'small tips keep their shape, speed swings',
    down: 'even finish',
  }),
  speedFloor: number(
    'Speed floor',
    'mm/s',
    [2, 60, 1],
    'The slow-down for layer time never goes below this.',
    { aka: ['minimum print speed'] },
  ),
}
