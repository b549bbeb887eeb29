import fc from 'fast-check'
import { DEMO_MACHINES } from '../src/demo'
import {
  bedOutcome,
  driftOf,
  readGrid,
  screwDrift,
  usualScrews,
  type BedPoint,
  type FeltGap,
  type GridFrame,
} from '../src/measurement'
import { normalStream, randomStream } from '../src/statistics'
import { say } from '../src/words'

const machine = DEMO_MACHINES.shed
const { width, depth } = machine.bed
const screws = { screws: usualScrews(machine, 4), pitch: 0.7, clockwise: 'up' as const }
const frame: GridFrame = { fromX: 10, toX: width - 10, fromY: 10, toY: depth - 10, firstRow: 'front' }
const grid = (n: number, z: (x: number, y: number) => number): BedPoint[] =>
  Array.from({ length: n * n }, (_, i) => {
    const x = 10 + ((width - 20) * (i % n)) / (n - 1)
    const y = 10 + ((depth - 20) * Math.floor(i / n)) / (n - 1)
    return { x, y, z: z(x, y), u: 0.008 }
  })

test('a plane gives exact turns, and what they do to the bed is level', () => {
  fc.assert(
    fc.property(
      fc.double({ min: -0.004, max: 0.004, noNaN: true }),
      fc.double({ min: -0.004, max: 0.004, noNaN: true }),
      fc.double({ min: -1, max: 1, noNaN: true }),
      fc.constantFrom(3, 4),
      fc.constantFrom('up', 'down' as const),
      (a, b, c, count, clockwise) => {
        const z = (x: number, y: number) => c + a * x + b * y
        const own = { screws: usualScrews(machine, count as 3 | 4), pitch: 0.7, clockwise }
        const { plane, turns, bow, uneven } = bedOutcome(
          { kind: 'bed', from: 'grid', points: grid(5, z) },
          machine,
          own,
        )
        expect(bow).toBe(0)
        // as it lies, a tilt is unevenness as well; what the probe alone would scatter is none
        const range = Math.abs(a) * (width - 20) + Math.abs(b) * (depth - 20)
        if (range > 0.1) expect(uneven).toBeCloseTo(range, 9)
        else expect([0, Number(range.toFixed(9))]).toContain(Number(uneven.toFixed(9)))
        expect(plane!.slopeX).toBeCloseTo(a, 9)
        expect(plane!.slopeY).toBeCloseTo(b, 9)
        // turned as told, every screw ends at one height
        const after = own.screws.map((s) => {
          const t = turns.find((k) => k.screw === s.name)!
          const way = (t.clockwise ? 1 : -1) * (clockwise === 'up' ? 1 : -1)
          return z(s.x, s.y) + way * t.turns * 0.7
        })
        // a turn under 1/32 is left alone
        expect(Math.max(...after) - Math.min(...after)).toBeLessThan(2 * 0.7 * (1 / 32) + 1e-6)
      },
    ),
  )
})

test('turning by the advice with hands that are a tenth off levels a bed within 0.05 mm in 95 of 100', () => {
  const runs = 1000
  const random = randomStream(11)
  const normal = normalStream(random)
  let level = 0
  for (let k = 0; k < runs; k++) {
    // tilts of a bed that was levelled before and crept: up to about half a millimetre from corner to corner
    const a = ((random() - 0.5) * 0.5) / width
    const b = ((random() - 0.5) * 0.5) / depth
    const z = (x: number, y: number) => a * x + b * y
    const { turns } = bedOutcome(
      { kind: 'bed', from: 'grid', points: grid(3, (x, y) => z(x, y) + 0.008 * normal()) },
      machine,
      screws,
    )
    const after = screws.screws.map((s) => {
      const t = turns.find((q) => q.screw === s.name)!
      const turned = t.turns * (1 + 0.1 * normal()) * 0.7 * (t.clockwise ? 1 : -1)
      return z(s.x, s.y) + turned
    })
    // a plate on four screws lies by the plane through them
    if (Math.max(...after) - Math.min(...after) < 0.05) level++
  }
  expect(level / runs).toBeGreaterThanOrEqual(0.95)
})

