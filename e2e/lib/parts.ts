import {
  DEMO_MACHINES,
  demoFilaments,
  deriveRecipe,
  writePart,
  type PartOptions,
  type Pins,
} from '@verimend/core'

/** A part written for the demo's tube-fed machine, with some settings set by hand. */
export function partFile(part: PartOptions, set: Record<string, number | boolean | string>): string {
  const machine = DEMO_MACHINES.shed
  const filament = demoFilaments('2026-01-01').terracotta
  const pins = Object.fromEntries(
    Object.entries(set).map(([key, value]) => [key, { value, source: 'hand', words: '' }]),
  ) as Pins
  return writePart(machine, deriveRecipe({ machine, filament, pins }), part)
}
