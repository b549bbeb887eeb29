import fc from 'fast-check'
import { startFrom, UNKNOWN_PAIR, writePractice } from '../src/casework'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import { readGcode } from '../src/gcode'
import { MACHINE_KINDS, type Machine, type MachineKindId } from '../src/machine'
import { CARDS, type FamilyId } from '../src/material'
import { deriveRecipe } from '../src/recipe'
import { readPath } from '../src/toolpath'
import { say } from '../src/words'
import { tries } from './lib/property'

const roll = demoFilaments('2026-01-01').fern
const label = { nozzle: null, bed: null, speed: null, drying: null }
const readingOf = (machine: Machine, family: FamilyId) => {
  const recipe = deriveRecipe({ machine, filament: { ...roll, family, label, measured: [] } })
  return readPath(
    readGcode(Buffer.from(writePractice(machine, recipe)), { filamentDiameter: 1.75 }),
    UNKNOWN_PAIR,
  )
}
const ofKind = (kind: MachineKindId): Machine => ({ ...MACHINE_KINDS[kind].body, name: kind, notes: '' })

/** Families that a machine of a kind can print as their cards want, and that differ in what a file says. */
const TOLD: readonly FamilyId[] = ['pla', 'petg', 'abs', 'tpu-95a', 'pa', 'pc']

test('a file written for a family and a kind of machine is told for what it is', () => {
  for (const kind of ['open-tube', 'enclosed-fast'] as const)
    for (const family of TOLD) {
      const machine = ofKind(kind)
      if (CARDS[family].nozzle.start > machine.limits.nozzle || CARDS[family].bed.rest > machine.limits.bed)
        continue
      const start = startFrom(readingOf(machine, family))
      const near = start.families.slice(0, 3).map((f) => f.family)
      expect(near).toContain(family)
      // soft plastic is not pulled back through a tube: nothing tells the drive
      if (kind === 'open-tube' && !CARDS[family].flexible) expect(start.kind).toBe('open-tube')
      if (kind === 'enclosed-fast') expect(start.machine.drive.kind).toBe('direct')
      expect(start.machine.nozzle.diameter).toBe(0.4)
    }
})

test('a nozzle of another width and a bed of another size are read off the lines', () => {
  const wide = { ...DEMO_MACHINES.shed, nozzle: { ...DEMO_MACHINES.shed.nozzle, diameter: 0.8 } }
  const start = startFrom(readingOf(wide, 'pla'))
  expect(start.machine.nozzle.diameter).toBe(0.8)
  expect(start.reasons.map((r) => say(r)).join(' ')).toMatch(/need a nozzle of 0\.8/)
})

test('laws: chances are chances, and the machine can do what the file asks', () => {
  const base = readingOf(DEMO_MACHINES.shed, 'pla')
  fc.assert(
    fc.property(
      fc.record({
        nozzle: fc.option(fc.integer({ min: 0, max: 480 }), { nil: null }),
        bed: fc.option(fc.integer({ min: 0, max: 140 }), { nil: null }),
        fan: fc.double({ min: 0, max: 1, noNaN: true }),
        length: fc.option(fc.double({ min: 0, max: 12, noNaN: true }), { nil: null }),
        reach: fc.double({ min: 1, max: 900, noNaN: true }),
        height: fc.double({ min: 0.2, max: 900, noNaN: true }),
      }),
      ({ nozzle, bed, fan, length, reach, height }) => {
        const start = startFrom({
          ...base,
          rest: { ...base.rest, nozzle, bed, fan },
          retraction: { ...base.retraction, length },
          layers: {
            ...base.layers,
            nozzle: base.layers.nozzle.map(() => nozzle),
            bed: base.layers.bed.map(() => bed),
          },
          box: { minX: 0, minY: 0, maxX: reach, maxY: reach / 2 },
          height,
        })
        const sum = start.families.reduce((s, f) => s + f.chance, 0)
        expect(sum).toBeCloseTo(1, 6)
        expect(start.families.every((f, i, all) => !i || f.chance <= all[i - 1].chance)).toBe(true)
        // but for heat that a hot end or a bed seldom bears
        expect(start.machine.limits.nozzle).toBeGreaterThanOrEqual(Math.min(300, nozzle ?? 0))
        expect(start.machine.limits.bed).toBeGreaterThanOrEqual(Math.min(120, bed ?? 0))
        expect(start.machine.limits.nozzle).toBeLessThanOrEqual(300)
        expect(start.machine.limits.bed).toBeLessThanOrEqual(120)
        expect(start.reasons.filter((r) => r.code === 'start-too-hot')).toHaveLength(
          Number((nozzle ?? 0) > 300) + Number((bed ?? 0) > 120),
        )
        expect(start.machine.bed.width).toBeGreaterThanOrEqual(reach)
        expect(start.machine.height).toBeGreaterThanOrEqual(height)
        for (const r of start.reasons) expect(say(r)).not.toMatch(/undefined|NaN/)
      },
    ),
    tries(60),
  )
})
