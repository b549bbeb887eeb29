import { DEMO_PARTS } from '../src/demo'
import { meshOf, solidOf, type Kernel } from '../src/geometry'
import { USUAL_LAYOUT, judgePlacing, piecesOf, turned } from '../src/planner'
import { kernelReady } from './lib/kernel'
import { bare, laid } from './lib/planned'

let k: Kernel
beforeAll(async () => {
  k = await kernelReady
})

test.each(DEMO_PARTS)('$name is whole, stands, and can be laid', ({ name, make }) => {
  const { solid, mended } = solidOf(k, meshOf(make(k)))
  expect(solid).not.toBeNull()
  expect(mended.mesh.triangles.length).toBeGreaterThan(60)
  const stood = turned(solid!, USUAL_LAYOUT)
  const box = stood.boundingBox()
  expect(box.min[2]).toBeCloseTo(0, 6)
  expect(
    judgePlacing(stood, [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0], { firstHeight: 0.2, density: 1.24 }).contact,
  ).toBeGreaterThan(30)
  expect(laid(k, stood, bare).plan.layers.length).toBeGreaterThan(5)
  const { count, gaps } = piecesOf(k, stood, bare)
  if (name !== 'Vent hinge') expect(count).toBe(1)
  else {
    // the pin turns in its knuckle
    expect(count).toBe(2)
    const aside = gaps.find((g) => !g.upright)!
    expect(aside.gap).toBeGreaterThan(0.25)
    expect(aside.gap).toBeLessThan(0.31)
    expect(gaps.find((g) => g.upright)!.gap).toBeCloseTo(0.2, 6)
  }
})