test('a bow is told from a tilt and from the noise of the probe', () => {
  const normal = normalStream(randomStream(5))
  const cup = (x: number, y: number) =>
    0.31 * (((x - width / 2) / (width / 2 - 10)) ** 2 + ((y - depth / 2) / (depth / 2 - 10)) ** 2) * 0.5
  const bowed = bedOutcome(
    { kind: 'bed', from: 'grid', points: grid(7, (x, y) => 0.002 * x + cup(x, y) + 0.008 * normal()) },
    machine,
    screws,
  )
  // of the curve alone: readings do not make it wider
  expect(bowed.bow).toBeGreaterThan(0.25)
  expect(bowed.bow).toBeLessThan(0.37)
  expect(bowed.reasons.map(say).join(' ')).toMatch(
    /No amount of levelling will fix a bow of 0\.(29|3\d?)\smm/,
  )
  expect(bowed.firstHeight).toBeNull()
  let false_ = 0
  for (let k = 0; k < 200; k++)
    false_ += Number(
      bedOutcome({ kind: 'bed', from: 'grid', points: grid(7, () => 0.008 * normal()) }, machine, null).bow >
        0,
    )
  expect(false_).toBeLessThan(200 * 0.08)
})

test('nine felt gaps: the bad side is found, and the gap in the middle', () => {
  const gaps: FeltGap[] = [20, width / 2, width - 20].flatMap((x) =>
    [20, depth / 2, depth - 20].map((y): FeltGap => ({
      x,
      y,
      feel: x < width / 3 ? 'tight' : x > (2 * width) / 3 ? 'loose' : 'drags',
      gap: null,
    })),
  )
  const out = bedOutcome({ kind: 'bed', from: 'felt', sheet: 0.1, gaps }, machine, screws)
  // tight on the left: the bed is high there
  expect(out.plane!.slopeX).toBeLessThan(0)
  const left = out.turns.filter((t) => t.screw.includes('left'))
  expect(left.every((t) => t.move <= 0)).toBe(true)
  expect(Math.abs(out.gapChange!)).toBeLessThan(0.03)
})

test('gaps that go from tight at the back left to loose at the front right lean, though most of them drag', () => {
  const feels = {
    back: ['tight', 'tight', 'drags'],
    middle: ['tight', 'drags', 'drags'],
    front: ['drags', 'loose', 'loose'],
  } as const
  const gaps = (['front', 'middle', 'back'] as const).flatMap((row, j) =>
    feels[row].map((feel, i): FeltGap => ({ x: 26 + 84 * i, y: 26 + 84 * j, feel, gap: null })),
  )
  const out = bedOutcome({ kind: 'bed', from: 'felt', sheet: 0.1, gaps }, machine, screws)
  expect(out.tilt).toBeGreaterThan(0.04)
  const down = out.turns.filter((t) => t.move < 0).map((t) => t.screw)
  expect(down).toContain('back left')
  expect(down).not.toContain('front right')
  const even = bedOutcome(
    { kind: 'bed', from: 'felt', sheet: 0.1, gaps: gaps.map((g) => ({ ...g, feel: 'drags' })) },
    machine,
    screws,
  )
  expect(even.turns.every((t) => t.turns === 0)).toBe(true)
})

test('too few places, or all in a line, are no plane', () => {
  const of = (points: BedPoint[]) => bedOutcome({ kind: 'bed', from: 'grid', points }, machine, screws)
  expect(of(grid(2, () => 0).slice(0, 2)).reasons[0].code).toBe('bed-too-few')
  expect(of([10, 60, 110, 200].map((x) => ({ x, y: 50, z: x / 1000, u: 0.01 }))).reasons[0].code).toBe(
    'bed-in-line',
  )
})

