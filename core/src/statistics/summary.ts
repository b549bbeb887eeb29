/**
 * Weighted quantile of a sample: the inverse of its distribution function, without interpolation (type 1 of Hyndman &
 * Fan 1996).
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

/** Median of a sample: the middle value, or the mean of the two middle ones (type 7 of Hyndman & Fan 1996); NaN when empty. */
export function median(values: ArrayLike<number>): number {
  const s = Array.from(values).sort((a, b) => a - b)
  const m = s.length >> 1
  return s.length ? (s.length % 2 ? s[m] : (s[m - 1] + s[m]) / 2) : NaN
}

/**
 * Quantile of a sample that is sorted already: the value nearest in rank, without interpolation (type 3 of Hyndman & Fan
 * 1996 but for the rounding of halves).
 * @param q 0 to 1
 */
export function sortedQuantile(sorted: readonly number[], q: number): number {
  return sorted[Math.min(sorted.length - 1, Math.max(0, Math.round(q * (sorted.length - 1))))]
}

/** Median that is always one of the sample: of two middle values the higher one; NaN when empty. */
export function medianHigh(values: ArrayLike<number>): number {
  const s = Array.from(values).sort((a, b) => a - b)
  return s.length ? s[s.length >> 1] : NaN
}
