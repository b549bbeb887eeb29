import type { ProcedureId } from '../knowledge/procedures'
import type { PieceId, ReadTrial } from '../trials/types'
import type { NotedAttempt } from './notebook'

/** Pieces that are about how much comes out, at which heat, and how it is held back. */
const FEED: readonly PieceId[] = [
  'flow-box',
  'melt-rate-run',
  'pressure-lines',
  'corner-columns',
  'seam-columns',
]
const HEAT: readonly PieceId[] = [
  'temperature-tower',
  'string-posts',
  'fan-tower',
  'melt-rate-run',
  'bridge-comb',
]
const PULL: readonly PieceId[] = ['retraction-tower', 'string-posts']
const BASE: readonly PieceId[] = ['first-layer-sheet']
const FRAME: readonly PieceId[] = ['speed-fins', 'size-plate']

/** What is done by hand, and the pieces whose answers it takes the ground from: printed again they would say something else. */
const TAKES_GROUND: Partial<Record<ProcedureId, readonly PieceId[]>> = {
  'set-feed-steps': FEED,
  'measure-filament': FEED,
  'clean-gear': FEED,
  'seat-gear': FEED,
  'free-feed-path': FEED,
  'clear-nozzle': [...FEED, ...HEAT, ...PULL],
  'cold-pull': [...FEED, ...HEAT, ...PULL],
  'replace-nozzle': [...FEED, ...HEAT, ...PULL],
  'cool-cold-end': [...FEED, ...HEAT],
  'seat-heat-sensor': [...HEAT, ...PULL],
  'tune-heater': HEAT,
  'fix-tube': PULL,
  'dry-filament': [...HEAT, ...PULL],
  'change-filament': [...FEED, ...HEAT, ...PULL, 'size-plate'],
  'nozzle-gap': BASE,
  'level-screws': BASE,
  'map-bed': BASE,
  'seat-bed-sensor': BASE,
  'tension-belts': FRAME,
  'secure-axes': FRAME,
  'square-frame': ['size-plate'],
  'set-steps': ['size-plate'],
}

/**
 * Trials that still stand: those that were made before a repair which changes what they are about say nothing of now. Where the
 * times are not known they are left to speak.
 */
export function standingTrials<T extends ReadTrial>(
  trials: readonly T[],
  attempts: readonly Pick<NotedAttempt, 'mends' | 'createdAt'>[],
): T[] {
  const repairs = attempts.flatMap(({ mends, createdAt }) =>
    createdAt === undefined
      ? []
      : mends.flatMap((m) =>
          m.kind === 'handling' ? [{ at: createdAt, pieces: TAKES_GROUND[m.procedure] ?? [] }] : [],
        ),
  )
  return trials.filter(
    ({ createdAt, plan }) =>
      createdAt === undefined ||
      !repairs.some(({ at, pieces }) => at > createdAt && pieces.includes(plan.piece)),
  )
}
