import fc from 'fast-check'
import { DEMO_MACHINES } from '../src/demo'
import { convexHull, distanceInside } from '../src/geometry'
import { readGcode } from '../src/gcode'
import { readPath } from '../src/toolpath'

/** A solid block as loops of touching squares on each layer, on the bed at (x, y). */
function block(x: number, y: number, side: number, height: number): string[] {
  const w = 0.4
  const h = 0.2
  const perMm = (w * h) / 2.405282
  const out: string[] = []
  for (let z = 1; z <= Math.round(height / h); z++) {
    out.push(`G0 Z${(z * h).toFixed(2)}`)
    for (let r = side / 2 - w / 2; r > 0; r -= w) {
      const corners = [
        [x - r, y - r],
        [x + r, y - r],
        [x + r, y + r],
        [x - r, y + r],
        [x - r, y - r],
      ]
      out.push(`G0 X${corners[0][0].toFixed(3)} Y${corners[0][1].toFixed(3)} F9000`)
      for (const [px, py] of corners.slice(1))
        out.push(`G1 X${px.toFixed(3)} Y${py.toFixed(3)} E${(2 * r * perMm).toFixed(5)} F1800`)
    }
  }
  return out
}
const read = (lines: string[]) =>
  readPath(readGcode(new TextEncoder().encode(['M83', ...lines].join('\n'))), {
    filamentDiameter: 1.75,
    density: 1.24,
    nozzleDiameter: 0.4,
    limits: DEMO_MACHINES.shed.limits,
  })

describe('steadiness against statics', () => {
  test('a block tips by weight × half its side over its height', () => {
    const { push, reach } = read(block(100, 100, 10, 20)).steadiness!
    // 10 × 10 × 20 mm of 1.24 g/cm³: 2.48 g, 24.3 mN; lever 5 mm over 20 mm
    expect(reach).toBeCloseTo(5, 0)
    expect(push).toBeGreaterThan(((24.3 * 5) / 20) * 0.93)
    expect(push).toBeLessThan(((24.3 * 5) / 20) * 1.07)
  })
  test('of two bodies the less steady one counts, and a foot that is off to one side has less reach', () => {
    const both = read([...block(60, 100, 12, 6), ...block(120, 100, 4, 6)]).steadiness!
    expect(both.reach).toBeLessThan(2.5)
    const leaning = [
      ...block(100, 100, 4, 1),
      ...block(102, 100, 8, 4).map((l) => l.replace(/Z([\d.]+)/, (_, z) => `Z${(Number(z) + 1).toFixed(2)}`)),
    ]
    expect(read(leaning).steadiness!.reach).toBeLessThan(1)
  })
})

test('the hull holds every point and its corners are points', () => {
  fc.assert(
    fc.property(
      fc.array(fc.record({ x: fc.integer({ min: -50, max: 50 }), y: fc.integer({ min: -50, max: 50 }) }), {
        minLength: 3,
        maxLength: 60,
      }),
      (points) => {
        const hull = convexHull(points)
        for (const p of hull) expect(points).toContainEqual(p)
        if (hull.length > 2) for (const p of points) expect(distanceInside(hull, p)).toBeGreaterThan(-1e-9)
      },
    ),
  )
})
