import { fullStep, thickestLayer } from '../../machine/machine'
import { thinnestFirst } from '../derive/firstLayer'
import { roundDown, roundTo, settingOf } from '../settings'
import { found, type LintRules } from './rule'

const height = settingOf('firstHeight')

export const FIRST_LAYER_LINT = {
  'first-height-far': {
    severity: 'caution',
    find: ({ machine, n, values }) => {
      const { residual } = machine.bed
      const first = n('firstHeight')
      const most = thickestLayer(machine)
      if (first > machine.nozzle.diameter + 1e-9)
        return found('first-thicker-than-nozzle', { height: first }, ['firstHeight'], {
          mend: { firstHeight: roundDown(height, most) },
        })
      if (residual === null || values.raft.value || first >= 2 * residual - 1e-9) return null
      // as thick as it may be, it still leaves the unevenness to the screws
      const thicker = roundTo(height, Math.min(2 * residual, most))
      const helps = thicker >= first + fullStep(machine) - 1e-9
      return found('first-height-far', { residual }, ['firstHeight'], {
        ...(helps && { mend: { firstHeight: thicker } }),
        on: residual,
      })
    },
  },
  'first-thin': {
    severity: 'caution',
    find: ({ machine, n }) => {
      const [first, layer, diameter] = [n('firstHeight'), n('layerHeight'), machine.nozzle.diameter]
      const least = Math.min(thinnestFirst(machine, layer), thickestLayer(machine))
      return first < least - height.step / 2 - 1e-9
        ? found(
            'first-thin',
            { height: first, least, of: layer > 0.5 * diameter ? 'layer' : 'nozzle' },
            ['firstHeight'],
            { mend: { firstHeight: roundTo(height, least) }, on: `${layer}/${diameter}` },
          )
        : null
    },
  },
  'first-too-fast': {
    severity: 'caution',
    find: ({ n }) => {
      const speed = n('firstSpeed')
      const outer = n('outerSpeed')
      return speed > 40 || (speed > 20 && speed > 0.75 * outer + 1e-9)
        ? found('first-too-fast', { speed }, ['firstSpeed'], {
            mend: { firstSpeed: roundTo(settingOf('firstSpeed'), Math.min(30, Math.max(3, outer / 2))) },
            on: outer,
          })
        : null
    },
  },
} satisfies LintRules
