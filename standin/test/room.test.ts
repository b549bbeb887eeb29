import { writePractice } from '@verimend/core/casework'
import { demoFilaments } from '@verimend/core/demo'
import { readGcode } from '@verimend/core/gcode'
import { cardOf, type FamilyId, type Filament } from '@verimend/core/material'
import { PRACTICE_SIZE } from '@verimend/core/planner'
import { said } from '@verimend/core/quantity'
import { deriveRecipe, layOver, type Changes } from '@verimend/core/recipe'
import fc from 'fast-check'
import { MACHINES } from '../proof/sitting'
import { appearancesOf, packingOf, printProgram, soundWorld, type World } from '../src'
import { roomOf } from '../src/physics/room'

/** Pieces of lines, each from one place to another. */
const lines = (list: readonly (readonly [number, number, number, number])[]) => {
  const column = (k: 0 | 1 | 2 | 3) => list.map((l) => l[k])
  return roomOf({ x0: column(0), y0: column(1), x1: column(2), y1: column(3) }, 0, list.length)
}

describe('the room a line is to fill', () => {
  test('is how far its neighbours are, whatever the direction and the place', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.3, max: 0.9, noNaN: true }),
        fc.double({ min: 0, max: Math.PI, noNaN: true }),
        fc.double({ min: -100, max: 100, noNaN: true }),
        (apart, angle, off) => {
          const [c, s] = [Math.cos(angle), Math.sin(angle)]
          const face = Array.from({ length: 7 }, (_, k): [number, number, number, number] => {
            const across = k * apart
            const forth = k % 2 ? [3, 0] : [0, 3]
            return [
              off + forth[0] * c - across * s,
              forth[0] * s + across * c,
              off + forth[1] * c - across * s,
              forth[1] * s + across * c,
            ]
          })
          for (const r of lines(face)) expect(r).toBeCloseTo(apart, 4)
        },
      ),
      { numRuns: 40, seed: 7 },
    )
  })
  test('a line alone has none; one between unlike neighbours does not tell; one that crosses is none', () => {
    expect(lines([[0, 0, 3, 0]])[0]).toBeNaN()
    expect(lines([[0, 0, 3, 0], [0, 2, 3, 2]])[0]).toBeNaN() // prettier-ignore
    expect(lines([[0, 0, 3, 0], [0, 0.4, 3, 0.4], [0, -0.7, 3, -0.7]])[0]).toBeNaN() // prettier-ignore
    expect(lines([[0, 0, 3, 0], [1, -1, 1, 1]])[0]).toBeNaN() // prettier-ignore
    // one beside the end of another is no neighbour
    expect(lines([[0, 0, 3, 0], [4, 0.4, 7, 0.4]])[0]).toBeNaN() // prettier-ignore
  })
})

const rollOf = (family: FamilyId, more: Partial<Filament> = {}): Filament => ({
  ...demoFilaments('2026-01-01').fern,
  name: cardOf(family).name,
  family,
  label: { nozzle: null, bed: null, speed: null, drying: null },
  measured: [],
  ...more,
})
/** The practice piece of a pair in a world. */
function practised(
  family: FamilyId,
  world: (w: World) => World,
  { set = {}, roll = {} }: { set?: Changes; roll?: Partial<Filament> } = {},
) {
  const machine = MACHINES.direct
  const filament = rollOf(family, roll)
  const pins = layOver({}, set, { source: 'hand', reason: said('') })
  const gcode = writePractice(machine, deriveRecipe({ machine, filament, pins }))
  const there = world(soundWorld(machine, family))
  const part = printProgram(readGcode(Buffer.from(gcode), { filamentDiameter: 1.75 }), machine, there)
  return { part, packing: packingOf(part)!, seen: appearancesOf(part, there, PRACTICE_SIZE) }
}
const same = (w: World) => w

describe('what a person judges by is the part, not what the file feeds', () => {
  const thick = (w: World) => ({ ...w, roll: { ...w.roll, diameter: 1.84 } })
  test('a thick roll is overfull until its diameter is known; and less flow helps as well', () => {
    expect(practised('petg', same).packing).toBeCloseTo(1, 1)
    const fault = practised('petg', thick)
    expect(fault.packing).toBeGreaterThan(1.07)
    expect(fault.seen['top-rough-overfull']).toBeGreaterThan(0.9)
    const measured = Array.from({ length: 6 }, () => ({ a: 1.84, b: null }))
    const known = practised('petg', thick, { roll: { measured } })
    expect(Math.abs(known.packing - 1)).toBeLessThan(0.03)
    expect(known.seen['top-rough-overfull']).toBe(0)
    const less = practised('petg', thick, { set: { flow: 90 } })
    expect(Math.abs(less.packing - 1)).toBeLessThan(0.03)
  })
  test('shrinking shows until the recipe makes up for it, along the axis that it makes up for', () => {
    const bare = practised('pa', same)
    expect(bare.seen['outside-too-small']).toBeGreaterThan(0.9)
    const by = (axis: 'x' | 'y') => Number(((100 * PRACTICE_SIZE[axis]) / bare.part.came[axis]).toFixed(2))
    const both = practised('pa', same, { set: { scaleX: by('x'), scaleY: by('y') } })
    expect(both.seen['outside-too-small']).toBeLessThan(0.1)
    expect(both.seen['error-grows-with-length']).toBeLessThan(0.1)
    const one = practised('pa', same, { set: { scaleX: by('x') } })
    expect(one.seen['one-axis-only']).toBeLessThan(bare.seen['one-axis-only'])
    expect(one.part.came.y).toBeCloseTo(bare.part.came.y, 1)
  })
  test('a contour drawn in makes up for a bead that spreads', () => {
    const wide = (w: World) => ({ ...w, spread: 0.15 })
    const offset = practised('pla', wide, { set: { contourOffset: -0.15 } })
    const bare = practised('pla', wide)
    expect(bare.part.came.y - offset.part.came.y).toBeCloseTo(0.3, 1)
    expect(bare.seen['outside-too-big']).toBeGreaterThan(0.3)
    expect(offset.seen['outside-too-big']).toBe(0)
  })
})
