import fc from 'fast-check'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import { findingContext, findingsOf } from '../src/diagnosis'
import { beadArea, filamentArea } from '../src/extrusion'
import { GcodeError, readGcode } from '../src/gcode'
import { deriveRecipe } from '../src/recipe'
import { readPath, type PathReading } from '../src/toolpath'
import { say } from '../src/words'
import { tries } from './lib/property'

// Files of a few lines whose truth is worked out here, apart from the reader. Plain geometry throughout.
const machine = { ...DEMO_MACHINES.shed, limits: { ...DEMO_MACHINES.shed.limits, acceleration: 1e6 } }
const context = {
  filamentDiameter: 1.75,
  density: 1.24,
  nozzleDiameter: 0.4,
  limits: { ...machine.limits, corner: { kind: 'instant-change', limit: 100 } as const },
}
const area = filamentArea(1.75)
const read = (lines: string[]): PathReading =>
  readPath(readGcode(new TextEncoder().encode(['G90', 'M83', ...lines].join('\n'))), context)
const f = (v: number) => v.toFixed(5)
const W = 0.45
const H = 0.2
/** mm of filament for a line of the usual bead. */
const feed = (mm: number, section = beadArea(W, H)) => f((mm * section) / area)

/** A line from where the head stands, fed as the usual bead. */
const to = (x0: number, y0: number, x: number, y: number, section?: number, speed = 30) =>
  `G1 X${f(x)} Y${f(y)} E${feed(Math.hypot(x - x0, y - y0), section)} F${speed * 60}`
const square = (x: number, y: number, side: number, section?: number) => [
  `G0 X${f(x)} Y${f(y)} F6000`,
  to(x, y, x + side, y, section),
  to(x + side, y, x + side, y + side, section),
  to(x + side, y + side, x, y + side, section),
  to(x, y + side, x, y, section),
]
const layersOf = (n: number, draw: (k: number) => string[], first = H) =>
  Array.from({ length: n }, (_, k) => [`G0 Z${f(first + k * H)} F600`, ...draw(k)]).flat()
const tower = layersOf(6, () => square(50, 50, 20))
/** A plate of lines so far apart. */
const plate = (spacing: number, section: number) => {
  const out: string[] = []
  for (let k = 0; k < 40; k++) {
    const y = 50 + k * spacing
    const [a, b] = k % 2 ? [90, 50] : [50, 90]
    out.push(`${k ? 'G1' : 'G0'} X${a} Y${f(y)} ${k ? `E${feed(spacing, section)} ` : ''}F1800`)
    out.push(to(a, y, b, y, section))
  }
  return out
}

