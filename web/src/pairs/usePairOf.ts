import type { Filament } from '@verimend/core/material'
import type { Machine } from '@verimend/core/machine'
import type { PairSummary } from '@verimend/contract'
import { useCallback } from 'react'
import { useFilaments, useMachines, usePairs } from '../api/queries'
import { together } from '../components/states'

export interface KnownPair {
  pair: PairSummary
  filament: Filament
  machine: Machine
  /** "Fern green, Potting shed" */
  label: string
}

/** Finds a pair with its roll and machine by id; null while loading and when either was put away. */
export function usePairOf(): (id: string) => KnownPair | null {
  return useKnownPairs().pairOf
}

/** The same, with the question whether all of them are there yet. */
export function useKnownPairs() {
  const asked = together(usePairs(), together(useFilaments(), useMachines()))
  const [pairs, [filaments, machines] = []] = asked.data ?? []
  const pairOf = useCallback(
    (id: string): KnownPair | null => {
      const pair = pairs?.find((p) => p.id === id)
      const filament = filaments?.find((f) => f.id === pair?.filamentId)?.filament
      const machine = machines?.find((m) => m.id === pair?.machineId)?.machine
      return pair && filament && machine
        ? { pair, filament, machine, label: `${filament.name}, ${machine.name}` }
        : null
    },
    [pairs, filaments, machines],
  )
  return { asked, pairOf }
}
