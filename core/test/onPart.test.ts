import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import { readGcode } from '../src/gcode'
import type { Kernel } from '../src/geometry'
import {
  USUAL_LAYOUT,
  aboveOf,
  frontOf,
  judgePlacing,
  layPart,
  writePlan,
  type PartSettings,
} from '../src/planner'
import { compareWithRecipe, deriveRecipe, partSettingsOf, recipeWith, type Changes } from '../src/recipe'
import { readPath } from '../src/toolpath'
import { PieceError, STEPPED_ON_PART, makeOnPart, type PiecePlan } from '../src/trials'
import { kernelReady } from './lib/kernel'

let k: Kernel
beforeAll(async () => {
  k = await kernelReady
})

const machine = DEMO_MACHINES.greenhouse
const filament = demoFilaments('2026-01-01').fern
const pair = { machine, filament, recipe: deriveRecipe({ machine, filament }) }
const post = () => k.Manifold.cube([20, 20, 30])
const onPart = (over: object = {}) => ({
  partId: '7b3b7a52-6c1e-4a3f-9d51-0d9f1f7b2c11',
  name: 'Post',
  version: 1,
  sha256: '0'.repeat(64),
  unit: 'mm' as const,
  layout: { ...USUAL_LAYOUT, placement: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0] as const },
  own: {} as Changes,
  from: 2,
  to: 30,
  ...over,
})
const make = (plan: Omit<PiecePlan, 'onPart'>, over: object = {}) =>
  makeOnPart(k, post(), pair, { ...plan, onPart: onPart(over) })
const read = (gcode: string) =>
  readPath(readGcode(new TextEncoder().encode(gcode), { filamentDiameter: 1.75 }), {
    filamentDiameter: 1.75,
    density: 1.24,
    nozzleDiameter: 0.4,
    limits: machine.limits,
  })
const refusal = (work: () => unknown): string => {
  try {
    work()
    return 'made'
  } catch (error) {
    return (error as PieceError).reason.code
  }
}

describe('a trial on a person’s own part', () => {
  test('each band is read back at its own heat, the lowest first; below and above it is the recipe’s', () => {
    const piece = make({
      piece: 'temperature-tower',
      steps: { key: 'nozzle', from: 225, to: 205, count: 5 },
    })
    const { layers } = read(piece.gcode)
    for (const c of piece.cells) {
      const own = layers.z.flatMap((z, i) =>
        z > c.box.z0 + 1e-3 && z <= c.box.z1 + 1e-3 ? [layers.nozzle[i]] : [],
      )
      expect(own.length).toBeGreaterThan(10)
      expect(new Set(own)).toEqual(new Set([c.values.nozzle]))
    }
    expect(layers.nozzle[3]).toBe(pair.recipe.nozzle.value)
    expect(piece.cells.map((c) => c.box.z1 - c.box.z0).every((h) => Math.abs(h - 5.6) < 0.31)).toBe(true)
  })
  test('fan and speed are stepped as well, and held within the machine', () => {
    const fan = read(make({ piece: 'fan-tower', steps: { key: 'fan', from: 20, to: 100, count: 4 } }).gcode)
      .layers.fan
    expect([0.2, 1].map((v) => fan.filter((f) => Math.abs(f - v) < 0.02).length > 20)).toEqual([true, true])
    const fast = read(
      make(
        { piece: 'speed-fins', steps: { key: 'outerSpeed', from: 20, to: 60, count: 4 } },
        { own: { minLayerTime: 0 } },
      ).gcode,
    ).layers.outerAsked
    expect(fast.some((v) => Math.abs(v! - 20) < 1)).toBe(true)
    expect(fast.some((v) => Math.abs(v! - 60) < 1)).toBe(true)
  })
  test('what cannot be told is refused: bands too low, pieces of their own, steps beyond the machine', () => {
    const steps = { key: 'nozzle', from: 225, to: 205, count: 5 } as const
    expect(refusal(() => make({ piece: 'temperature-tower', steps }, { from: 28 }))).toBe('bands-too-low')
    expect(refusal(() => make({ piece: 'string-posts', steps }))).toBe('not-on-part')
    expect(refusal(() => make({ piece: 'fan-tower', steps }))).toBe('not-on-part')
    expect(refusal(() => make({ piece: 'temperature-tower', steps: { ...steps, from: 900 } }))).toBe(
      'end-out-of-bounds',
    )
    expect(
      refusal(() =>
        make({ piece: 'temperature-tower', steps }, { layout: { ...USUAL_LAYOUT, scale: 5000 } }),
      ),
    ).toMatch(/^part-too/)
    expect(STEPPED_ON_PART.map((s) => s.key)).toEqual(expect.arrayContaining(['nozzle', 'fan', 'outerSpeed']))
  })
})