describe('truths worked out apart from the reader', () => {
  test('the melt peak of a circle of 0.3 mm chords, and of the same circle as arcs', () => {
    const r = 15
    const n = Math.round((2 * Math.PI * r) / 0.3)
    const chords = (z: number) => [
      `G0 X${f(100 + r)} Y100 Z${f(z)} F6000`,
      ...Array.from({ length: n }, (_, k) => {
        const at = (j: number) => [
          100 + r * Math.cos((2 * Math.PI * j) / n),
          100 + r * Math.sin((2 * Math.PI * j) / n),
        ]
        const [x0, y0] = at(k)
        const [x, y] = at(k + 1)
        return to(x0, y0, x, y, undefined, 50)
      }),
    ]
    const half = feed(Math.PI * r)
    const arcs = (z: number) => [
      `G0 X${f(100 + r)} Y100 Z${f(z)} F6000`,
      `G3 X${f(100 - r)} Y100 I${-r} J0 E${half} F3000`,
      `G3 X${f(100 + r)} Y100 I${r} J0 E${half} F3000`,
    ]
    const truth = beadArea(W, H) * 50
    for (const draw of [chords, arcs]) {
      const { meltPeak } = read([0.2, 0.4, 0.6, 0.8].flatMap(draw))
      expect(Math.abs(meltPeak / truth - 1)).toBeLessThan(0.03)
    }
  })
  test('a purge line lower than the first layer is no layer', () => {
    const purge = ['G0 X5 Y10 Z0.1 F6000', to(5, 10, 5, 120)]
    const r = read([...purge, ...tower])
    expect([r.layerCount, r.firstLayer!.height, r.primed]).toEqual([6, 0.2, true])
    expect(r.layers.z[0]).toBe(0.2)
  })
  test('plastic laid at Z 0 makes no bead without end', () => {
    const r = read(['G0 X5 Y10 Z0 F6000', to(5, 10, 60, 10), ...tower])
    expect(r.layerCount).toBe(6)
    for (const w of r.layers.width) expect(w!).toBeLessThan(1)
    expect(r.firstLayer!.width).toBeCloseTo(W, 2)
  })
  test.each([
    ['by the whole width of the bead', W, 1, 100],
    ['as lines touch', W - H * (1 - Math.PI / 4), 1, 100],
    ['as lines touch, fed a fifth more', W - H * (1 - Math.PI / 4), 1.2, 120],
  ])('first-layer flow of lines spaced %s', (_, spacing, times, truth) => {
    const section = beadArea(W, H) * times
    const r = read([
      `G0 Z${H} F600`,
      ...plate(spacing, section),
      ...layersOf(5, () => square(50, 50, 40), 2 * H),
    ])
    expect(Math.abs(r.firstLayer!.flow! - truth)).toBeLessThan(1)
  })
  test('a wait after the last line counts', () => {
    const r = read([...tower, 'G4 P7000'])
    expect(Math.max(...r.stops.map((s) => s.seconds))).toBeCloseTo(7, 3)
  })
  test('the heater of another tool is not this nozzle', () => {
    const r = read(['M104 S215', 'M109 S215', 'M104 T1 S0', ...tower])
    expect([r.firstLayer!.nozzle, r.rest.nozzle]).toEqual([215, 215])
  })
  test('a number with an exponent is refused with a sentence, and its line is left out', () => {
    const good = read(tower)
    const r = read([...tower, 'G1 X60 Y60 E1.2e-05 F1800', 'G1X1E-05Y2', 'g1 x3e+02 y1'])
    expect(r.faultCount).toBe(3)
    expect(say(r.faults[0].reason)).toMatch(/exponent/)
    expect([r.layerCount, r.retraction.kind]).toEqual([good.layerCount, 'none'])
    // a feed that follows a number without a blank is none
    expect(read([...tower, 'G1X60Y60E0.5F1800', 'G1X61E-1.5']).faultCount).toBe(0)
  })
  test('more stops over the part than are kept one by one are still counted', () => {
    const r = read(layersOf(150, () => [...square(50, 50, 20), 'G0 X60 Y60 F6000', 'G4 P1500']))
    expect([r.stops.length, r.stopsOverPart]).toEqual([100, 150])
  })
  test('a raft of one layer is a raft', () => {
    const wide = beadArea(1.2, 0.3)
    const lines = Array.from({ length: 12 }, (_, k) => [
      `G0 X44 Y${f(44 + k * 2.6)} F6000`,
      to(44, 44 + k * 2.6, 76, 44 + k * 2.6, wide),
    ]).flat()
    const r = read(['G0 Z0.3 F600', ...lines, ...layersOf(6, () => square(50, 50, 20), 0.5)])
    expect([r.base.raftLayers, r.base.support]).toEqual([1, false])
  })
  test('a hollow part has no open base, and its walls stand on what is laid', () => {
    const r = 12
    const n = 180
    const ring = () => {
      const at = (j: number) => [
        100 + r * Math.cos((2 * Math.PI * j) / n),
        100 + r * Math.sin((2 * Math.PI * j) / n),
      ]
      return [
        `G0 X${f(100 + r)} Y100 F6000`,
        ...Array.from({ length: n }, (_, k) => {
          const [x0, y0] = at(k)
          const [x, y] = at(k + 1)
          return to(x0, y0, x, y)
        }),
      ]
    }
    const first = read(layersOf(6, ring)).firstLayer!
    expect(first.gaps).toBe(0)
    // a ring: circumference by width of the bead
    expect(Math.abs(first.contact / (2 * Math.PI * r * W) - 1)).toBeLessThan(0.02)
  })
  test('contact of single walls is their length by their width within 2 %, whatever the size', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 8, max: 140, noNaN: true }),
        fc.double({ min: 0.35, max: 0.9, noNaN: true }),
        (side, width) => {
          const section = beadArea(width, H)
          const first = read(layersOf(4, () => square(20, 20, side, section))).firstLayer!
          // four lines that meet at their ends: each corner is laid twice by half a width, and lacks a quarter
          const truth = 4 * side * width
          expect(Math.abs(first.contact / truth - 1)).toBeLessThan(0.02 + width / (2 * side))
        },
      ),
      tries(25),
    )
  })
  test('the layer time is named as the cause only where the file shows it', () => {
    const at = (speeds: (k: number) => number) =>
      read(layersOf(30, (k) => square(50, 50, 20).map((l) => l.replace(/F1800$/, `F${speeds(k) * 60}`))))
    const pair = { machine, filament: demoFilaments('2026-01-01').fern }
    const told = (r: PathReading) =>
      findingsOf(r, findingContext({ ...pair, recipe: deriveRecipe(pair) })).find(
        (x) => x.kind === 'slow-down-swings',
      )!
    // a slow zone by choice: other layers are quicker than the slow ones
    expect(
      (told(at((k) => (k > 10 && k < 20 ? 12 + (k % 4) * 3 : 40))).values as { held: number | null }).held,
    ).toBeNull()
  })
  test('a program that lays nothing says so', () => {
    expect(() => read(['G28', 'G1 X10 Y10 F6000'])).toThrow(GcodeError)
    try {
      read(['G28', 'G1 X10 Y10 F6000'])
    } catch (error) {
      expect(say((error as GcodeError).reason)).toMatch(/lays no plastic/)
    }
  })
  test('two findings never contradict each other', () => {
    const pair = { machine, filament: demoFilaments('2026-01-01').fern }
    const scope = findingContext({ ...pair, recipe: deriveRecipe(pair) })
    fc.assert(
      fc.property(fc.integer({ min: 5, max: 90 }), fc.integer({ min: 5, max: 120 }), (first, rest) => {
        const r = read(
          layersOf(8, (k) =>
            square(50, 50, 20).map((l) => l.replace(/F1800$/, `F${(k ? rest : first) * 60}`)),
          ),
        )
        const kinds = findingsOf(r, scope).map((x) => x.kind)
        expect(kinds.includes('first-fast') && kinds.includes('first-calm')).toBe(false)
        for (const x of findingsOf(r, scope)) for (const s of x.raises) expect(x.clears).not.toContain(s)
      }),
      tries(40),
    )
  })
})
