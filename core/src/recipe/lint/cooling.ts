import { settingTimeOf } from '../derive'
import { found, type LintRules } from './rule'

export const COOLING_LINT = {
  'fan-on-shrinking': {
    severity: 'fault',
    find: ({ card, n }) =>
      card.fan.rest <= 10 && card.wantsEnclosure && n('fan') > card.fan.rest + 10
        ? found('fan-on-shrinking', { duty: n('fan'), family: card.id }, ['fan'], {
            mend: { fan: card.fan.rest },
          })
        : null,
  },
  'fan-early': {
    severity: 'caution',
    find: ({ card, n }) =>
      n('fan') > 0 && n('fanOffLayers') < 1
        ? found('fan-early', {}, ['fanOffLayers'], { mend: { fanOffLayers: card.fan.offLayers } })
        : null,
  },
  'layer-time-swings': {
    severity: 'fault',
    find: ({ card, n, values, machine, filament }) => {
      // what a bead needs to set is no swing
      const needed = Math.min(20, settingTimeOf(machine, filament, values) + 1)
      const most = Math.max(card.fan.rest === 0 ? 20 : 12, needed)
      const [seconds, floor] = [n('minLayerTime'), n('speedFloor')]
      return seconds > most && values.minLayerTime.source !== 'computed'
        ? found('layer-time-swings', { seconds, floor }, ['minLayerTime', 'speedFloor'], {
            mend: { minLayerTime: 5, speedFloor: Math.max(15, floor) },
          })
        : null
    },
  },
  'floor-low': {
    severity: 'caution',
    find: ({ n, card }) => {
      const [speed, outer] = [n('speedFloor'), n('outerSpeed')]
      return speed < 0.4 * outer && !card.flexible && speed < 12
        ? found('floor-low', { speed }, ['speedFloor'], {
            mend: { speedFloor: Math.min(15, Math.round(outer * 0.6)) },
          })
        : null
    },
  },
} satisfies LintRules
