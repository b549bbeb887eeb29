import type { PaceName, Print, PrintState } from '@verimend/contract'

/** What a state is called. */
export const PRINT_WORDS: Record<PrintState, string> = {
  sending: 'On its way to the machine',
  waiting: 'Waits its turn',
  printing: 'Printing',
  paused: 'Paused',
  done: 'Done',
  cancelled: 'Stopped',
  failed: 'Failed',
  'handed-over': 'Carried by hand',
}
export const PACE_WORDS: Record<PaceName, string> = {
  real: 'as slow as a real one',
  tenfold: 'ten times as fast',
  hundredfold: 'a hundred times as fast',
  quick: 'each print in eight seconds',
  quickest: 'each print in two seconds',
}
/** How much of a print is done, 0 to 1. */
export const share = ({ done, total, state }: Print): number =>
  state === 'done' ? 1 : total > 0 ? Math.min(1, done / total) : 0
