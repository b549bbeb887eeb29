import { Feature } from '../../../toolpath/features'
import type { PathReading } from '../../../toolpath/reading'
import { longestRun, runsOf, type FindingRules } from './finding'

export const FLOW_FINDINGS = {
  'over-melt-cap': {
    raises: ['melt-rate-exceeded'],
    find: (r, { meltCap: cap }) => {
      if (r.meltPeak <= cap) return null
      const worst = longestRun(runsOf(r, (l) => r.layers.meltPeak[l] > cap))
      return {
        severity: r.meltPeak > 1.15 * cap ? 'fault' : 'caution',
        from: worst?.from ?? null,
        to: worst?.to ?? null,
        size: r.meltPeak / cap,
        values: { feature: r.meltPlace?.feature ?? null, rate: r.meltPeak, cap },
      }
    },
  },
  'under-melt-cap': {
    clears: ['melt-rate-exceeded'],
    find: (r, { meltCap: cap }) =>
      r.meltPeak > 0 && r.meltPeak < 0.85 * cap
        ? { severity: 'good', values: { rate: r.meltPeak, cap } }
        : null,
  },
  'outer-fed-off': {
    raises: ['outer-wall-overfed', 'flow-too-low'],
    decibans: 2,
    find: (r) => {
      const outer = r.features[Feature.Outer]
      const inner = r.features[Feature.Inner]
      if (!outer.length || !inner.length || !outer.width) return null
      const ratio = outer.width / inner.width
      return ratio > 1.08 || ratio < 0.85
        ? { severity: 'note', size: ratio, values: { outer: outer.width, inner: inner.width } }
        : null
    },
  },
  'walls-thin': {
    raises: ['flow-too-low'],
    decibans: 3,
    find: (r, { nozzle }) => {
      const { length, width } = r.features[Feature.Outer]
      return length > 1 && width > 0 && width < 0.9 * nozzle
        ? { severity: 'caution', size: width / nozzle, values: { width, nozzle } }
        : null
    },
  },
  'more-than-roll': {
    find: (r, { filament }) => {
      const left = filament.weightLeft
      const needed = r.filament.mass
      if (left === null || needed <= left) return null
      const z = runsOutAtHeight(r, left)
      return {
        severity: 'fault',
        from: z,
        to: r.height,
        size: needed / Math.max(1, left),
        values: { needed, left, z },
      }
    },
  },
} satisfies FindingRules

/** Height at which so many grams are used up, mm. */
export function runsOutAtHeight(r: PathReading, grams: number): number {
  const length = (grams / r.filament.mass) * r.filament.length
  let sum = 0
  for (let l = 0; l < r.layerCount; l++) {
    sum += r.layers.fed[l]
    if (sum > length) return r.layers.z[l]
  }
  return r.height
}
