import { useQuery } from '@tanstack/react-query'
import type { PairDetail } from '@verimend/contract'
import type { PieceCost, PieceId } from '@verimend/core/trials'
import { keys } from '../api/keys'
import { onBench } from '../pairs/onBench'
import { compute } from '../workers/compute'

/** What each piece takes on a pair with its present recipe; undefined until it is worked out. */
export function usePieceCosts(pair: PairDetail | undefined): Partial<Record<PieceId, PieceCost>> | undefined {
  return useQuery({
    queryKey: keys.pairs.costs(pair?.id, pair?.version.number, pair?.machine.rev, pair?.filament.rev),
    queryFn: ({ signal }) => compute('pieceCosts', onBench(pair!), signal),
    enabled: !!pair,
    staleTime: Infinity,
  }).data
}
