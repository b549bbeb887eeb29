import type { ProcedureId } from '../knowledge/procedures'
import type { Machine } from '../machine/machine'
import { dryingOf, type Filament } from '../material/filament'

/**
 * A machine after something was done to it by hand: what it notes of itself then says so.
 * @param today ISO date
 */
export function machineAfter(machine: Machine, done: readonly ProcedureId[], today: string): Machine {
  const bed = { ...machine.bed }
  if (done.includes('wash-bed')) bed.printsSinceWash = 0
  // screws that were turned leave a bed nobody has measured
  if (done.includes('level-screws')) {
    bed.printsSinceLevel = 0
    bed.residual = null
  }
  const nozzle = done.includes('replace-nozzle') ? { ...machine.nozzle, changedOn: today } : machine.nozzle
  return { ...machine, bed, nozzle }
}

/**
 * A roll after something was done to it by hand: dried as its label or card has it.
 * @param today ISO date
 */
export function filamentAfter(filament: Filament, done: readonly ProcedureId[], today: string): Filament {
  if (!done.includes('dry-filament') || filament.dryings.some((d) => d.on === today)) return filament
  const { temperature, hours } = dryingOf(filament)
  return { ...filament, dryings: [...filament.dryings, { on: today, temperature, hours }] }
}
