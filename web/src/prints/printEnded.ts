import type { PrintState } from '@verimend/contract'

/** States after which nothing moves any more. Here, so that the first screen need not load the schemas it came with. */
export const printEnded = (state: PrintState): boolean =>
  state === 'done' || state === 'cancelled' || state === 'failed' || state === 'handed-over'