test('drawings: from the front and from above a table has its outline, its foot, and what hangs', () => {
  const table = k.Manifold.cube([6, 14, 6])
    .add(k.Manifold.cube([6, 14, 6]).translate([20, 0, 0]))
    .add(k.Manifold.cube([26, 14, 2]).translate([0, 0, 6]))
  const area = (rings: readonly (readonly (readonly [number, number])[])[]) =>
    rings.reduce((sum, r) => {
      let s = 0
      r.forEach(([x, y], i) => {
        const [u, v] = r[(i + 1) % r.length]
        s += x * v - u * y
      })
      return sum + s / 2
    }, 0)
  const front = frontOf(k, table)
  // two legs and a plate; the arch between them stays open
  expect(area(front.outline)).toBeCloseTo(2 * 36 + 52, 3)
  const hung = front.hanging.flat()
  expect(Math.min(...hung.map((p) => p[0]))).toBeCloseTo(6, 1)
  expect(Math.max(...hung.map((p) => p[0]))).toBeCloseTo(20, 1)
  expect(Math.min(...hung.map((p) => p[1]))).toBeCloseTo(6, 3)
  const judged = judgePlacing(table, [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0], {
    firstHeight: 0.2,
    density: 1.24,
  })
  const above = aboveOf(table, judged, 0.2)
  expect(area(above.foot)).toBeCloseTo(2 * 84, 3)
  expect(area(above.outline)).toBeCloseTo(26 * 14, 3)
  // told from the middle of the part
  expect(above.patches).toHaveLength(1)
  expect([above.patches[0].x, above.patches[0].y].map((v) => Math.abs(v) < 1e-6)).toEqual([true, true])
  expect(above.patches[0].area).toBeCloseTo(14 * 14, 3)
  expect(above.patches[0].radius).toBeGreaterThan(7)
  expect(frontOf(k, k.Manifold.cube([5, 5, 5])).hanging).toEqual([])
})

describe('files against the recipe', () => {
  const departs = (solid: Parameters<typeof layPart>[1], set: Changes, recipe = pair.recipe) => {
    const s: PartSettings = partSettingsOf(recipeWith(pair, set))
    const { plan, settings } = layPart(k, solid, machine, s, USUAL_LAYOUT)
    return compareWithRecipe(read(writePlan(plan, machine, settings, { title: 'x' })), recipe)
  }
  test('a part with no room for all walls does not depart; one wall that was left on does', () => {
    const tube = k.Manifold.cylinder(20, 9, 9, 64).subtract(k.Manifold.cylinder(20, 7.6, 7.6, 64))
    const three = recipeWith(pair, { wallCount: 4 })
    expect(departs(tube, { wallCount: 4 }, three).map((d) => d.key)).toEqual([])
    const cup = k.Manifold.cylinder(20, 12, 12, 64)
    expect(departs(cup, { spiral: true }).find((d) => d.key === 'spiral')).toMatchObject({
      recipe: false,
      file: true,
      leftover: true,
    })
    expect(departs(cup, { spiral: true }, recipeWith(pair, { spiral: true })).map((d) => d.key)).toEqual([])
    expect(departs(cup, { wallCount: 1 }).some((d) => d.key === 'wallCount' && d.leftover)).toBe(true)
  })
})
