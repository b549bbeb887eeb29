import {
  FULL_STEP_TOLERANCE,
  fullStep,
  nearestFullStep,
  offFullStep,
  thickestLayer,
} from '../../machine/machine'
import { roundDown, roundTo, settingOf } from '../settings'
import { found, valuesFor, type LintRules } from './rule'

const layer = settingOf('layerHeight')
const WIDTHS = ['outerWidth', 'innerWidth', 'fillWidth', 'solidWidth', 'topWidth', 'firstWidth'] as const

export const WALLS_LINT = {
  'layer-too-thick': {
    severity: 'fault',
    find: ({ machine, n }) => {
      const most = thickestLayer(machine)
      const step = fullStep(machine)
      const on = Math.floor(most / step + 1e-6) * step
      return n('layerHeight') > most + 1e-6
        ? found('layer-too-thick', { height: n('layerHeight') }, ['layerHeight'], {
            mend: { layerHeight: roundTo(layer, on >= 0.04 ? on : most) },
            on: machine.nozzle.diameter,
          })
        : null
    },
  },
  'layer-off-step': {
    severity: 'caution',
    find: ({ machine, n }) => {
      const height = n('layerHeight')
      const step = fullStep(machine)
      const near = nearestFullStep(height, machine)
      return offFullStep(height, machine) > FULL_STEP_TOLERANCE &&
        Math.abs(roundTo(layer, near) - near) < 1e-9 &&
        near <= thickestLayer(machine)
        ? found('layer-off-step', { height, step }, ['layerHeight'], {
            mend: { layerHeight: roundTo(layer, near) },
            on: step,
          })
        : null
    },
  },
  'line-narrow': {
    severity: 'caution',
    find: ({ machine, n }) => {
      const nozzle = machine.nozzle.diameter
      const thin = WIDTHS.filter((k) => n(k) < nozzle - 1e-9)
      return thin.length
        ? found('line-narrow', { settings: thin, nozzle }, thin, {
            mend: valuesFor(thin, (k) => roundTo(settingOf(k), nozzle * (k === 'firstWidth' ? 1.2 : 1.125))),
            on: nozzle,
          })
        : null
    },
  },
  'line-wide': {
    severity: 'caution',
    find: ({ machine, n }) => {
      const nozzle = machine.nozzle.diameter
      const wide = WIDTHS.filter((k) => n(k) > 2 * nozzle + 1e-9)
      return wide.length
        ? found('line-wide', { settings: wide, nozzle }, wide, {
            mend: valuesFor(wide, (k) => roundDown(settingOf(k), 2 * nozzle)),
            on: nozzle,
          })
        : null
    },
  },
  'seam-on-flexing': {
    severity: 'caution',
    find: ({ card, values }) =>
      card.flexible && values.seamPlace.value !== 'scattered'
        ? found(
            'seam-on-flexing',
            { family: card.id, stacked: values.seamPlace.value === 'stacked' },
            ['seamPlace'],
            { mend: { seamPlace: 'scattered' } },
          )
        : null,
  },
} satisfies LintRules
