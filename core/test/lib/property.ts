import type { Parameters } from 'fast-check'

/** Seed under CI: the same inputs each time. */
const FIXED_SEED = 20_261_126
/** Share of the tries under CI: the same inputs a hundredth time tell nothing new. */
const CI_SHARE = 0.25
const LEAST = 5

/**
 * How often a law is tried: on fresh inputs at the desk, on always the same ones under CI=true. fast-check prints the
 * input that broke a law; keep it among the examples.
 */
export const tries = <T>(numRuns: number, examples: T[] = []): Parameters<T> => ({
  numRuns,
  examples,
  ...(process.env.CI === 'true' && {
    seed: FIXED_SEED,
    // what failed before is tried each time, and counts
    numRuns: examples.length + Math.max(Math.min(LEAST, numRuns), Math.round(CI_SHARE * numRuns)),
  }),
})
