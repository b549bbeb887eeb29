import type { Filament } from '@verimend/core/material'
import type { Machine } from '@verimend/core/machine'
import type { PairSummary } from '@verimend/contract'
import { useCallback } from 'react'
import { useFilaments, useMachines, usePairs } from '../api/queries'

export interface KnownPair {
  pair: PairSummary
  filament: Filament
  machine: Machine
  /** "Fern green, Potting shed" */
  label: string
}

/** Finds a pair with its roll and machine by id; null while loading and when either was put away. */
export function usePairOf(): (id: string) => KnownPair | null {
  const pairs = usePairs().data
  const filaments = useFilaments().data
  const machines = useMachines().data
  return useCallback(
    (id: string) => {
      const pair = pairs?.find((p) => p.id === id)
      const filament = filaments?.find((f) => f.id === pair?.filamentId)?.filament
      const machine = machines?.find((m) => m.id === pair?.machineId)?.machine
      return pair && filament && machine
        ? { pair, filament, machine, label: `${filament.name}, ${machine.name}` }
        : null
    },
    [pairs, filaments, machines],
  )
}
