import { DEMO_MACHINES, demoFilaments } from '@verimend/core/demo'
import { writePart, type PartOptions } from '@verimend/core/planner'
import { said } from '@verimend/core/quantity'
import { deriveRecipe, layOver, printSettingsOf, type Changes } from '@verimend/core/recipe'

/** A part written for the demo's tube-fed machine, with some settings set by hand. */
export function partFile(part: PartOptions, set: Changes): string {
  const machine = DEMO_MACHINES.shed
  const filament = demoFilaments('2026-01-01').terracotta
  const pins = layOver({}, set, { source: 'hand', reason: said('') })
  return writePart(machine, printSettingsOf(deriveRecipe({ machine, filament, pins })), part)
}
