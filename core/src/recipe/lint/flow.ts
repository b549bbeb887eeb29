import { featureLoads } from '../derive'
import { believedMeltCap, usualMeltCap } from '../derive/meltCap'
import { roundDown, roundTo, settingOf } from '../settings'
import { found, valuesFor, type LintRules } from './rule'

export const FLOW_LINT = {
  'first-flow-left': {
    severity: 'fault',
    find: ({ n, measured }) =>
      n('flowFirst') > 105 && !measured('flowFirst')
        ? found('first-flow-left', { flow: n('flowFirst') }, ['flowFirst'], { mend: { flowFirst: 100 } })
        : null,
  },
  'flow-far': {
    severity: 'caution',
    find: ({ n, measured }) =>
      (n('flow') > 105 || n('flow') < 95) && !measured('flow')
        ? found('flow-far', { flow: n('flow') }, ['flow'], { mend: { flow: 100 } })
        : null,
  },
  'feature-flow-far': {
    severity: 'note',
    find: ({ n, measured }) => {
      const off = (['flowOuter', 'flowInner', 'flowSolid', 'flowSparse'] as const).filter(
        (k) => Math.abs(n(k) - 100) > 8 && !measured(k),
      )
      return off.length
        ? found('feature-flow-far', { settings: off, flows: off.map(n) }, off, {
            mend: valuesFor(off, () => 100),
          })
        : null
    },
  },
  'melt-cap-far': {
    severity: 'caution',
    find: ({ machine, filament, values }) => {
      const { meltCap } = values
      const believed = believedMeltCap(machine, filament, meltCap)
      const usual = usualMeltCap(machine, filament)
      return meltCap.value > believed + 0.05
        ? found('melt-cap-far', { cap: meltCap.value, usual, believed }, ['meltCap'], {
            mend: { meltCap: roundTo(settingOf('meltCap'), usual) },
            on: usual.toFixed(1),
          })
        : null
    },
  },
  'over-melt-cap': {
    severity: 'fault',
    find: ({ values, machine, filament }) => {
      const cap = believedMeltCap(machine, filament, values.meltCap)
      const over = featureLoads(values, cap).filter((f) => f.share > 1.001)
      if (!over.length) return null
      const worst = over.reduce((a, b) => (b.rate > a.rate ? b : a))
      const capOf = new Map(over.map((f) => [f.key, f.cap]))
      const keys = over.map((f) => f.key)
      return found('over-melt-cap', { setting: worst.key, rate: worst.rate, cap }, keys, {
        mend: valuesFor(keys, (k) => Math.max(3, roundDown(settingOf(k), capOf.get(k)!))),
        on: over.map((f) => f.rate.toFixed(2)).join(),
      })
    },
  },
} satisfies LintRules
