import type { Parameters } from 'fast-check'

/** Seed under CI: the same inputs each time. */
const FIXED_SEED = 20_261_126

/**
 * How often a law is tried: on fresh inputs at the desk, on always the same ones under CI=true. fast-check prints the
 * input that broke a law; keep it among the examples.
 */
export const tries = <T>(numRuns: number, examples: T[] = []): Parameters<T> => ({
  numRuns,
  examples,
  ...(process.env.CI === 'true' && { seed: FIXED_SEED }),
})
