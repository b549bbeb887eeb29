import { thickestLayer } from '../../machine/machine'
import { roundDown, roundTo, settingOf } from '../settings'
import { found, type LintRules } from './rule'

const height = settingOf('firstHeight')

export const FIRST_LAYER_LINT = {
  'first-height-far': {
    severity: 'caution',
    find: ({ machine, n }) => {
      const { residual } = machine.bed
      const first = n('firstHeight')
      const most = thickestLayer(machine)
      if (first > machine.nozzle.diameter + 1e-9)
        return found('first-thicker-than-nozzle', { height: first }, ['firstHeight'], {
          mend: { firstHeight: roundDown(height, most) },
        })
      return residual !== null && first < 2 * residual - 1e-9
        ? found('first-height-far', { residual }, ['firstHeight'], {
            mend: { firstHeight: roundTo(height, Math.min(2 * residual, most)) },
            on: residual,
          })
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
