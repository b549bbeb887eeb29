import { DEMO_FILES, DEMO_MACHINES, demoFilaments } from '@verimend/core/demo'
import { readGcode } from '@verimend/core/gcode'
import { writePart } from '@verimend/core/planner'
import { said } from '@verimend/core/quantity'
import { deriveRecipe, layOver, printSettingsOf } from '@verimend/core/recipe'
import { printProgram, propertyOf, soundWorld } from '../src'
import { render, type Picture } from '../src/picture/render'

/** The drip-line clips of the demo: their own path file, printed through a tube that moves. */
export function demoPhoto(size: number): Picture {
  const { machine: at, roll, set, part: shape } = DEMO_FILES.clips
  const machine = DEMO_MACHINES[at]
  const filament = demoFilaments('2026-01-01')[roll]
  const pins = layOver({}, set, { source: 'hand', reason: said('') })
  const gcode = writePart(machine, printSettingsOf(deriveRecipe({ machine, filament, pins })), shape)
  const world = propertyOf('slack').hide(soundWorld(machine, filament.family), 0.9, machine)
  const part = printProgram(readGcode(Buffer.from(gcode), { filamentDiameter: 1.75 }), machine, world)
  return render(part, world, 'side', { size, colour: filament.colour })
}
