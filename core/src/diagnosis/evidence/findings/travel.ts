import { heightsOf, type FindingRules } from './finding'

export const TRAVEL_FINDINGS = {
  'open-air-drag': {
    raises: ['retraction-off', 'retraction-too-short'],
    find: (r) => {
      const { openUnretracted: without, openCount: all, longestUnretracted: longest, longestLayer } = r.travel
      if (!without || longest < 3) return null
      return {
        severity: without > 0.3 * all ? 'fault' : 'caution',
        ...(longestLayer === null ? { from: null, to: null } : heightsOf(r, longestLayer)),
        size: without,
        values: { without, all, longest },
      }
    },
  },
  'open-air-clean': {
    clears: ['retraction-off'],
    find: (r) =>
      r.travel.openCount > 2 && r.travel.openUnretracted === 0
        ? { severity: 'good', values: { all: r.travel.openCount } }
        : null,
  },
  'travel-slow': {
    raises: ['travel-too-slow'],
    find: (r, { machine }) => {
      const { speed, openCount } = r.travel
      return speed !== null && speed < 90 && machine.limits.speed >= 120 && openCount > 0
        ? { severity: 'caution', size: speed, values: { speed } }
        : null
    },
  },
  'over-pulled': {
    raises: ['retraction-too-long', 'feed-slip'],
    find: (r) => {
      const worst = r.ledger.worst
      return worst && worst.passes > 10
        ? {
            severity: worst.passes > 20 ? 'fault' : 'caution',
            ...heightsOf(r, worst.layer),
            size: worst.passes,
            values: { passes: worst.passes, z: r.layers.z[worst.layer] },
          }
        : null
    },
  },
  'pulls-few': {
    clears: ['retraction-too-long'],
    find: (r) =>
      r.retraction.kind !== 'none' && r.retraction.worstPasses <= 4
        ? { severity: 'good', values: { passes: r.retraction.worstPasses } }
        : null,
  },
  'restart-off': {
    raises: ['loop-start-starved', 'loop-end-overfill'],
    decibans: 4,
    find: (r) => {
      const extra = r.retraction.restartExtra
      return extra !== null && Math.abs(extra) > 0.05
        ? { severity: 'caution', size: extra, values: { extra } }
        : null
    },
  },
} satisfies FindingRules
