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

/** A file as the browser gives it, as often as it is read. */
export function given(text: string, name = 'part.gcode'): File {
  const bytes = new TextEncoder().encode(text)
  const made = new File([], name)
  Object.defineProperty(made, 'size', { value: bytes.length })
  Object.defineProperty(made, 'stream', {
    value: () => {
      const chunks = [bytes.subarray(0, bytes.length >> 1), bytes.subarray(bytes.length >> 1)]
      return {
        getReader: () => ({
          read: () =>
            Promise.resolve(chunks.length ? { done: false, value: chunks.shift() } : { done: true }),
        }),
      }
    },
  })
  return made
}
