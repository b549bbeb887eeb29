import type { PairDetail } from '@verimend/contract'
import type { PairOnBench } from '@verimend/core/trials'

/** A pair as pieces and findings are worked out with it. */
export const onBench = (pair: PairDetail): PairOnBench => ({
  machine: pair.machine.machine,
  filament: pair.filament.filament,
  recipe: pair.version.values,
})
