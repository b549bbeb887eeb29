import fc from 'fast-check'
import { DEMO_MACHINES, demoFilaments } from '../../src/demo'
import { CARDS, FAMILIES, SURFACES, cardOf, type Filament } from '../../src/material'
import type { Machine } from '../../src/machine'

/** Machines of all sorts: bores, drives, frames, beds, limits. */
export const anyMachine: fc.Arbitrary<Machine> = fc
  .record({
    base: fc.constantFrom(...Object.values(DEMO_MACHINES)),
    nozzle: fc.constantFrom(0.25, 0.4, 0.4, 0.4, 0.6, 0.8, 1),
    hardened: fc.boolean(),
    tube: fc.constantFrom(0, 0, 250, 410, 900),
    enclosed: fc.boolean(),
    chamber: fc.constantFrom(null, null, 60),
    fan: fc.constantFrom(0, 0.5, 1, 1.5),
    bed: fc.constantFrom(0, 60, 80, 85, 90, 100, 120),
    heat: fc.constantFrom(245, 260, 300),
    speed: fc.constantFrom(80, 180, 300, 500),
    acceleration: fc.constantFrom(500, 1500, 5000, 20000),
    surface: fc.constantFrom(...SURFACES),
    levelling: fc.constantFrom('screws' as const, 'probe' as const),
    residual: fc.constantFrom(null, 0.03, 0.08, 0.2),
  })
  .map((v) => ({
    ...v.base,
    nozzle: { diameter: v.nozzle, material: v.hardened ? 'hardened' : 'brass', changedOn: null },
    drive: v.tube ? { kind: 'tube', tubeLength: v.tube } : { kind: 'direct', tubeLength: 0 },
    frame: v.enclosed ? 'enclosed' : 'open',
    chamber: v.enclosed ? v.chamber : null,
    fan: { present: v.fan > 0, strength: v.fan || 1 },
    bed: {
      ...v.base.bed,
      surface: v.surface,
      levelling: v.levelling,
      residual: v.residual,
      printsSinceLevel: null,
      printsSinceWash: null,
    },
    limits: {
      ...v.base.limits,
      bed: v.bed,
      nozzle: v.heat,
      speed: v.speed,
      acceleration: v.acceleration,
      travelAcceleration: v.acceleration,
    },
  }))

/** Rolls of every family, with and without a label. */
export const anyFilament: fc.Arbitrary<Filament> = fc
  .record({
    family: fc.constantFrom(...FAMILIES),
    label: fc.constantFrom(null, null, -8, 0, 8),
    shore: fc.constantFrom(null, -10, 0),
    opened: fc.constantFrom(null, '2025-12-30', '2025-06-01'),
    abrasive: fc.constantFrom(false, false, true),
  })
  .map((v) => {
    const card = cardOf(v.family)
    return {
      ...demoFilaments('2026-01-01').fern,
      name: CARDS[v.family].name,
      family: v.family,
      finish: v.family === 'pla-silk' ? 'silk' : 'plain',
      measured: [],
      shore: card.shore === null || v.shore === null ? null : card.shore + v.shore,
      openedOn: v.opened,
      dryings: [],
      abrasive: v.abrasive,
      weightLeft: 600,
      label: {
        nozzle: v.label === null ? null : { min: card.nozzle.min + v.label, max: card.nozzle.max + v.label },
        bed: null,
        speed: null,
        drying: null,
      },
    }
  })

export const anyPair = fc.record({ machine: anyMachine, filament: anyFilament })
