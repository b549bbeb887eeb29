import fc from 'fast-check'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import { readGcode } from '../src/gcode'
import { USUAL_COMMANDS } from '../src/machine'
import { writePart, type PartOptions } from '../src/planner'
import { deriveRecipe, printSettingsOf, type Changes } from '../src/recipe'
import { rewriteFile, type FileChange } from '../src/rewrite'
import { Feature, analysePath, summarise, type PathReading } from '../src/toolpath'
import { hand } from './lib/diagnose'
import { spelt, type Dialect } from './lib/dialects'
import { tries } from './lib/property'

const machine = { ...DEMO_MACHINES.shed, commands: { ...USUAL_COMMANDS } }
const filament = demoFilaments('2026-01-01').terracotta
const context = { filamentDiameter: 1.75, density: 1.24, nozzleDiameter: 0.4, limits: machine.limits }
const bytes = (text: string) => Uint8Array.from(text, (c) => c.charCodeAt(0))
const text = (b: Uint8Array) => new TextDecoder('latin1').decode(b)

/** The first line in which two files differ by more than a few units of a number's last digit. */
function firstApart(a: Uint8Array, b: Uint8Array): [number, string | undefined, string | undefined] | null {
  const [p, q] = [a, b].map((file) => text(file).split(/(?<=\r\n|\n|\r(?!\n))/))
  const number = /-?\d*\.?\d+/g
  const alike = (x: string, y: string | undefined) => {
    if (x === y) return true
    const [s, t] = [x, y ?? ''].map((l) => l.replace(/\*\d+/, ''))
    if (s.replace(number, '#') !== t.replace(number, '#')) return false
    const ns = s.match(number) ?? []
    const nt = t.match(number) ?? []
    return ns.every((n, i) => {
      const decimals = Math.max(...[n, nt[i]].map((v) => v.split('.')[1]?.length ?? 0))
      return Math.abs(Number(n) - Number(nt[i])) < 6 * 10 ** -decimals + 1e-7 * Math.abs(Number(n))
    })
  }
  const at = p.findIndex((line, i) => !alike(line, q[i]))
  return at < 0 && p.length === q.length ? null : [at, p[at], q[at]]
}

const fileOf = (b: Uint8Array) => {
  const analysis = analysePath(readGcode(b, { filamentDiameter: 1.75 }), context)
  return { bytes: b, analysis, reading: summarise(analysis) }
}
type File = ReturnType<typeof fileOf>
const changed = (f: File, ...changes: FileChange[]) => {
  const { bytes: out, summary } = rewriteFile(f.bytes, f, changes, machine, 1.75)
  return { ...fileOf(out), summary }
}

const SHAPES: PartOptions[] = [
  { shape: 'box', width: 18, depth: 14, height: 2, bore: 5 },
  { shape: 'box', width: 12, depth: 12, height: 3 },
]
const partOf = (o: PartOptions, pins: Changes = {}) =>
  readGcode(
    bytes(writePart(machine, printSettingsOf(deriveRecipe({ machine, filament, pins: hand(pins) })), o)),
    { filamentDiameter: 1.75 },
  )
const programs = [
  partOf(SHAPES[0]),
  partOf(SHAPES[1], { pressureCompensation: 0.06, zLift: 0.3, fanRampLayers: 3 }),
]

const anyDialect: fc.Arbitrary<Dialect> = fc
  .record({
    feed: fc.constantFrom('relative', 'absolute'),
    steps: fc.boolean(),
    inches: fc.boolean(),
    volumetric: fc.boolean(),
    lowerCase: fc.boolean(),
    tight: fc.boolean(),
    numbered: fc.boolean(),
    lineEnd: fc.constantFrom('\n', '\r\n', '\r'),
    padded: fc.boolean(),
    decimals: fc.constantFrom(3, 4),
    feedDecimals: fc.constantFrom(4, 5),
    rate: fc.constantFrom('first', 'each', 'changed', 'own-line'),
    reset: fc.constantFrom(0, 40, 500),
    remarks: fc.boolean(),
    wordy: fc.boolean(),
    fraction: fc.boolean(),
  })
  // nobody feeds cubic inches
  .map((d) => ({ ...d, volumetric: d.volumetric && !d.inches }))

