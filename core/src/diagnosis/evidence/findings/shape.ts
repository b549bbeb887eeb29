import { FULL_STEP_TOLERANCE, READ_STEP_TOLERANCE, fullStep, offFullStep } from '../../../machine/machine'
import { Feature } from '../../../toolpath/features'
import { bodyLayer, heightsOf, type FindingRules } from './finding'

export const SHAPE_FINDINGS = {
  'stops-over-part': {
    raises: ['head-parks-on-part'],
    decibans: 12,
    find: (r) => {
      const over = r.stops.filter((s) => s.overPart && s.seconds >= 0.5)
      return over.length
        ? {
            severity: 'fault',
            from: over[0].z - 0.2,
            to: over[0].z,
            size: r.stopsOverPart,
            values: { times: r.stopsOverPart, seconds: over[0].seconds },
          }
        : null
    },
  },
  'no-stops-over-part': {
    clears: ['head-parks-on-part'],
    decibans: 8,
    find: (r) =>
      r.layerCount > 3 && r.stops.every((s) => !s.overPart || s.seconds < 0.3) && r.style.pauses === 0
        ? { severity: 'good', values: {} }
        : null,
  },
  'pauses-there': {
    raises: ['head-parks-on-part'],
    decibans: 3,
    find: (r) =>
      r.style.pauses > 0
        ? { severity: 'note', size: r.style.pauses, values: { times: r.style.pauses } }
        : null,
  },
  'off-full-step': {
    raises: ['layer-height-off-step'],
    find: (r, { machine }) =>
      r.layerHeight && !r.spiral && offFullStep(r.layerHeight, machine) > READ_STEP_TOLERANCE
        ? {
            severity: 'caution',
            size: r.layerHeight,
            values: { height: r.layerHeight, step: fullStep(machine) },
          }
        : null,
  },
  'on-full-step': {
    clears: ['layer-height-off-step'],
    find: (r, { machine }) =>
      r.layerHeight && !r.spiral && offFullStep(r.layerHeight, machine) <= FULL_STEP_TOLERANCE
        ? { severity: 'good', values: { height: r.layerHeight } }
        : null,
  },
  'heights-vary': {
    find: (r) => {
      const own = r.layers.height.slice(bodyLayer(r))
      if (own.length < 4 || r.spiral) return null
      const least = Math.min(...own)
      const most = Math.max(...own)
      return most > 1.3 * least && r.objects.length < 2
        ? { severity: 'note', size: most / least, values: { least, most } }
        : null
    },
  },
  'steep-overhang': {
    raises: ['poor-orientation'],
    decibans: 4,
    find: (r) => {
      const worst = r.layers.overhang.reduce((m, v, l) => (v > r.layers.overhang[m] ? l : m), 0)
      const length = r.layers.overhang[worst]
      return length > 15 && worst > 0
        ? {
            severity: length > 60 ? 'caution' : 'note',
            ...heightsOf(r, worst),
            size: length,
            values: { length, z: r.layers.z[worst] },
          }
        : null
    },
  },
  'support-there': {
    find: (r) => {
      const { length } = r.features[Feature.Support]
      return r.base.support ? { severity: 'note', size: length, values: { length } } : null
    },
  },
} satisfies FindingRules
