import { useMutation, useQueryClient } from '@tanstack/react-query'
import type { PairDetail } from '@verimend/contract'
import type { MeasuredKind } from '@verimend/core/measurement'
import { useNavigate } from 'react-router'
import { api } from '../api/client'
import { changed, keys } from '../api/keys'
import { startWith } from './startWith'

/** What is of the machine alone, whatever roll is in it. */
const OF_MACHINE: ReadonlySet<MeasuredKind> = new Set(['bed', 'feed', 'heater', 'thread'] as const)

/** Begins a measurement and opens it; in a case it belongs to the case. */
export function useBegin(pair: PairDetail, caseId: string | null = null) {
  const client = useQueryClient()
  const navigate = useNavigate()
  const create = useMutation({
    mutationFn: (kind: MeasuredKind) =>
      api.measurements.create({
        machineId: pair.machineId,
        // a bed's gap and first layer go into this pair's recipe
        pairId: OF_MACHINE.has(kind) && kind !== 'bed' ? null : pair.id,
        caseId,
        measured: startWith(kind, pair.machine.machine),
      }),
    onSuccess: (kept) => {
      client.setQueryData(keys.measurements.one(kept.id), kept)
      void changed.measurement(client)
      void navigate(`/measure/${kept.id}`)
    },
  })
  return { begin: (kind: MeasuredKind) => create.mutate(kind), busy: create.isPending, error: create.error }
}