/** A change, how its aspect is read, and the value it was. */
interface Case {
  name: string
  change: (v: number) => FileChange
  read: (r: PathReading) => number | null | undefined
  values: [number, number]
  slack: number
}
const CASES: Case[] = [
  {
    name: 'nozzle, first',
    change: (value) => ({ kind: 'nozzle', where: 'first', value }),
    read: (r) => r.firstLayer!.nozzle,
    values: [190, 230],
    slack: 0.01,
  },
  {
    name: 'nozzle, rest',
    change: (value) => ({ kind: 'nozzle', where: 'rest', value }),
    read: (r) => r.rest.nozzle,
    values: [190, 230],
    slack: 0.01,
  },
  {
    name: 'bed, first',
    change: (value) => ({ kind: 'bed', where: 'first', value }),
    read: (r) => r.firstLayer!.bed,
    values: [40, 80],
    slack: 0.01,
  },
  {
    name: 'bed, rest',
    change: (value) => ({ kind: 'bed', where: 'rest', value }),
    read: (r) => r.rest.bed,
    values: [40, 80],
    slack: 0.01,
  },
  {
    name: 'fan',
    change: (value) => ({ kind: 'fan', where: 'rest', value: value / 100 }),
    read: (r) => r.rest.fan * 100,
    values: [20, 90],
    slack: 0.6,
  },
  {
    name: 'layers without fan',
    change: (value) => ({ kind: 'fan-off-layers', value: Math.round(value) }),
    read: (r) => r.fanFromLayer! - 1,
    values: [1, 4],
    slack: 0.3,
  },
  {
    name: 'retraction length',
    change: (value) => ({ kind: 'retract-length', value }),
    read: (r) => r.retraction.length,
    values: [0.5, 7],
    slack: 0.012,
  },
  {
    name: 'retraction speed',
    change: (value) => ({ kind: 'retract-speed', value }),
    read: (r) => r.retraction.speed,
    values: [15, 60],
    slack: 0.2,
  },
  {
    name: 'restart extra',
    change: (value) => ({ kind: 'restart-extra', value }),
    read: (r) => r.retraction.restartExtra,
    values: [-0.3, 0.3],
    slack: 0.004,
  },
  {
    name: 'z-lift',
    change: (value) => ({ kind: 'z-lift', value }),
    read: (r) => r.retraction.zLift,
    values: [0.1, 0.9],
    slack: 0.012,
  },
  {
    name: 'first-layer speed',
    change: (value) => ({ kind: 'speed', where: 'first', value }),
    read: (r) => r.firstLayer!.speed,
    values: [8, 60],
    slack: 0.2,
  },
  {
    name: 'outer wall',
    change: (value) => ({ kind: 'speed', where: Feature.Outer, value }),
    read: (r) => r.features[Feature.Outer].usual,
    values: [12, 90],
    slack: 0.2,
  },
  {
    name: 'inner walls',
    change: (value) => ({ kind: 'speed', where: Feature.Inner, value }),
    read: (r) => r.features[Feature.Inner].usual,
    values: [12, 90],
    slack: 0.2,
  },
  {
    name: 'infill',
    change: (value) => ({ kind: 'speed', where: Feature.Infill, value }),
    read: (r) => r.features[Feature.Infill].usual,
    values: [12, 90],
    slack: 0.2,
  },
  {
    name: 'travel',
    change: (value) => ({ kind: 'speed', where: 'travel', value }),
    read: (r) => r.travel.speed,
    values: [40, 170],
    slack: 0.2,
  },
  {
    name: 'acceleration, outer wall',
    change: (value) => ({ kind: 'acceleration', where: 'outer', value: Math.round(value) }),
    read: (r) => r.features[Feature.Outer].acceleration,
    values: [200, 1400],
    slack: 0.6,
  },
  {
    name: 'acceleration, travel',
    change: (value) => ({ kind: 'acceleration', where: 'travel', value: Math.round(value) }),
    read: (r) => r.build.travelAcceleration,
    values: [200, 1400],
    slack: 0.6,
  },
  {
    name: 'pressure',
    change: (value) => ({ kind: 'pressure', value: Number(value.toFixed(3)) }),
    read: (r) => r.pressure,
    values: [0, 0.2],
    slack: 0.0006,
  },
  {
    name: 'early stop',
    change: (value) => ({ kind: 'early-stop', volume: value * 0.09 }),
    read: (r) => r.seam.early,
    values: [0.3, 1.1],
    slack: 0.12,
  },
  {
    name: 'wipe',
    change: (value) => ({ kind: 'wipe', length: value }),
    read: (r) => r.seam.wipe,
    values: [0.3, 3],
    slack: 0.06,
  },
  {
    name: 'layer time',
    change: (value) => ({ kind: 'layer-time', seconds: value, floor: 1 }),
    read: (r) => Math.min(...r.layers.seconds.slice(1)),
    values: [9, 18],
    slack: 0.5,
  },
]

