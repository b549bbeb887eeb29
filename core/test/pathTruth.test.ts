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
const program = (lines: string[]) => readGcode(new TextEncoder().encode(lines.join('\n')))
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
  test('a number with an exponent is read as it is meant, with a word; where it could be a feed, its line is left out', () => {
    const of = (line: string) => {
      const p = program(['G90', 'M83', 'G1 X5 Y5 Z1 F600', line])
      const at = p.count - 1
      return [p.x[at], p.y[at], p.e[at]].map((v) => Number(v.toFixed(6))).concat(p.faultCount)
    }
    // the filament's own number
    expect(of('G1 X60 Y60 E1.2e-05 F1800')).toEqual([60, 60, 0.000012, 1])
    expect(of('G1 X60 Y60 E1e-1')).toEqual([60, 60, 0.1, 1])
    expect(of('G1 X60 Y60 E1.0e-01')).toEqual([60, 60, 0.1, 1])
    expect(of('G1 E2.5e+0 X60 Y60')).toEqual([60, 60, 2.5, 1])
    // a coordinate's
    expect(of('G1X1.5E-05Y2')).toEqual([0.000015, 2, 0, 1])
    expect(of('g1 x3e+02 y1')).toEqual([300, 1, 0, 1])
    expect(of('G1 X1e-7 Y2 E0.5')).toEqual([0, 2, 0.5, 1])
    expect(of('G1 X1e-7 Y2e-7 E5e-1')).toEqual([0, 0, 0.5, 1])
    expect(of('G1 X0 Y1e-9')).toEqual([0, 0, 0, 1])
    expect(of('G1 X3e-12 Y2')).toEqual([0, 2, 0, 1])
    // either
    expect(of('G1 X3E-12 Y2')).toEqual([5, 5, 0, 1])
    expect(of('G1 X1E-7 Y2E-7')).toEqual([5, 5, 0, 1])
    // more decimals than a double holds
    expect(of('G1 X0.0000010000000000000002 Y2 E0.00000000000000012345')).toEqual([0.000001, 2, 0, 0])
    expect(of('G1 X60 Y60 E1 E2')).toEqual([5, 5, 0, 1])
    expect(of('G1 X60 X61 Y60')).toEqual([5, 5, 0, 1])
    expect(of('G1X0Y0E-5e-3')).toEqual([0, 0, -0.005, 1])
    // a feed that follows a number without a blank is none
    expect(of('G1X60Y60E0.5F1800')).toEqual([60, 60, 0.5, 0])
    expect(of('G1X61E-1.5')).toEqual([61, 5, -1.5, 0])
    expect(of('G1X3E-2')).toEqual([3, 5, -2, 0])
    expect(of('G1X61E-12')).toEqual([61, 5, -12, 0])
    expect(of('G1E-12F1800')).toEqual([5, 5, -12, 0])
    expect(of('G1X61Y60E-2')).toEqual([61, 60, -2, 0])
  })
  test('however a number is printed, its line is read as meant or left out, never as another number', () => {
    const number = fc
      .tuple(fc.double({ min: -2.3, max: 2.3, noNaN: true }), fc.integer({ min: -9, max: 0 }), fc.nat(3))
      .map(([m, power, how]) => {
        const v = m * 10 ** power
        const text = [
          String(v),
          v.toExponential(3),
          v.toExponential(2).replace(/e([+-])(\d)$/, 'E$10$2'),
          v.toFixed(4),
        ]
        return text[how]
      })
    fc.assert(
      fc.property(number, number, fc.option(number), fc.constantFrom(' ', ''), (x, y, e, gap) => {
        const p = program([
          'G90',
          'M83',
          'G1 X9 Y9 F600',
          ['G1', `X${x}`, `Y${y}`, ...(e ? [`E${e}`] : [])].join(gap),
        ])
        const at = p.count - 1
        const got = [p.x[at], p.y[at], p.e[at]]
        const same = (want: number[]) => want.every((v, i) => Math.abs(got[i] - v) < 1e-5)
        const meant = [Number(x), Number(y), Number(e ?? 0)]
        expect(same(meant) || (p.faultCount > 0 && same([9, 9, 0]))).toBe(true)
        if (e) expect(same(meant)).toBe(true)
      }),
      tries(300),
    )
  })
  test('centres of arcs are places after G90.1, and G90.1 is not G90', () => {
    const steps = program(['G91', 'G1 X40 Y40 F600', 'G90.1', 'G2 X20 Y0 I50 J40', 'G1 X1'])
    const places = program(['G90', 'G1 X40 Y40 F600', 'G2 X60 Y40 I10 J0', 'G1 X61'])
    expect(steps.faultCount).toBe(0)
    expect(steps.count).toBe(places.count)
    for (const axis of ['x', 'y'] as const)
      steps[axis].forEach((v, i) => expect(v).toBeCloseTo(places[axis][i], 3))
    const back = program(['G90', 'G1 X40 Y40 F600', 'G90.1', 'G91.1', 'G2 X60 Y40 I10 J0'])
    expect(back.x[back.count - 1]).toBeCloseTo(60, 3)
    expect(Math.max(...back.y)).toBeCloseTo(50, 1)
  })
  test('more stops over the part than are kept one by one are still counted', () => {
    const r = read(layersOf(150, () => [...square(50, 50, 20), 'G0 X60 Y60 F6000', 'G4 P1500']))
    expect([r.stops.length, r.stopsOverPart]).toEqual([100, 150])
  })
  test('walls of one open line have air between their ends, and are no raft', () => {
    const path = (p: number[][]) => [
      `G0 X${f(p[0][0])} Y${f(p[0][1])} F6000`,
      ...p.slice(1).map(([x, y], i) => to(p[i][0], p[i][1], x, y)),
    ]
    // a C of 20 mm radius whose ends are 2 × 20 × sin 0.4 apart
    const c = Array.from({ length: 60 }, (_, i) => {
      const angle = 0.4 + ((2 * Math.PI - 0.8) * i) / 59
      return [100 + 20 * Math.cos(angle), 100 + 20 * Math.sin(angle)]
    })
    const oneWay = read(layersOf(20, () => path(c)))
    expect(oneWay.base.raftLayers).toBe(0)
    expect(oneWay.travel.openCount).toBe(19)
    const gap = 40 * Math.sin(0.4)
    expect(Math.abs(oneWay.travel.longestUnretracted - gap)).toBeLessThan(1.5)
    // there and back again no air is crossed
    const thereAndBack = read(layersOf(20, (k) => path(k % 2 ? [...c].reverse() : c)))
    expect([thereAndBack.base.raftLayers, thereAndBack.travel.openCount]).toEqual([0, 0])
    const plates = read(
      layersOf(20, () => [
        ...path([
          [50, 50],
          [90, 50],
        ]),
        ...path([
          [90, 70],
          [50, 70],
        ]),
      ]),
    )
    expect([plates.base.raftLayers, plates.travel.openCount]).toEqual([0, 39])
    expect(Math.abs(plates.travel.longestUnretracted - 20)).toBeLessThan(1.5)
  })
  test('a line that primes the nozzle round a part of one wall is no raft, wherever it lies', () => {
    const wide = beadArea(1.2, H)
    const prime = (p: number[][]) => [
      `G0 X${p[0][0]} Y${p[0][1]} Z${H} F6000`,
      ...p.slice(1).map(([x, y], i) => to(p[i][0], p[i][1], x, y, wide)),
    ]
    const around = [
      [40, 40],
      [120, 40],
      [120, 120],
      [40, 120],
    ]
    for (const from of [H, 2 * H])
      for (const p of [
        around,
        [around[0], around[1]],
        [
          [10, 55],
          [120, 55],
        ],
      ])
        expect(read([...prime(p), ...layersOf(10, () => square(50, 50, 6), from)]).base.raftLayers).toBe(0)
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
      expect(say((error as GcodeError).reason)).toMatch(/prints nothing/)
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
