import { DEMO_MACHINES, demoFilaments } from '../../src/demo'
import { filamentArea } from '../../src/extrusion'
import { MoveKind, readGcode, type Program } from '../../src/gcode'
import type { Kernel, Solid } from '../../src/geometry'
import { planPart, writePlan, type PartSettings, type PlanOptions } from '../../src/planner'
import { deriveRecipe, partSettingsOf } from '../../src/recipe'
import { readPath } from '../../src/toolpath'

export const machine = DEMO_MACHINES.greenhouse
export const filament = demoFilaments('2026-01-01').fern
export const usual = partSettingsOf(deriveRecipe({ machine, filament }))
/** Nothing round the part, nothing moved, nothing left out at a seam. */
export const bare: PartSettings = {
  ...usual,
  skirtLoops: 0,
  brimLines: 0,
  cornerTabs: 0,
  draughtWall: 0,
  contourOffset: 0,
  holeOffset: 0,
  footTrim: 0,
  scaleX: 100,
  scaleY: 100,
  scaleZ: 100,
  earlyStop: 0,
  wipe: 0,
  restartExtra: 0,
}

/** A solid planned, written, and the program read again. */
export function laid(k: Kernel, solid: Solid, s: PartSettings, on = machine, options: PlanOptions = {}) {
  const plan = planPart(k, solid, on, s, options)
  const gcode = writePlan(plan, on, s, { title: 'part' })
  const program = readGcode(new TextEncoder().encode(gcode), { filamentDiameter: s.diameter })
  return { plan, gcode, program }
}

/** What the path reader says of a program. */
export const readingOf = (program: Program, s: PartSettings, on = machine) =>
  readPath(program, {
    filamentDiameter: s.diameter,
    density: s.density,
    nozzleDiameter: on.nozzle.diameter,
    limits: on.limits,
  })

/** mm³ that are laid as lines. */
export function fedVolume(p: Program, diameter: number): number {
  let e = 0
  for (let i = 0; i < p.count; i++) if (p.kind[i] === MoveKind.Extrude) e += p.e[i]
  return e * filamentArea(diameter)
}
