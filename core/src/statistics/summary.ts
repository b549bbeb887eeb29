/**
 * Weighted quantile of a sample.
 * @param q 0 to 1
 * @returns NaN for an empty sample
 */
export function weightedQuantile(values: ArrayLike<number>, weights: ArrayLike<number>, q: number): number {
  const order = Array.from({ length: values.length }, (_, i) => i).sort((a, b) => values[a] - values[b])
  let total = 0
  for (let i = 0; i < weights.length; i++) total += weights[i]
  if (!(total > 0)) return NaN
  let run = 0
  for (const i of order) {
    run += weights[i]
    if (run >= q * total) return values[i]
  }
  return values[order[order.length - 1]]
}

/** Median of a sample; NaN when empty. */
export function median(values: ArrayLike<number>): number {
  const s = Array.from(values).sort((a, b) => a - b)
  const m = s.length >> 1
  return s.length ? (s.length % 2 ? s[m] : (s[m - 1] + s[m]) / 2) : NaN
}
