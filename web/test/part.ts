import { DEMO_MACHINES, demoFilaments } from '@verimend/core/demo'
import { writePart } from '@verimend/core/planner'
import { deriveRecipe, printSettingsOf } from '@verimend/core/recipe'

/** A small part as G-code, with walls, a bore and a step. */
export function partFile(): string {
  const machine = DEMO_MACHINES.greenhouse
  const recipe = deriveRecipe({ machine, filament: demoFilaments('2026-01-01').dew })
  return writePart(machine, printSettingsOf(recipe), {
    shape: 'round',
    width: 16,
    height: 6,
    bore: 5,
    copies: 1,
    apart: 6,
    steps: [],
    slowDown: true,
  })
}
