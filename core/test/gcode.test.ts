import fc from 'fast-check'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import { deriveRecipe, printSettingsOf } from '../src/recipe'
import { say } from '../src/words'
import { hand } from './lib/diagnose'
import { tries } from './lib/property'
import { GcodeError, GcodeReader, GcodeWriter, readGcode } from '../src/gcode'
import { readPath, type PathReading } from '../src/toolpath'
import { writePart, type PartOptions } from '../src/planner'

const bytes = (text: string) => Uint8Array.from(text, (c) => c.charCodeAt(0))
const machine = DEMO_MACHINES.shed
const context = { filamentDiameter: 1.75, density: 1.24, nozzleDiameter: 0.4, limits: machine.limits }
const read = (text: string) => readPath(readGcode(bytes(text)), context)

/** A 20 mm square, three layers of 0.2 mm, written in five ways. Each side feeds 0.7 mm of filament. */
const layers = [0.2, 0.4, 0.6]
const corners = [
  [30, 10],
  [30, 30],
  [10, 30],
  [10, 10],
]
const dialects: Record<string, string> = {
  'relative feed with comments': [
    '; made by hand',
    'M140 S60',
    'M104 S210',
    'G28',
    'M83',
    'G90',
    'G92 E0',
    ...layers.flatMap((z, i) => [
      `;layer ${i}`,
      i === 1 ? 'M106 S127.5' : '',
      `G0 X10 Y10 Z${z} F9000`,
      ...corners.map(([x, y]) => `G1 X${x} Y${y} E0.7 F1800 ; side`),
      'G1 E-4 F2400',
      'G0 X60 Y60 F9000',
      'G0 X10 Y10',
      'G1 E4 F2400',
    ]),
  ].join('\n'),
  'absolute feed, CRLF, line numbers and checksums': (() => {
    let e = 0
    let n = 0
    const out: string[] = ['M140 S60', 'M104 S210', 'G28', 'M82', 'G92 E0']
    layers.forEach((z, i) => {
      if (i === 1) out.push('M106 S127.5')
      out.push(`G0 X10 Y10 Z${z} F9000`)
      for (const [x, y] of corners) out.push(`G1 X${x} Y${y} E${(e += 0.7).toFixed(4)} F1800`)
      out.push(
        `G1 E${(e - 4).toFixed(4)} F2400`,
        'G0 X60 Y60 F9000',
        'G0 X10 Y10',
        `G1 E${e.toFixed(4)} F2400`,
      )
    })
    return out
      .map((l) => {
        const t = `N${++n} ${l}`
        return `${t}*${[...t].reduce((c, ch) => c ^ ch.charCodeAt(0), 0)}`
      })
      .join('\r\n')
  })(),
  inches: [
    'G20',
    'M140 S60',
    'M104 S210',
    'G28',
    'M83',
    ...layers.flatMap((z, i) => [
      i === 1 ? 'M106 S127.5' : 'M105',
      `G0 X${10 / 25.4} Y${10 / 25.4} Z${z / 25.4} F${9000 / 25.4}`,
      ...corners.map(
        ([x, y]) =>
          `G1 X${(x / 25.4).toFixed(8)} Y${(y / 25.4).toFixed(8)} E${(0.7 / 25.4).toFixed(8)} F${(1800 / 25.4).toFixed(6)}`,
      ),
      `G1 E${(-4 / 25.4).toFixed(8)} F${(2400 / 25.4).toFixed(6)}`,
      `G0 X${60 / 25.4} Y${60 / 25.4} F${9000 / 25.4}`,
      `G0 X${10 / 25.4} Y${10 / 25.4}`,
      `G1 E${(4 / 25.4).toFixed(8)} F${(2400 / 25.4).toFixed(6)}`,
    ]),
  ].join('\n'),
  'lower case without blanks, modal motion and no final newline': [
    'm140s60',
    'm104s210',
    'g28',
    'm83',
    ...layers.flatMap((z, i) => [
      i === 1 ? 'm106s127.5' : 'm105',
      `g0x10y10z${z}f9000`,
      `g1x30y10e.7f1800`,
      'x30y30e.7',
      'x10y30e.7',
      'x10y10e.7',
      'g1e-4f2400',
      'g0x60y60f9000',
      'g0x10y10',
      'g1e4f2400',
    ]),
  ].join('\n'),
  'relative moves, bracket comments and fan by fraction': [
    'M140 S60',
    'M104 S210 T0',
    'G28',
    'G90',
    'M83',
    'G0 X10 Y10 F9000',
    'G91',
    ...layers.flatMap((_, i) => [
      i === 1 ? 'M106 S0.5' : 'M105',
      'G0 Z0.2 F9000',
      'G1 X20 E0.7 F1800 (side)',
      'G1 Y20 E0.7',
      'G1 X-20 E0.7',
      'G1 Y-20 E0.7',
      'G1 E-4 F2400',
      'G0 X50 Y50 F9000',
      'G0 X-50 Y-50 F9000',
      'G1 E4 F2400',
    ]),
  ].join('\n'),
}

