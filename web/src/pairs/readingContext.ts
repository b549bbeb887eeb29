import type { PairDetail } from '@verimend/contract'
import { cardOf } from '@verimend/core/material'
import type { ReadingContext } from '@verimend/core/toolpath'

/** What the path reader has to know of a pair. */
export function readingContext(pair: PairDetail): ReadingContext {
  return {
    filamentDiameter: Number(pair.version.values.diameter.value),
    density: cardOf(pair.filament.filament.family).density,
    nozzleDiameter: pair.nozzle,
    limits: pair.machine.machine.limits,
  }
}
