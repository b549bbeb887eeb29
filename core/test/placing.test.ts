import fc from 'fast-check'
import { faceOf, meshOf, placed, type Kernel, type Solid } from '../src/geometry'
import { downFaces, judgePlacing, placingCosts, rankPlacings, standing, turnedDown } from '../src/planner'
import { kernelReady } from './lib/kernel'
import { tries } from './lib/property'

let k: Kernel
beforeAll(async () => {
  k = await kernelReady
})
const AS_IS = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0] as const
const options = { firstHeight: 0.2, density: 1.24 }
const pair = { shrink: 0.3, bridges: 12 }
const judged = (solid: Solid) => judgePlacing(solid, AS_IS, options)
const within = (got: number, wanted: number, share = 0.01) =>
  expect(Math.abs(got / wanted - 1)).toBeLessThan(share)

describe('against closed forms', () => {
  const many = 256
  test('a cube stands on its face, hangs nowhere, and tips at half of its weight', () => {
    const j = judged(k.Manifold.cube([20, 20, 20]))
    expect([j.islands, j.hanging45, j.hanging60, j.bridge]).toEqual([1, 0, 0, 0])
    within(j.contact, 400)
    expect(j.corners).toBe(1)
    // 8 cm³ at 1.24 g/cm³, ten millimetres from the middle to an edge, pushed at twenty
    within(j.push, (0.00992 * 9.81 * 10) / 20)
  })
  test('a sphere touches with a cap of its first layer; what hangs past an angle is a cap as well', () => {
    const r = 20
    const j = judged(k.Manifold.sphere(r, many))
    // cut half way up the first layer: radius² = 2·r·h − h²
    within(j.contact, Math.PI * (2 * r * 0.1 - 0.01), 0.03)
    // area of a cap: 2·π·r·(its height)
    within(j.hanging45, 2 * Math.PI * r * r * (1 - Math.cos(Math.PI / 4)), 0.02)
    within(j.hanging60, 2 * Math.PI * r * r * (1 - Math.cos(Math.PI / 6)), 0.03)
    expect(j.patches).toHaveLength(1)
    expect(j.push).toBeLessThan(0.1)
  })
  test('a cone on its tip hangs all round once it is flatter than 45°, on its base nowhere', () => {
    const flat = k.Manifold.cylinder(10, 14, 1, many)
    expect(judged(flat).hanging45).toBe(0)
    const j = judged(flat.rotate([180, 0, 0]))
    // side of a truncated cone: π·(R + r)·slant; its slope is 52.4° from upright
    within(j.hanging45, Math.PI * 15 * Math.hypot(13, 10))
    expect(j.hanging60).toBe(0)
    const steep = k.Manifold.cylinder(20, 14, 1, many).rotate([180, 0, 0])
    expect(judged(steep).hanging45).toBe(0)
  })
  test('a torus lying down: half of the tube’s underside hangs past 45°, but for what lies on the bed', () => {
    const ring = Array.from({ length: 360 }, (_, i): [number, number] => [
      20 + 6 * Math.cos((2 * Math.PI * i) / 360),
      6 * Math.sin((2 * Math.PI * i) / 360),
    ])
    const j = judged(new k.CrossSection([ring]).revolve(many))
    // tube radius a round R, from 45° to either side of straight down: 2·π·R·a·(π/2), less what lies on the bed
    const lies = 2 * Math.acos(1 - 0.05 / 6)
    within(j.hanging45, 2 * Math.PI * 20 * 6 * (Math.PI / 2 - lies), 0.02)
    expect(j.islands).toBe(1)
  })
  test('a table has a ceiling to be bridged between its legs, two rings are two pieces on the bed', () => {
    const leg = k.Manifold.cube([5, 20, 10])
    const table = leg.add(leg.translate([30, 0, 0])).add(k.Manifold.cube([35, 20, 2]).translate([0, 0, 10]))
    const j = judged(table)
    within(j.hanging45, 25 * 20)
    // held along its long sides: the narrower way is what a bridge spans
    expect(j.patches[0]).toMatchObject({ ceiling: true, from: 10 })
    expect(j.bridge).toBeCloseTo(20, 1)
    expect(j.islands).toBe(2)
    within(j.contact, 200)
  })
})

test('any direction is laid straight down by a turn that keeps lengths', () => {
  fc.assert(
    fc.property(
      fc.double({ min: -1, max: 1, noNaN: true }),
      fc.double({ min: 0, max: 2 * Math.PI, noNaN: true }),
      (z, a) => {
        const r = Math.sqrt(1 - z * z)
        const n = [r * Math.cos(a), r * Math.sin(a), z] as const
        const m = turnedDown(n)
        const apply = (v: readonly number[]) =>
          [0, 4, 8].map((o) => m[o] * v[0] + m[o + 1] * v[1] + m[o + 2] * v[2])
        const down = apply(n)
        expect(down[0]).toBeCloseTo(0, 6)
        expect(down[1]).toBeCloseTo(0, 6)
        expect(down[2]).toBeCloseTo(-1, 6)
        for (const v of [
          [1, 0, 0],
          [0.3, -0.5, 0.2],
        ])
          expect(Math.hypot(...apply(v))).toBeCloseTo(Math.hypot(...v), 9)
      },
    ),
    tries(100),
  )
})

test('faces to stand on are those of the hull, the largest first; each of them ends on the bed', () => {
  const block = k.Manifold.cube([30, 20, 5])
  const faces = downFaces(block)
  expect(faces.map((f) => Math.round(f.area))).toEqual([600, 600, 150, 150, 100, 100])
  for (const { placement, area } of faces) {
    const turned = standing(block, placement)
    const { min } = turned.boundingBox()
    expect(min[2]).toBeCloseTo(0, 5)
    // what lies on the bed is as large as the face
    const mesh = meshOf(turned)
    let down = 0
    for (let f = 0; f < mesh.triangles.length / 3; f++) {
      const face = faceOf(mesh, f)
      if (face.normal[2] < -0.999) down += face.area
    }
    within(down, area)
    turned.delete()
  }
  // the kernel's turn is the mesh's
  const [x0] = placed(meshOf(block), faces[4].placement).vertices
  expect(Number.isFinite(x0)).toBe(true)
})

test('ranking: flat side down first, whichever way the part comes; an arrow lays layers along the load', () => {
  const bracket = k.Manifold.cube([40, 20, 4]).add(k.Manifold.cube([4, 20, 30]))
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 3 }), fc.integer({ min: 0, max: 3 }), (a, b) => {
      const turned = bracket.rotate([90 * a, 90 * b, 0])
      const [best, ...others] = rankPlacings(turned, options, pair)
      // nothing hangs, and no placing costs less
      expect(best.judged.hanging45).toBeLessThan(1)
      expect(best.costs.reduce((s, c) => s + c.cost, 0)).toBeCloseTo(best.cost, 9)
      for (const o of others) expect(o.cost).toBeGreaterThanOrEqual(best.cost)
    }),
    tries(8),
  )
  // a bar pulled along its length lies down; one pulled across its flat side as well
  const bar = k.Manifold.cube([8, 8, 60])
  const lying = rankPlacings(bar, { ...options, load: [0, 0, 1] }, pair)[0]
  expect(lying.judged.height).toBeCloseTo(8, 3)
  expect(lying.judged.layersPulled).toBeCloseTo(0, 6)
  const standingUp = judgePlacing(bar, AS_IS, { ...options, load: [0, 0, 1] })
  expect(standingUp.layersPulled).toBe(1)
  expect(placingCosts(standingUp, pair)[0].cost).toBeGreaterThan(1)
})