describe('five dialects of one print', () => {
  test.each(Object.entries(dialects))('%s', (_, text) => {
    const r = read(text)
    expect(r.layerCount).toBe(3)
    expect(r.layers.z).toEqual([0.2, 0.4, 0.6])
    expect(r.layerHeight).toBeCloseTo(0.2, 6)
    expect(r.filament.length).toBeCloseTo(8.4, 1)
    expect(r.layers.fed.map((v) => Number(v.toFixed(1)))).toEqual([2.8, 2.8, 2.8])
    expect(r.layers.nozzle).toEqual([210, 210, 210])
    expect(r.layers.bed).toEqual([60, 60, 60])
    expect(r.layers.fan.map((v) => Number(v.toFixed(2)))).toEqual([0, 0.5, 0.5])
    expect(r.firstLayer?.speed).toBeCloseTo(30, 1)
    expect(r.retraction).toMatchObject({ kind: 'feed', length: 4, speed: 40 })
    expect(r.travel.openUnretracted).toBe(0)
    expect(r.layers.outerSpeed[1]).toBeGreaterThan(25)
  })
})

describe('arcs', () => {
  const circle = (words: string) => `G28\nM83\nG0 X60 Y50 Z0.2 F6000\n${words}\nG0 X60 Y50 Z0.4\n${words}\n`
  test('a full circle by its centre is 2πr long', () => {
    const p = readGcode(bytes(circle('G3 X60 Y50 I-10 J0 E2 F1800')))
    let length = 0
    for (let i = 1; i < p.count; i++)
      if (p.kind[i] === 2) length += Math.hypot(p.x[i] - p.x[i - 1], p.y[i] - p.y[i - 1])
    expect(length / (2 * 2 * Math.PI * 10)).toBeCloseTo(1, 3)
    expect(p.style.arcs).toBe(true)
  })
  test('two halves by radius are the same circle, both ways round', () => {
    for (const g of ['G2', 'G3']) {
      const r = read(circle(`${g} X40 Y50 R10 E1 F1800\n${g} X60 Y50 R10 E1`))
      expect(r.layerCount).toBe(2)
      expect(r.layers.outerSpeed[1]).not.toBeNull()
      expect(r.filament.length).toBeCloseTo(4, 1)
    }
  })
})

/** Two posts, 30 mm of air between them. */
const POSTS: PartOptions = { shape: 'box', width: 10, height: 10, copies: 2, apart: 30 }

test('what the writer writes is read back as it was meant', () => {
  const filament = demoFilaments('2026-01-01').fern
  for (const m of Object.values(DEMO_MACHINES)) {
    const recipe = deriveRecipe({ machine: m, filament })
    const r = readPath(readGcode(bytes(writePart(m, printSettingsOf(recipe), POSTS))), {
      ...context,
      limits: m.limits,
      filamentDiameter: Number(recipe.diameter.value),
    })
    expect(r.layers.nozzle[0]).toBe(recipe.nozzleFirst.value)
    expect(r.rest.nozzle).toBe(recipe.nozzle.value)
    expect(r.rest.bed).toBe(recipe.bed.value)
    expect(r.firstLayer?.height).toBeCloseTo(Number(recipe.firstHeight.value), 3)
    expect(r.firstLayer?.flow).toBeCloseTo(100, 0)
    expect(r.retraction.length).toBeCloseTo(Number(recipe.retractLength.value), 2)
    expect(r.travel.speed).toBe(recipe.travelSpeed.value)
    expect(r.rest.outerSpeed! / Number(recipe.outerSpeed.value)).toBeCloseTo(1, 1)
    expect(r.fanFromLayer).toBe(Number(recipe.fanOffLayers.value) + 1)
    expect(r.primed).toBe(true)
  }
})

