import type { ProcedureId } from '../knowledge/procedures'
import type { SuspectId } from '../knowledge/suspects'
import type { Machine } from '../machine/machine'
import { PRACTICE_PIECE, writePart } from '../planner/part'
import type { ReadingContext } from '../toolpath/analysis'
import { partSettingsOf, printSettingsOf, type ValuesOnly } from '../recipe/derive'

/** What a path file is read with that is printed by a recipe. */
export const readingContextOf = (machine: Machine, { diameter, density }: ValuesOnly): ReadingContext => ({
  filamentDiameter: diameter.value,
  density: density.value,
  nozzleDiameter: machine.nozzle.diameter,
  limits: machine.limits,
})

/** The practice piece as a recipe has it, sizes put right by its offsets and scales. */
export const writePractice = (machine: Machine, values: ValuesOnly): string =>
  writePart(machine, printSettingsOf(values), { ...PRACTICE_PIECE, sizes: partSettingsOf(values) })

/**
 * What a property of a simulated machine that is off is called as a suspect; the first is the name, the others are what a person
 * may rightly say as well. The simulated machines do not know it: it is for whoever keeps the score.
 */
export const NAMED_BY: Readonly<Record<string, readonly SuspectId[]>> = {
  moisture: ['filament-wet'],
  diameter: ['diameter-off', 'flow-too-high', 'flow-too-low', 'feed-steps-off'],
  hotter: ['roll-unlike-family', 'nozzle-too-cold', 'nozzle-too-hot'],
  offset: ['nozzle-reads-off', 'nozzle-too-hot', 'nozzle-too-cold'],
  open: ['partial-blockage'],
  worn: ['nozzle-worn-or-wrong'],
  creeps: ['heat-creep'],
  steps: ['feed-steps-off', 'flow-too-high', 'flow-too-low', 'diameter-off'],
  slack: ['tube-play', 'retraction-too-short'],
  grip: ['feed-slip'],
  gear: ['drive-gear-runout'],
  gap: ['nozzle-gap-too-large', 'nozzle-gap-too-small', 'cold-gap-offset'],
  tilt: ['bed-tilted'],
  bow: ['bed-warped'],
  colder: ['bed-reads-warm', 'bed-too-cold'],
  clean: ['bed-dirty'],
  loose: ['axis-loose'],
  screw: ['screw-wobble'],
  belt: ['belt-tooth-imprint'],
  weakAt: ['steps-lost'],
  skew: ['axes-not-square'],
  scale: ['axis-scale-off'],
  draught: ['draught', 'shrink-stress'],
  blown: ['cooling-too-weak'],
  spread: ['contour-not-compensated'],
  shrinks: ['shrink-not-compensated', 'shrink-stress', 'roll-unlike-family'],
  swing: ['temperature-swing'],
}

/** What is done to a simulated machine when a person says a procedure is done. */
export const DONE_BY: Readonly<Partial<Record<ProcedureId, readonly string[]>>> = {
  'level-screws': ['level-bed'],
  'map-bed': ['flatten-bed'],
  'nozzle-gap': ['set-gap'],
  'wash-bed': ['wash-bed'],
  'dry-filament': ['dry-roll'],
  'change-filament': ['another-roll'],
  'clear-nozzle': ['clear-nozzle'],
  'cold-pull': ['clear-nozzle'],
  'clean-gear': ['clean-gear'],
  'tension-belts': ['tension-belts'],
  'secure-axes': ['tension-belts'],
  'square-frame': ['square-frame'],
  'align-z': ['straighten-screw'],
  'straighten-screw': ['straighten-screw'],
  'cover-frame': ['cover-frame'],
  'tune-heater': ['tune-heater'],
  'fix-tube': ['fix-tube'],
  'seat-heat-sensor': ['seat-heat-sensor'],
  'seat-bed-sensor': ['mend-bed-heater'],
  'replace-nozzle': ['replace-nozzle'],
  'set-steps': ['set-axis-steps'],
  'set-feed-steps': ['set-feed-steps'],
  'cool-cold-end': ['cool-cold-end'],
  'seat-gear': ['reseat-gear'],
}
