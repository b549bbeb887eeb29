import fc from 'fast-check'
import { EndType, JoinType, areaPathsD, inflatePathsD } from 'clipper2-ts'
import { scoped, type Kernel, type Ring, type Solid } from '../src/geometry'
import {
  bridgeAngle,
  hatch,
  isInside,
  lengthOf,
  onBed,
  slicesOf,
  toAndFro,
  type PartSettings,
} from '../src/planner'
import { kernelReady } from './lib/kernel'
import { bare } from './lib/planned'
import { tries } from './lib/property'

let k: Kernel
beforeAll(async () => {
  k = await kernelReady
})

describe('slices against closed forms', () => {
  const many = 200
  const areasOf = (solid: Solid, s: PartSettings) =>
    scoped((keep) =>
      slicesOf(k, keep(onBed(solid, 0, 0)), s, keep).map(({ z, h, area }) => ({
        at: z - h / 2,
        area: area.area(),
      })),
    )
  test('sphere and cone: each layer as large as the circle there, the whole as large as the solid', () => {
    for (const { at, area } of areasOf(k.Manifold.sphere(15, many), bare)) {
      const wanted = Math.PI * Math.max(0, 15 ** 2 - (at - 15) ** 2)
      if (wanted > 20) expect(Math.abs(area / wanted - 1)).toBeLessThan(0.01)
    }
    const cone = areasOf(k.Manifold.cylinder(20, 12, 2, many), bare)
    for (const { at, area } of cone.slice(0, -1)) {
      const r = 12 - (10 * at) / 20
      expect(Math.abs(area / (Math.PI * r * r) - 1)).toBeLessThan(0.01)
    }
  })
  test('a block with a bore: contour, hole and foot move the edges they should, and no other', () => {
    const block = k.Manifold.cube([40, 30, 6]).subtract(
      k.Manifold.cylinder(6, 5, 5, many).translate([20, 15, 0]),
    )
    // an island within the bore
    const solid = block.add(k.Manifold.cylinder(6, 2, 2, many).translate([20, 15, 0]))
    const hole = Math.PI * 25
    const pin = Math.PI * 4
    const of = (set: Partial<PartSettings>) => areasOf(solid, { ...bare, ...set })
    const near = (got: number, wanted: number) => expect(Math.abs(got - wanted)).toBeLessThan(0.3)
    near(of({})[5].area, 1200 - hole + pin)
    near(of({ contourOffset: -0.1 })[5].area, 39.8 * 29.8 - Math.PI * 5.1 ** 2 + Math.PI * 1.9 ** 2)
    near(of({ holeOffset: 0.2 })[5].area, 1200 - Math.PI * 5.2 ** 2 + pin)
    near(of({ holeOffset: -0.2 })[5].area, 1200 - Math.PI * 4.8 ** 2 + pin)
    const trimmed = of({ footTrim: 0.2 })
    near(trimmed[0].area, 39.6 * 29.6 - Math.PI * 5.2 ** 2 + Math.PI * 1.8 ** 2)
    near(trimmed[5].area, 1200 - hole + pin)
    near(of({ scaleX: 102 })[5].area, 1.02 * (1200 - hole + pin))
  })
  test('offsets agree with another library', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: -3000, max: 3000 }), fc.integer({ min: -3000, max: 3000 })), {
          minLength: 3,
          maxLength: 9,
        }),
        fc.integer({ min: -120, max: 200 }),
        (corners, by) => {
          const ring = corners.map(([x, y]): [number, number] => [x / 100, y / 100])
          const delta = by / 100
          scoped((keep) => {
            const ours = keep(keep(new k.CrossSection([ring], 'EvenOdd')).offset(delta, 'Miter', 2))
            // the other one gets the same outline, crossings taken out
            const clean = keep(new k.CrossSection([ring], 'EvenOdd')).toPolygons()
            const theirs = inflatePathsD(
              clean.map((r) => r.map(([x, y]) => ({ x, y }))),
              delta,
              JoinType.Miter,
              EndType.Polygon,
              2,
              6,
            )
            const area = areaPathsD(theirs)
            expect(Math.abs(ours.area() - area)).toBeLessThan(0.01 * Math.max(1, Math.abs(area)) + 0.05)
          })
        },
      ),
      tries(60),
    )
  })
})

describe('filling', () => {
  const square = (side: number): Ring => [
    [0, 0],
    [side, 0],
    [side, side],
    [0, side],
  ]
  test('lines across a square and a ring are as long as geometry says', () => {
    // 20 mm side, lines 1 mm apart: so long as the area over their distance
    for (const angle of [0, 30, 45, 90, 135])
      expect(Math.abs(lengthOf(hatch([square(20)], angle, 0.05)) * 0.05 - 400)).toBeLessThan(2)
    const hole: Ring = [
      [5, 5],
      [5, 15],
      [15, 15],
      [15, 5],
    ]
    const rows = hatch([square(20), hole], 0, 0.5, 0.25)
    expect(lengthOf(rows) * 0.5).toBeCloseTo(300, 6)
    // where the hole is, each row has two lines
    expect(rows[20].length).toBe(2)
    expect(hatch([], 0, 1)).toEqual([])
  })
  test('to and fro lays every line once, whatever the shape', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(400), fc.nat(400)), { minLength: 3, maxLength: 12 }),
        fc.integer({ min: 0, max: 179 }),
        (corners, angle) => {
          const rows = hatch([corners.map(([x, y]): [number, number] => [x / 10, y / 10])], angle, 0.7)
          const paths = toAndFro(rows, 1.5)
          const all = rows.flat().length
          expect(paths.reduce((s, p) => s + p.length / 2, 0)).toBe(all)
        },
      ),
      tries(60),
    )
  })
  test('a bridge runs across the shorter span that is held at both ends', () => {
    const gap = (w: number, d: number): Ring => [
      [0, 0],
      [w, 0],
      [w, d],
      [0, d],
    ]
    // carried at left and right
    const piers: Ring[] = [
      [
        [-5, -1],
        [0.5, -1],
        [0.5, 11],
        [-5, 11],
      ],
      [
        [29.5, -1],
        [40, -1],
        [40, 11],
        [29.5, 11],
      ],
    ]
    const found = bridgeAngle([gap(30, 10)], piers, 0.4)!
    expect(found.angle).toBe(0)
    expect(found.span).toBeCloseTo(30, 1)
    // carried all round: across the short way
    const frame: Ring[] = [
      [
        [-9, -9],
        [39, -9],
        [39, 19],
        [-9, 19],
      ],
      [
        [0.2, 0.2],
        [0.2, 9.8],
        [29.8, 9.8],
        [29.8, 0.2],
      ],
    ]
    expect(bridgeAngle([gap(30, 10)], frame, 0.4)!.angle).toBe(90)
    expect(bridgeAngle([gap(30, 10)], [], 0.4)).toBeNull()
    expect(isInside([gap(30, 10)], 15, 5)).toBe(true)
  })
})
