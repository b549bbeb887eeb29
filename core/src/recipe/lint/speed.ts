import { SETTING_KEYS } from '../settings'
import { found, valuesFor, type LintRules } from './rule'

const SPEEDS = ['outerSpeed', 'innerSpeed', 'solidSpeed', 'topSpeed', 'sparseSpeed'] as const
const APART = ['outerSpeed', 'innerSpeed', 'sparseSpeed'] as const

export const SPEED_LINT = {
  'travel-slow': {
    severity: 'note',
    find: ({ n, machine }) =>
      n('travelSpeed') < 100 && machine.limits.speed >= 120
        ? found('travel-slow', { speed: n('travelSpeed') }, ['travelSpeed'], {
            mend: { travelSpeed: Math.min(150, machine.limits.speed) },
          })
        : null,
  },
  'speeds-apart': {
    severity: 'note',
    find: ({ n }) => {
      const all = APART.map(n)
      const ratio = Math.max(...all) / Math.min(...all)
      return ratio > 2.001 && n('pressureCompensation') === 0
        ? found('speeds-apart', { ratio }, [...APART], {
            mend: {
              innerSpeed: Math.min(n('innerSpeed'), 2 * n('outerSpeed')),
              sparseSpeed: Math.min(n('sparseSpeed'), 2 * n('outerSpeed')),
            },
          })
        : null
    },
  },
  'outer-fastest': {
    severity: 'caution',
    find: ({ n }) =>
      n('outerSpeed') > n('innerSpeed')
        ? found('outer-fastest', {}, ['outerSpeed', 'innerSpeed'], { mend: { outerSpeed: n('innerSpeed') } })
        : null,
  },
  'over-label-speed': {
    severity: 'note',
    find: ({ filament, n }) => {
      const most = filament.label.speed?.max
      if (most === undefined) return null
      const over = SPEEDS.filter((k) => n(k) > most)
      return over.length
        ? found('over-label-speed', { most }, over, { mend: valuesFor(over, () => most), on: most })
        : null
    },
  },
  'held-at-limit': {
    severity: 'note',
    find: ({ values }) => {
      const held = SETTING_KEYS.filter((k) => values[k].clippedFrom !== undefined)
      return held.length ? found('held-at-limit', { settings: held }, held) : null
    },
  },
} satisfies LintRules