test('open-air travel without a pull-back is found, and only between parts', () => {
  const filament = demoFilaments('2026-01-01').fern
  const off = deriveRecipe({ machine, filament, pins: hand({ retract: false }) })
  const r = read(writePart(machine, printSettingsOf(off), POSTS))
  expect(r.retraction.kind).toBe('none')
  // the posts stand 40 mm apart and are 10 mm wide: about 30 mm of air, there and back on nearly every layer
  expect(r.travel.openUnretracted).toBeGreaterThan(90)
  expect(r.travel.longestUnretracted).toBeGreaterThan(29)
  expect(r.travel.longestUnretracted).toBeLessThan(42)
})

describe('files that are no G-code', () => {
  const code = (input: Uint8Array | string, maxBytes?: number) => {
    try {
      const reader = new GcodeReader({ maxBytes })
      reader.push(typeof input === 'string' ? bytes(input) : input)
      reader.finish()
      return 'read'
    } catch (error) {
      if (!(error instanceof GcodeError)) throw error
      expect(say(error.reason)).toMatch(/^[A-Z].*\.$/)
      return error.reason.code
    }
  }
  test('each is named', () => {
    expect(code('')).toBe('empty')
    expect(code(new Uint8Array([71, 49, 0, 1]))).toBe('binary')
    expect(code(new Uint8Array([0x50, 0x4b, 3, 4]))).toBe('packed')
    expect(code('M104 S200\nM140 S60\n')).toBe('no-movement')
    expect(code('Dear neighbour,\nthe tap drips.\n'.repeat(200))).toBe('not-gcode')
    expect(code('G1 X1\n'.repeat(100), 100)).toBe('too-large')
  })
  test('NaN, 1e999 and words without numbers are faults, not numbers', () => {
    const p = readGcode(
      bytes('G28\nM83\nG1 X10 Y10 E1 F1200\nG1 XNaN Y5\nG1 X1e999 Y7\nG1 X Y8\nG1 X20 E1\n'),
    )
    expect(p.faultCount).toBeGreaterThan(0)
    for (const a of [p.x, p.y, p.z, p.e]) for (const v of a) expect(Number.isFinite(v)).toBe(true)
    expect(p.e.reduce((s, v) => s + v, 0)).toBe(2)
  })
  test('unknown codes are counted, never fatal', () => {
    const p = readGcode(bytes('G28\nM9123 S1\nM9123\nSET_THING A=1\nG1 X5 F600\nM117 X9 Y9 hello\n'))
    expect(p.unknown.get('M9123')).toBe(2)
    expect(p.unknown.get('SET_THING')).toBe(1)
    expect(p.x[p.count - 1]).toBe(5)
  })
  test('mangled files never crash, and cutting the stream anywhere changes nothing', () => {
    const filament = demoFilaments('2026-01-01').fern
    const settings = printSettingsOf(deriveRecipe({ machine, filament }))
    const good = bytes(writePart(machine, settings, { ...POSTS, height: 1 }))
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(good.length - 1), fc.nat(255)), { maxLength: 40 }),
        fc.nat(good.length),
        (edits, cut) => {
          const bad = good.slice()
          for (const [at, v] of edits) bad[at] = v
          const run = (parts: Uint8Array[]): PathReading | string => {
            try {
              const reader = new GcodeReader()
              for (const p of parts) reader.push(p)
              return readPath(reader.finish(), context)
            } catch (e) {
              if (e instanceof GcodeError) return e.reason.code
              throw e
            }
          }
          const whole = run([bad])
          expect(run([bad.subarray(0, cut), bad.subarray(cut)])).toEqual(whole)
          if (typeof whole !== 'string') expect(JSON.stringify(whole)).not.toMatch(/Infinity/)
        },
      ),
      tries(100),
    )
  })
})

test('numbers are written to so many decimals, without zeros at their end', () => {
  const on = DEMO_MACHINES.greenhouse
  const settings = printSettingsOf(deriveRecipe({ machine: on, filament: demoFilaments('2026-01-01').fern }))
  fc.assert(
    fc.property(fc.double({ min: 0.02, max: 200, noNaN: true }), (x) => {
      const g = new GcodeWriter(on, settings)
      g.travel(x, 10, 1)
      const word = / X(\S+)/.exec(g.text())
      if (!word) return
      expect(word[1]).toBe(String(Math.round(x * 1000) / 1000))
      g.line(x, 10 + x / 3, 0.4, 0.2, 30, 1)
      const fed = / E(\S+)/.exec(
        g
          .text()
          .split('\n')
          .findLast((l) => l.includes(' Y'))!,
      )![1]
      expect(fed).toMatch(/^\d+(\.\d{0,4}[1-9])?$/)
    }),
    tries(200),
  )
})
