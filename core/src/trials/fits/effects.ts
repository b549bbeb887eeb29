import { coefficientInterval, linearFit } from '../../statistics/regression'
import type { VariedKey } from '../types'

/** What a factor does. */
export interface Effect {
  key: VariedKey
  /** Change of the desirability from the lowest to the highest level. */
  effect: number
  /** 95 % interval; null when nothing is left to judge the scatter by. */
  interval: [number, number] | null
  best: number
}

/**
 * Main effects of a designed set (Box, Hunter & Hunter 1978): one line for each factor through all runs, factors scaled
 * from −1 to 1, so that an effect is the change from the lowest to the highest level.
 */
export function mainEffects(
  runs: readonly { values: Partial<Record<VariedKey, number>>; y: number; weight?: number }[],
  keys: readonly VariedKey[],
): Effect[] | null {
  const levels = keys.map((k) => {
    const v = runs.map((r) => r.values[k] ?? NaN)
    return [Math.min(...v), Math.max(...v)] as const
  })
  if (levels.some(([a, b]) => !(b > a))) return null
  const code = (k: number, v: number) => (2 * v - levels[k][0] - levels[k][1]) / (levels[k][1] - levels[k][0])
  const fit = linearFit(
    runs.map((r) => [1, ...keys.map((key, k) => code(k, r.values[key]!))]),
    runs.map((r) => r.y),
    runs.map((r) => r.weight ?? 1),
  )
  if (!fit) return null
  return keys.map((key, k) => {
    const interval = fit.dof > 0 ? coefficientInterval(fit, k + 1) : null
    const means = [...new Set(runs.map((r) => r.values[key]!))].map((v) => {
      const own = runs.filter((r) => r.values[key] === v)
      return { v, y: own.reduce((s, r) => s + r.y, 0) / own.length }
    })
    return {
      key,
      effect: 2 * fit.coefficients[k + 1],
      interval: interval && [2 * interval[0], 2 * interval[1]],
      best: means.reduce((m, c) => (c.y > m.y ? c : m)).v,
    }
  })
}