/** What a reading says of everything, so that what was not meant to move can be held still. */
const ASPECTS: Record<string, (r: PathReading) => unknown> = {
  'nozzle, first': (r) => r.firstLayer!.nozzle,
  'nozzle, rest': (r) => r.rest.nozzle,
  'bed, first': (r) => r.firstLayer!.bed,
  'bed, rest': (r) => r.rest.bed,
  fan: (r) => Math.round(r.rest.fan * 100),
  'layers without fan': (r) => r.fanFromLayer,
  'retraction length': (r) => r.retraction.length,
  'retraction speed': (r) => r.retraction.speed,
  'restart extra': (r) => Math.round((r.retraction.restartExtra ?? 0) * 200),
  'z-lift': (r) => r.retraction.zLift,
  'first-layer speed': (r) => r.firstLayer!.speed,
  'outer wall': (r) => r.features[Feature.Outer].usual,
  'inner walls': (r) => r.features[Feature.Inner].usual,
  infill: (r) => r.features[Feature.Infill].usual,
  travel: (r) => r.travel.speed,
  'acceleration, outer wall': (r) => r.features[Feature.Outer].acceleration,
  'acceleration, travel': (r) => r.build.travelAcceleration,
  pressure: (r) => r.pressure,
  layers: (r) => r.layers.z.join(),
  retractions: (r) => r.retraction.count,
  widths: (r) => r.layers.width.map((w) => w && w.toFixed(2)).join(),
  seams: (r) => r.seam.starts.map((s) => `${s.x.toFixed(1)} ${s.y.toFixed(1)}`).join(),
  filament: (r) => Math.round(r.filament.length * 20),
  open: (r) => [r.travel.openCount, r.travel.openUnretracted].join(),
  build: (r) => [r.build.walls, r.build.bottomLayers, r.build.skirtLoops, r.build.brimLines].join(),
}
/** What moves with a change of its own kind. */
const WITH: Record<string, string[]> = {
  'early stop': ['filament', 'widths', 'fan'],
  'layer time': ['outer wall', 'inner walls', 'infill', 'fan'],
  'restart extra': ['filament'],
}

describe('one thing changed, everything else as it was', () => {
  test.each(CASES)('$name', ({ name, change, read, values, slack }) => {
    fc.assert(
      fc.property(
        fc.nat(programs.length - 1),
        anyDialect,
        fc.double({ min: values[0], max: values[1], noNaN: true }),
        (part, dialect, raw) => {
          const v = Number(
            raw.toFixed(name === 'pressure' ? 3 : values[1] > 10 || name.startsWith('layers') ? 0 : 2),
          )
          const f = fileOf(bytes(spelt(programs[part], dialect)))
          const old = read(f.reading)
          fc.pre(f.reading.faultCount === 0 && (name !== 'layer time' || old! < v - 1))
          fc.pre(old !== null && old !== undefined && Math.abs(old - v) > 2 * slack)
          // what has this value already cannot be told from what gets it
          const p = f.analysis.program
          fc.pre(values[1] < 10 || name === 'layer time' || !p.speed.some((s) => Math.abs(s - v) < 0.3))
          fc.pre(!p.states.some((s) => s.printAcceleration === v || s.travelAcceleration === v))
          const after = changed(f, change(v))
          expect(after.reading.faultCount).toBe(f.reading.faultCount)
          // the value is there
          expect(Math.abs(read(after.reading)! - v)).toBeLessThanOrEqual(slack)
          // everything else reads as before
          for (const [other, aspect] of Object.entries(ASPECTS)) {
            if (other === name || WITH[name]?.includes(other)) continue
            expect([other, aspect(after.reading)]).toEqual([other, aspect(f.reading)])
          }
          // and the old value gives the old file
          // (a lift that was not there is put in as moves of its own)
          if (name === 'z-lift' && old === 0) return
          // (layers on the way up to the usual duty are not known any more)
          if (name === 'layers without fan' && part === 1) return
          // (what was cut off or slowed does not say how it was)
          if (['early stop', 'wipe', 'layer time'].includes(name)) return
          const back = changed(after, change(old!))
          expect(firstApart(f.bytes, back.bytes)).toBeNull()
        },
      ),
      { ...tries(12), endOnFailure: true },
    )
  })
})

describe('loops that start elsewhere', () => {
  const seams: [string, FileChange, (r: PathReading) => boolean][] = [
    ['scattered', { kind: 'seam', place: 'scattered', direction: 0 }, (r) => r.seam.stacked! < 0.4],
    [
      'turned away',
      { kind: 'seam', place: 'turned-away', direction: 200 },
      (r) =>
        r.seam.stacked! > 0.9 &&
        r.seam.objects.every((o) => Math.abs(((o.direction - 200 + 540) % 360) - 180) < 50),
    ],
    ['tucked', { kind: 'seam', place: 'tucked', direction: 0 }, (r) => r.seam.stacked! > 0.9],
  ]
  test.each(seams)('%s, in any dialect', (_, change, right) => {
    fc.assert(
      fc.property(fc.nat(programs.length - 1), anyDialect, (part, dialect) => {
        const own = fileOf(bytes(spelt(programs[part], dialect)))
        fc.pre(own.reading.faultCount === 0)
        // what lies in one line already is scattered first
        const f = right(own.reading) ? changed(own, { kind: 'seam', place: 'scattered', direction: 0 }) : own
        const after = changed(f, change)
        expect([change, right(after.reading)]).toEqual([change, true])
        // the same lines, only from another place on
        for (const [name, aspect] of Object.entries(ASPECTS))
          if (name !== 'seams' && name !== 'open')
            expect([name, aspect(after.reading)]).toEqual([name, aspect(f.reading)])
        expect(after.reading.seam.wipe).toBeCloseTo(f.reading.seam.wipe, 1)
        const [a, b] = [f.reading, after.reading].map((r) => r.features[Feature.Outer])
        expect(Math.abs(a.length - b.length)).toBeLessThan(0.5)
        expect(Math.abs(a.fed - b.fed)).toBeLessThan(0.05)
      }),
      { ...tries(12), endOnFailure: true },
    )
  })
})
