import { found, valuesFor, type LintRules } from './rule'

const MOST = { contourOffset: 0.05, holeOffset: 0.15 }

export const SIZE_LINT = {
  'contour-left': {
    severity: 'caution',
    find: ({ n, values }) => {
      const left = (['contourOffset', 'holeOffset'] as const).filter((k) => {
        const { source } = values[k]
        return Math.abs(n(k)) > MOST[k] && source !== 'measured' && source !== 'mend'
      })
      return left.length
        ? found('contour-left', { settings: left, offsets: left.map(n) }, left, {
            mend: valuesFor(left, () => 0),
          })
        : null
    },
  },
} satisfies LintRules