/** Noise that is not the fitted one: heavier tails, and a display of a hundredth. */
function probed(n: number, z: (x: number, y: number) => number, sd: number, seed: number): BedPoint[] {
  const random = randomStream(seed)
  const normal = normalStream(random)
  return grid(n, z).map((p) => {
    const slip = random() < 0.05 ? 2 : 1
    return { ...p, z: Math.round(100 * (p.z + slip * sd * normal())) / 100 }
  })
}
const ofGrid = (points: BedPoint[]) => bedOutcome({ kind: 'bed', from: 'grid', points }, machine, screws)

test.each([
  [2, 0.02],
  [3, 0.02],
  [3, 0.005],
  [5, 0.02],
  [7, 0.02],
])('a level bed probed at %i² places with %d mm of noise: nothing is turned, no bow is seen', (n, sd) => {
  let [tilts, bows, turned] = [0, 0, 0]
  const runs = 300
  for (let k = 0; k < runs; k++) {
    const out = ofGrid(probed(n, () => 0.05, sd, 100 + k))
    tilts += Number(out.tilt > 0)
    bows += Number(out.bow > 0)
    turned += Number(out.turns.some((t) => t.turns > 0))
  }
  expect(tilts / runs).toBeLessThanOrEqual(0.08)
  expect(bows / runs).toBeLessThanOrEqual(0.08)
  expect(turned).toBeLessThanOrEqual(tilts)
})

test.each([
  [3, 0.01],
  [5, 0.02],
  [7, 0.02],
])(
  'a bed that leans by 0.2 mm, probed at %i² places with %d mm of noise, is found to; its ± holds',
  (n, sd) => {
    const slope = 0.1 / (width - 20)
    const truth = slope * (width + depth)
    let [found, held] = [0, 0]
    const runs = 200
    for (let k = 0; k < runs; k++) {
      const out = ofGrid(probed(n, (x, y) => slope * (x + y), sd, 700 + k))
      found += Number(out.tilt > 0)
      held += Number(Math.abs(out.tilt - truth) <= out.tiltPlusMinus)
    }
    expect(found / runs).toBeGreaterThanOrEqual(0.95)
    expect(held / runs).toBeGreaterThanOrEqual(0.9)
  },
)

test('one bad reading turns no screw: it is named and left out; two at the same place are believed', () => {
  const at = (bad: number, twice: boolean) =>
    ofGrid([
      ...probed(4, () => 0, 0.008, 5).map((p, i) => (i === 3 ? { ...p, z: bad } : p)),
      ...(twice ? probed(4, () => 0, 0.008, 6).map((p, i) => (i === 3 ? { ...p, z: bad } : p)) : []),
    ])
  const once = at(0.6, false)
  expect(once.odd).toHaveLength(1)
  expect(once.odd[0].off).toBeCloseTo(0.6, 1)
  expect(once.turns.every((t) => t.turns === 0)).toBe(true)
  expect(once.reasons.map(say).join(' ')).toMatch(
    /The reading at 2\d\d?, 10 is 0\.\d+\smm higher than all others suggest/,
  )
  const believed = at(0.6, true)
  expect(believed.odd).toEqual([])
  expect(believed.bow).toBeGreaterThan(0.2)
})

