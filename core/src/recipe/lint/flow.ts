import { featureLoads } from '../derive'
import { roundDown, settingOf } from '../settings'
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
  'over-melt-cap': {
    severity: 'fault',
    find: ({ values, n }) => {
      const over = featureLoads(values).filter((f) => f.share > 1.001)
      if (!over.length) return null
      const worst = over.reduce((a, b) => (b.rate > a.rate ? b : a))
      const capOf = new Map(over.map((f) => [f.key, f.cap]))
      const keys = over.map((f) => f.key)
      return found('over-melt-cap', { setting: worst.key, rate: worst.rate, cap: n('meltCap') }, keys, {
        mend: valuesFor(keys, (k) => Math.max(3, roundDown(settingOf(k), capOf.get(k)!))),
        on: over.map((f) => f.rate.toFixed(2)).join(),
      })
    },
  },
} satisfies LintRules
