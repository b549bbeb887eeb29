/** Most that readings say, decibans: they are a person's. From memory. */
const MOST_DECIBANS = 12

/** Odds of a share in decibans, held within what readings can say. */
export const clampedDecibans = (share: number): number => {
  const p = Math.min(1 - 1e-6, Math.max(1e-6, share))
  return Number(Math.min(MOST_DECIBANS, Math.max(-MOST_DECIBANS, 10 * Math.log10(p / (1 - p)))).toFixed(1))
}