describe('reading a grid', () => {
  const points = (text: string) => {
    const r = readGrid(text, frame)
    return r.ok ? r.points : r.fault.code
  }
  const wanted = [
    [0.12, 0.05, -0.03],
    [0.1, 0.02, -0.06],
    [0.08, 0, -0.11],
  ]
  test.each([
    ['spaces', wanted.map((r) => r.join(' ')).join('\n')],
    ['tabs and plus signs', wanted.map((r) => r.map((v) => (v > 0 ? `+${v}` : v)).join('\t')).join('\r\n')],
    ['commas', wanted.map((r) => r.join(', ')).join('\n')],
    [
      'semicolons and decimal commas',
      wanted.map((r) => r.map((v) => String(v).replace('.', ',')).join(';')).join('\n'),
    ],
    ['row and column numbers', ['  0 1 2', ...wanted.map((r, i) => `${i} ${r.join(' ')}`)].join('\n')],
    [
      'brackets and words around',
      ['Heights of the bed:', ...wanted.map((r) => `[ ${r.join(', ')} ]`), 'done'].join('\n'),
    ],
  ])('%s', (_, text) => {
    const p = points(text) as BedPoint[]
    expect(p.map((q) => q.z)).toEqual(wanted.flat())
    expect([p[0].x, p[0].y, p[8].x, p[8].y]).toEqual([10, 10, width - 10, depth - 10])
  })
  test('lines that name X, Y and Z, in any order of places', () => {
    const text = 'probe at X:30.0 Y:40.0 is Z=0.025\nBed X: 110 Y: 40 Z: -0.01\nok\nx 30 y 120 z 0,05'
    expect(points(text)).toMatchObject([
      { x: 30, y: 40, z: 0.025 },
      { x: 110, y: 40, z: -0.01 },
      { x: 30, y: 120, z: 0.05 },
    ])
  })
  test.each([
    ['', 'grid-empty'],
    ['nothing here', 'grid-no-shape'],
    ['0.1 0.2 0.3\n0.1 0.2', 'grid-row-short'],
    ['0.1 0.2 0.3\n0.1 nan 0.3', 'grid-not-number'],
    ['0.1 0.2\n0.3 55', 'grid-far'],
    ['0.1 0.2 0.3', 'grid-no-shape'],
    ['0,1, 0,2, 0,3\n0,2, 0,1, 0,4', 'grid-commas'],
  ])('%p is refused with a sentence', (text, code) => {
    expect(points(text)).toBe(code)
  })
  test('anything can be pasted', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 400 }), (t) => {
        const r = readGrid(t, frame)
        if (r.ok) for (const p of r.points) expect(Number.isFinite(p.z) && Math.abs(p.z) <= 10).toBe(true)
        else expect(say(r.fault)).toBeTruthy()
      }),
    )
  })
})

test('a screw that creeps is noticed, one that does not is left alone', () => {
  const normal = normalStream(randomStream(3))
  const on = (week: number) =>
    new Date(Date.parse('2026-01-01') + week * 7 * 86_400_000).toISOString().slice(0, 10)
  const records = Array.from({ length: 7 }, (_, k) => ({
    on: on(k * 2),
    plane: { level: 0, slopeX: 0, slopeY: 0 },
    residual: 0.05,
    turned: true,
    screws: [
      { name: 'back left', height: (k ? -0.05 * 2 : 0) + 0.006 * normal() },
      { name: 'front right', height: 0.006 * normal() },
    ],
  }))
  expect(screwDrift(records).map(say)).toEqual([
    expect.stringMatching(/^The back left screw goes down 0\.0[45]\smm a week/),
  ])
})

test('a screw that goes down by itself is named, from what was measured; turned ones, other things and a bed without screws say nothing', () => {
  const described = { ...machine, bed: { ...machine.bed, screws } }
  const left = screws.screws.filter((s) => s.x < width / 2)
  // the left side goes down by a twentieth a week
  const at = (week: number, turned = false) => ({
    on: new Date(Date.UTC(2026, 0, 5 + 7 * week)).toISOString().slice(0, 10),
    turned,
    measured: {
      kind: 'bed' as const,
      from: 'grid' as const,
      points: [20, 110, 200].flatMap((x) =>
        [20, 110, 200].map((y) => ({ x, y, z: (-0.05 * week * (200 - x)) / 180, u: 0.005 })),
      ),
    },
  })
  const weeks = [5, 4, 3, 2, 1, 0].map((w) => at(w))
  const said = driftOf(
    [{ ...at(5), measured: { kind: 'roll', gross: 900, spool: 200 } }, ...weeks],
    described,
  )
  expect(said.length).toBeGreaterThan(0)
  // each against the others: as the left goes down, the right comes up
  for (const r of said) {
    const isLeft = left.some((s) => s.name === r.values.screw)
    expect([r.values.screw, Math.sign(Number(r.values.perWeek))]).toEqual([r.values.screw, isLeft ? -1 : 1])
    expect(say(r)).toContain('against the others')
  }
  expect(driftOf(weeks.slice(0, 2), described)).toEqual([])
  expect(driftOf(weeks, DEMO_MACHINES.greenhouse)).toEqual([])
})
