import { fPValue } from '../../statistics/distributions'
import { linearFit } from '../../statistics/regression'
import type { VariedKey } from '../types'

/** What a factor does. */
export interface Effect {
  key: VariedKey
  /** Change of the outcome from the lowest to the highest level. */
  effect: number
  /** Mean of each level, as the fit of all factors has it, from the lowest on. */
  levels: { value: number; mean: number }[]
  /** Difference between the best level and the worst. */
  spread: number
  /** Chance that levels which are all alike differ at least as much; 1 where there is nothing to judge the scatter by. */
  p: number
}

/** What is known of the scatter before anything was read: a standard deviation, and as many readings' worth of trust. */
export interface KnownScatter {
  sd: number
  dof: number
}

/**
 * Main effects of a designed set (Box, Hunter & Hunter 1978): every level of each factor has a mean of its own, all in one
 * additive fit, so that a best level in the middle is found as well as one at the end. A factor is judged by the F test of
 * the fit with it against the one without it; a scatter known beforehand is pooled with what the fit leaves.
 * @returns null where a factor has one level only, or the runs cannot tell the factors apart
 */
export function mainEffects(
  runs: readonly { values: Partial<Record<VariedKey, number>>; y: number; weight?: number }[],
  keys: readonly VariedKey[],
  known?: KnownScatter,
): Effect[] | null {
  const levels = keys.map((k) => [...new Set(runs.map((r) => r.values[k] ?? NaN))].sort((a, b) => a - b))
  if (levels.some((l) => l.length < 2 || l.some(Number.isNaN))) return null
  const columns = (value: number, l: readonly number[]) => l.slice(1).map((v) => Number(v === value))
  const fit = (without: number) =>
    linearFit(
      runs.map((r) => [
        1,
        ...keys.flatMap((key, k) => (k === without ? [] : columns(r.values[key]!, levels[k]))),
      ]),
      runs.map((r) => r.y),
      runs.map((r) => r.weight ?? 1),
    )
  const full = fit(-1)
  if (!full) return null
  const dof = full.dof + (known?.dof ?? 0)
  const variance = (full.rss + (known ? known.dof * known.sd ** 2 : 0)) / dof
  let at = 1
  return keys.map((key, k) => {
    const own = [0, ...full.coefficients.slice(at, at + levels[k].length - 1)]
    at += levels[k].length - 1
    const mean = own.reduce((s, v) => s + v, 0) / own.length
    const all = runs.reduce((s, r) => s + r.y, 0) / runs.length
    const less = fit(k)
    const extra = levels[k].length - 1
    return {
      key,
      effect: own[own.length - 1],
      levels: levels[k].map((value, i) => ({ value, mean: all + own[i] - mean })),
      spread: Math.max(...own) - Math.min(...own),
      p: less && dof > 0 && variance > 0 ? fPValue((less.rss - full.rss) / extra / variance, extra, dof) : 1,
    }
  })
}
