import { useMemo } from 'react'
import { useFilaments, useMachines, usePairs } from '../api/queries'

/** All pairs by name, the one worked on last first. */
export function usePairNames(): { id: string; name: string }[] {
  const pairs = usePairs().data
  const filaments = useFilaments().data
  const machines = useMachines().data
  return useMemo(
    () =>
      (pairs ?? []).map(({ id, filamentId, machineId }) => {
        const filament = filaments?.find((f) => f.id === filamentId)?.filament.name ?? 'a roll that is gone'
        const machine = machines?.find((m) => m.id === machineId)?.machine.name ?? 'a machine that is gone'
        return { id, name: `${filament} on ${machine}` }
      }),
    [pairs, filaments, machines],
  )
}
