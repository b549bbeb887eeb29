import { parseStringSync } from 'gcode-parser'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import { readGcode, RewriteError } from '../src/gcode'
import { USUAL_COMMANDS, type Machine } from '../src/machine'
import { deriveRecipe } from '../src/recipe'
import {
  makeOnFile,
  PieceError,
  type OnFile,
  type PairOnBench,
  type PieceId,
  type PiecePlan,
} from '../src/trials'
import { ChangeError, checkRewritten, rewriteFile, type FileChange } from '../src/rewrite'
import { Feature, analysePath, summarise } from '../src/toolpath'

// Files written by hand in the manners of other hands, and an independent parser (gcode-parser) with an integrator of the
// test's own for what they do.
const machine: Machine = { ...DEMO_MACHINES.shed, commands: { ...USUAL_COMMANDS } }
const context = { filamentDiameter: 1.75, density: 1.24, nozzleDiameter: 0.4, limits: machine.limits }
const bytes = (text: string) => Uint8Array.from(text, (c) => c.charCodeAt(0))
const text = (b: Uint8Array) => new TextDecoder('latin1').decode(b)
const fileOf = (t: string) => {
  const analysis = analysePath(readGcode(bytes(t)), context)
  return { analysis, reading: summarise(analysis) }
}
const change = (t: string, ...changes: FileChange[]) => {
  const { bytes: out, summary } = rewriteFile(bytes(t), fileOf(t), changes, machine, 1.75)
  return { text: text(out), summary }
}
const fault = (t: string, ...changes: FileChange[]): string => {
  try {
    change(t, ...changes)
    return 'none'
  } catch (e) {
    if (e instanceof RewriteError || e instanceof ChangeError) return e.reason.code
    throw e
  }
}

interface Run {
  /** Places in order, filament fed at each, heats in order. */
  places: [number, number, number][]
  fed: number[]
  heats: string[]
}
/** Carries out a program by its words alone: absolute millimetres, either feed, G92 of E. */
function run(t: string): Run {
  const out: Run = { places: [], fed: [], heats: [] }
  const at: Record<string, number> = { X: 0, Y: 0, Z: 0, E: 0 }
  let relative = false
  for (const { words } of parseStringSync(t)) {
    const [first] = words
    if (!first) continue
    const code = `${first[0]}${first[1]}`
    const word = (l: string) => words.find((w) => w[0] === l)?.[1]
    if (code === 'M83') relative = true
    else if (code === 'M82') relative = false
    else if (code === 'G92') at.E = word('E') ?? at.E
    else if (code === 'M104' || code === 'M109' || code === 'M140' || code === 'M190')
      out.heats.push(`${code === 'M109' ? 'M104' : code === 'M190' ? 'M140' : code} ${word('S')}`)
    else if (/^G[0123]$/.test(code)) {
      const e = word('E')
      const fed = e === undefined ? 0 : relative ? e : e - at.E
      if (e !== undefined) at.E = relative ? at.E + e : e
      for (const l of ['X', 'Y', 'Z']) at[l] = word(l) ?? at[l]
      out.places.push([at.X, at.Y, at.Z])
      out.fed.push(fed)
    }
  }
  return out
}

const f = (v: number, digits = 5) => String(Number(v.toFixed(digits)))
const E_PER_MM = 0.033
/** Two rings a layer, 40 mm apart; comments, a picture, a macro, unknown commands and trailing blanks between them. */
function hand({
  absolute,
  resets = false,
  lift = 0,
  layers = 12,
}: {
  absolute: boolean
  resets?: boolean
  lift?: number
  layers?: number
}): string {
  let e = 0
  const word = (step: number) => {
    e += step
    return `E${f(absolute ? e : step)}`
  }
  const out = [
    ';FLAVOUR:by hand',
    '; thumbnail begin 16x16',
    '; iVBORw0KGgo=',
    'START_HERE BED=60 NOZZLE=205',
    'M190 S60',
    'M109 S205',
    'G28',
    'G90',
    absolute ? 'M82' : 'M83',
    'G92 E0',
    'G1 Z2.0 F3000',
    'G1 X5 Y20 F5000.0',
    `G1 Z0.28 ; down`,
    `G1 X5 Y120 ${word(6)} F1500 ; prime`,
    'G92 E0',
  ]
  e = 0
  for (let l = 0; l < layers; l++) {
    const z = 0.28 + l * 0.2
    out.push(`;LAYER:${l}`, 'M117 Layer X12 Y3', l === 1 ? 'M106 S255' : 'M105')
    if (l === 1) out.push('M104 S200 ; a little cooler')
    for (const x of [60, 100]) {
      out.push(`G1 ${word(-2)} F2700`)
      if (lift) out.push(`G1 Z${f(z + lift, 3)} F600`)
      out.push(`G0 X${x} Y60 F7200${lift ? '' : ` Z${f(z, 3)}`}`)
      if (lift) out.push(`G1 Z${f(z, 3)} F600`)
      out.push(`G1 ${word(2)} F2700`, 'G1 F1800')
      for (const [dx, dy] of [
        [12, 0],
        [12, 12],
        [0, 12],
        [0, 0],
      ])
        out.push(`G1 X${x + dx} Y${60 + dy} ${word(12 * E_PER_MM)}  `)
      if (resets && absolute) {
        out.push('G92 E0')
        e = 0
      }
    }
  }
  out.push('M104 S0', 'M140 S0', 'G1 X0 F6000', 'M84', '')
  return out.join('\n')
}
const MANNERS = {
  'feed in steps': hand({ absolute: false }),
  'feed in places': hand({ absolute: true }),
  'feed in places, counted anew': hand({ absolute: true, resets: true }),
  'with lifts': hand({ absolute: true, lift: 0.4 }),
}

describe.each(Object.entries(MANNERS))('a file of another hand, %s', (_, old) => {
  const before = run(old)
  const same = (a: Run, b: Run, what: 'places' | 'fed' | 'heats') => {
    expect(a[what].length).toBe(b[what].length)
    const worst = (p: unknown, q: unknown): number =>
      Array.isArray(p)
        ? Math.max(0, ...p.map((v, i) => worst(v, (q as unknown[])[i])))
        : typeof p === 'number'
          ? Math.abs(p - (q as number))
          : p === q
            ? 0
            : Infinity
    expect(worst(a[what], b[what])).toBeLessThan(2e-3)
  }
  const linesKept = (now: string) => {
    const left = now.split('\n')
    let at = 0
    let kept = 0
    for (const line of old.split('\n')) {
      const found = left.indexOf(line, at)
      if (found >= 0 && found - at < 40) {
        at = found + 1
        kept++
      }
    }
    return kept
  }

  test('a longer pull-back: only pull-backs and their returns differ, and the balance is closed', () => {
    const { text: now, summary } = change(old, { kind: 'retract-length', value: 3.5 })
    const after = run(now)
    same(after, before, 'places')
    same(after, before, 'heats')
    const sum = (r: Run) => r.fed.reduce((a, b) => a + b, 0)
    expect(sum(after)).toBeCloseTo(sum(before), 3)
    before.fed.forEach((v, i) => {
      const want = Math.abs(v) === 2 || Math.abs(Math.abs(v) - 2) < 1e-4 ? v * 1.75 : v
      expect(Math.abs(after.fed[i] - want)).toBeLessThan(1e-3)
    })
    expect(linesKept(now)).toBeGreaterThanOrEqual(old.split('\n').length - summary.changed - summary.removed)
    expect(summary.removed).toBe(0)
  })
  test('more flow: lines are fed more, pull-backs are not', () => {
    const { text: now } = change(old, { kind: 'flow', where: 'all', ratio: 1.1 })
    const after = run(now)
    same(after, before, 'places')
    same(after, before, 'heats')
    let lines = 0
    before.fed.forEach((v, i) => {
      const line = v > 0 && Math.abs(v - 2) > 1e-4
      lines += line ? 1 : 0
      expect(Math.abs(after.fed[i] - (line ? v * 1.1 : v))).toBeLessThan(1e-3)
    })
    expect(lines).toBe(97)
  })
  test('heat of the rest: one line, the start and the end stay', () => {
    const { text: now, summary } = change(old, { kind: 'nozzle', where: 'rest', value: 190 })
    expect([summary.changed, summary.inserted, summary.removed]).toEqual([1, 0, 0])
    expect(run(now).heats).toEqual(before.heats.map((h) => (h === 'M104 200' ? 'M104 190' : h)))
  })
  test('heat of the first layer alone', () => {
    const { text: now, summary } = change(old, { kind: 'nozzle', where: 'first', value: 215 })
    expect([summary.changed, summary.inserted, summary.removed]).toEqual([1, 0, 0])
    expect(now).toContain('M109 S215')
    expect(now).toContain('M104 S200 ; a little cooler')
  })
  test('outer walls slower: their feed rate alone, also where it stands on a line of its own', () => {
    const { text: now } = change(old, { kind: 'speed', where: Feature.Outer, value: 20 })
    const { reading } = fileOf(now)
    expect(reading.features[Feature.Outer].usual).toBeCloseTo(20, 1)
    expect(reading.firstLayer!.speed).toBeCloseTo(30, 1)
    const after = run(now)
    same(after, before, 'places')
    same(after, before, 'fed')
    expect(now.match(/^G1 F1200$/gm)!.length).toBe(22)
  })
  test('the nozzle nearer: all lower by the same, the end as before', () => {
    const { text: now } = change(old, { kind: 'move', x: 0, y: 0, z: -0.05 })
    const { reading } = fileOf(now)
    expect(reading.firstLayer!.height).toBeCloseTo(0.23, 3)
    expect(reading.layerHeight).toBeCloseTo(0.2, 3)
    const after = run(now)
    same(after, before, 'fed')
    expect(after.places.at(-1)![0]).toBe(0)
  })
  test('moved on the bed; off it is refused', () => {
    const { text: now } = change(old, { kind: 'move', x: 10, y: -20, z: 0 })
    const [a, b] = [fileOf(old).reading.box!, fileOf(now).reading]
    expect(b.objects[0].minX).toBeCloseTo(70, 1)
    expect(a.maxY).toBeGreaterThan(0)
    expect(fault(old, { kind: 'move', x: 500, y: 0, z: 0 })).toBe('rewrite-outside')
    expect(fault(old, { kind: 'move', x: 0, y: 0, z: -0.27 })).toBe('change-into-bed')
  })
  test('pull-backs off, and what that leaves bare put in again', () => {
    const { text: off } = change(old, { kind: 'retract-off' })
    expect(fileOf(off).reading.retraction.kind).toBe('none')
    const crossings = fileOf(old).reading.travel.openCount
    expect(fileOf(off).reading.travel.openUnretracted).toBe(crossings)
    const { text: on } = change(off, { kind: 'retract-on', length: 4, speed: 40, extra: 0 })
    const { reading } = fileOf(on)
    expect(reading.travel.openUnretracted).toBe(0)
    expect(reading.retraction.length).toBeCloseTo(4, 2)
    expect(reading.retraction.speed).toBeCloseTo(40, 1)
    const sum = (r: Run) => r.fed.reduce((a, b) => a + b, 0)
    expect(sum(run(on))).toBeCloseTo(sum(before), 2)
  })
  test('two changes at once do both', () => {
    const { text: now } = change(
      old,
      { kind: 'fan', where: 'rest', value: 0.4 },
      { kind: 'retract-length', value: 1 },
    )
    const { reading } = fileOf(now)
    expect(reading.rest.fan).toBeCloseTo(0.4, 2)
    expect(reading.retraction.length).toBeCloseTo(1, 2)
    checkRewritten(fileOf(old).reading, reading, [])
  })
  test('what it is already changes nothing, and says so', () => {
    expect(fault(old, { kind: 'retract-length', value: 2 })).toBe('change-does-nothing')
    expect(fault(old, { kind: 'nozzle', where: 'rest', value: 200 })).toBe('change-does-nothing')
    expect(fault(old, { kind: 'fan', where: 'bridge', value: 1 })).toBe('change-does-nothing')
    expect(fault(old, { kind: 'acceleration', where: 'outer', value: 500 })).toBe('change-not-told')
  })
})

describe('what cannot be followed', () => {
  const base = MANNERS['feed in steps']
  test('a line that cannot be told for certain is refused only where it would have to change', () => {
    const odd = base.replace('G1 X72 Y60 E0.396', 'G1 X72 Y60 E0.396 E0.4')
    expect(fault(odd, { kind: 'flow', where: 'all', ratio: 1.05 })).toBe('none')
    const exponent = base.replace('G1 X72 Y60 E0.396', 'G1 X72 Y60 E3.96e-1')
    expect(fault(exponent, { kind: 'flow', where: 'all', ratio: 1.05 })).toBe('rewrite-line-unclear')
    expect(fault(exponent, { kind: 'nozzle', where: 'rest', value: 195 })).toBe('none')
  })
  test('curves that the reader does not follow are refused with the line', () => {
    const odd = base.replace(';LAYER:3', ';LAYER:3\nG5 X10 Y10 I3 J0 P0 Q3 E1')
    expect(fault(odd, { kind: 'nozzle', where: 'rest', value: 195 })).toBe('rewrite-unknown-move')
  })
  test('a file that changed between reading and writing is refused', () => {
    const file = fileOf(base)
    const shorter = bytes(base.slice(0, base.length / 2))
    expect(() => rewriteFile(shorter, file, [{ kind: 'retract-length', value: 1 }], machine, 1.75)).toThrow(
      RewriteError,
    )
  })
  test('the controller’s own pull-back: its length is told once, or changed where it is told', () => {
    const own = base.replace(/G1 E-2 F2700/g, 'G10').replace(/G1 E2 F2700/g, 'G11')
    const told = change(own, { kind: 'retract-length', value: 1.2 })
    expect(told.text.match(/M207 S1.2/g)!.length).toBe(1)
    expect(told.text.indexOf('M207')).toBeLessThan(told.text.indexOf('G10'))
    const again = change(told.text, { kind: 'retract-length', value: 0.8 })
    expect(again.text.match(/M207 S/g)!.length).toBe(1)
    expect(fileOf(again.text).reading.retraction.length).toBeCloseTo(0.8, 3)
    expect(fault(own, { kind: 'retract-speed', value: 20 })).toBe('change-on-machine')
  })
  test('arcs keep their centres when the part is moved, also where centres are places', () => {
    const ring = (mode: string[], centre: (x: number) => string) =>
      [
        'M109 S200',
        'G28',
        'G90',
        'M83',
        ...mode,
        ...Array.from({ length: 8 }, (_, l) => [
          `G0 X60 Y60 Z${f(0.2 + l * 0.2, 2)} F6000`,
          `G2 X80 Y60 ${centre(70)} E1.2 F1800`,
          `G2 X60 Y60 ${centre(70)} E1.2`,
        ]).flat(),
      ].join('\n')
    for (const t of [
      ring([], () => '')
        .replace(/G2 X80 Y60 /g, 'G2 X80 Y60 I10 J0')
        .replace(/G2 X60 Y60 /g, 'G2 X60 Y60 I-10 J0'),
      ring(['G90.1'], (x) => `I${x} J60`),
    ]) {
      const { text: now } = change(t, { kind: 'move', x: 30, y: 5, z: 0 })
      const [a, b] = [fileOf(t).reading.box!, fileOf(now).reading.box!]
      expect(b.minX - a.minX).toBeCloseTo(30, 2)
      expect(b.maxY - a.maxY).toBeCloseTo(5, 2)
    }
  })
  test('a fan that the file never has on is spelt as the machine spells it', () => {
    const silent = base.replace('M106 S255', 'M105')
    const on = (fan: 'bytes' | 'fraction') =>
      text(
        rewriteFile(
          bytes(silent),
          fileOf(silent),
          [{ kind: 'fan', where: 'rest', value: 0.5 }],
          { ...machine, commands: { ...USUAL_COMMANDS, fan } },
          1.75,
        ).bytes,
      )
    expect(on('bytes')).toContain('M106 S128')
    // and off again once the last line is laid; taken back, the file is the old one
    expect(on('bytes').slice(on('bytes').lastIndexOf('E0.'))).toMatch(/M107/)
    expect(on('bytes').match(/M107/g)!.length).toBe(1)
    expect(change(on('bytes'), { kind: 'fan', where: 'rest', value: 0 }).text).toBe(silent)
    expect(on('fraction')).toContain('M106 S0.5')
  })
  test('nothing is made hotter or faster than the machine allows', () => {
    expect(fault(base, { kind: 'nozzle', where: 'rest', value: machine.limits.nozzle + 1 })).toBe(
      'change-beyond-machine',
    )
    expect(fault(base, { kind: 'speed', where: 'travel', value: machine.limits.speed + 1 })).toBe(
      'change-beyond-machine',
    )
    // lines of a first layer that are quicker than its usual ones are scaled with it, up to the limit
    const { text: now } = change(base, { kind: 'speed', where: 'first', value: machine.limits.speed })
    expect(Math.max(...readGcode(bytes(now)).speed)).toBeLessThanOrEqual(machine.limits.speed + 0.01)
  })
  test('steps after places: what was fed more in steps is known where places are counted again', () => {
    // the count began anew after 6 mm of priming
    const e = run(base).fed.reduce((a, b) => a + b, 0) - 6
    for (const end of [`M82\nG92 E0\nG1 E-5 F2400`, `M82\nG1 E${f(e - 5)} F2400`]) {
      const old = base.replace('M104 S0', `${end}\nM104 S0`)
      const { text: now } = change(old, { kind: 'flow', where: 'all', ratio: 1.1 })
      expect(run(now).fed.at(-2)).toBeCloseTo(run(old).fed.at(-2)!, 3)
      expect(run(old).fed.at(-2)).toBeCloseTo(-5, 3)
    }
  })
  test('places that are counted from elsewhere (G92 of an axis) stay what they are', () => {
    const old = base.replace(';LAYER:0', 'G92 X0 Y100\n;LAYER:0').replace(/G0 X60 Y60/g, 'G0 X60 Y50')
    const { text: now } = change(old, { kind: 'move', x: 4, y: 3, z: 0 })
    const [a, b] = [fileOf(old).reading, fileOf(now).reading]
    expect(b.box!.maxX - a.box!.maxX).toBeCloseTo(4, 2)
    expect(b.box!.minY - a.box!.minY).toBeCloseTo(3, 1)
    expect(b.objects.length).toBe(a.objects.length)
    checkRewritten(a, b, [])
  })
  test('a line that changes the mode and moves is understood in its own mode', () => {
    const old = base
      .replace('G1 X72 Y60 E0.396', 'G91 G1 X12 Y0 E0.396')
      .replace('G1 X72 Y72 E0.396', 'G90 G1 X72 Y72 E0.396')
    const { text: now } = change(old, { kind: 'move', x: 10, y: 0, z: 0 })
    expect(now).toContain('G91 G1 X12 Y0 E0.396')
    expect(now).toContain('G90 G1 X82 Y72 E0.396')
    const [a, b] = [fileOf(old).reading, fileOf(now).reading]
    expect(b.box!.maxX - a.box!.maxX).toBeCloseTo(10, 2)
    expect(b.filament.length).toBeCloseTo(a.filament.length, 1)
  })
  test('a file without a line end, of one line, with hostile comments', () => {
    const hostile = base.replace(';LAYER:2', ';LAYER:2 \u0001"><script>M104 S999</script>(((').trimEnd()
    const { text: now } = change(hostile, { kind: 'nozzle', where: 'rest', value: 195 })
    expect(now).toContain('<script>M104 S999</script>(((')
    expect(now.endsWith('M84')).toBe(true)
    expect(now.length).toBe(hostile.length)
  })
  test('chunks of any size give the same file', async () => {
    const { startRewrite } = await import('../src/rewrite')
    const old = MANNERS['feed in places'].replace(/\n/g, '\r\n')
    const whole = change(old, { kind: 'flow', where: 'all', ratio: 0.95 }).text
    for (const size of [1, 7, 4096]) {
      const rewriter = startRewrite(fileOf(old), [{ kind: 'flow', where: 'all', ratio: 0.95 }], machine, 1.75)
      const parts: Uint8Array[] = []
      const all = bytes(old)
      for (let i = 0; i < all.length; i += size) parts.push(...rewriter.push(all.slice(i, i + size)))
      parts.push(...rewriter.finish().pieces)
      expect(parts.map(text).join('')).toBe(whole)
    }
  })
})

describe('several tools', () => {
  /** Two tools in turn, with a heater each or one for both; what is not at work stands by at 160. */
  const pair = ({ own, standby = false }: { own: boolean; standby?: boolean }) => {
    const out = ['M190 S60', 'G28', 'G90', 'M83', own ? 'M104 T1 S210' : '', 'T0', 'M109 S210', 'M106 S255']
    for (let l = 0; l < 10; l++) {
      out.push(`G1 Z${f(0.2 * (l + 1), 2)} F600`)
      for (const tool of [0, 1]) {
        if (standby) out.push(`M104 T${1 - tool} S160`)
        out.push('G1 E-6 F2400', `T${tool}`)
        if (standby) out.push(`M109 T${tool} S210`)
        const x = 60 + 30 * tool
        out.push(`G0 X${x} Y60 F7200`, 'G1 E6 F2400', 'G1 F1800')
        for (const [dx, dy] of [
          [12, 0],
          [12, 12],
          [0, 12],
          [0, 0],
        ])
          out.push(`G1 X${x + dx} Y${60 + dy} E0.39`)
      }
    }
    out.push(...(own ? ['M104 T0 S0', 'M104 T1 S0'] : ['M104 S0']), 'M140 S0', 'M84', '')
    return out.join('\n')
  }
  /** °C at which each tool lays, by the words alone: the test's own reckoning. */
  const heatsOf = (t: string, own: boolean) => {
    const heats: Record<number, number> = {}
    const seen = new Map<number, Set<number>>()
    let tool = 0
    for (const line of t.split('\n')) {
      const m = /^M10[49](?: T(\d))? S(\d+)/.exec(line)
      if (m) heats[own ? Number(m[1] ?? tool) : 0] = Number(m[2])
      const change = /^T(\d)/.exec(line)
      if (change) tool = Number(change[1])
      if (/^G1 X.* E/.test(line)) {
        if (!seen.has(tool)) seen.set(tool, new Set())
        seen.get(tool)!.add(heats[own ? tool : 0])
      }
    }
    return [0, 1].map((k) => [...seen.get(k)!].sort())
  }
  const files = {
    'a heater each': { own: true, t: pair({ own: true }) },
    'a heater each, cooled while they wait': { own: true, t: pair({ own: true, standby: true }) },
    'one heater for both': { own: false, t: pair({ own: false }) },
  }
  test.each(Object.entries(files))(
    '%s: all lay at the new heat, what stands by and the end stay',
    (_, { own, t }) => {
      const first = fileOf(t).reading.firstLayer!
      expect(first.nozzle).toBe(210)
      const { text: now } = change(
        t,
        { kind: 'nozzle', where: 'rest', value: 225 },
        { kind: 'nozzle', where: 'first', value: 225 },
      )
      expect(heatsOf(now, own)).toEqual([[225], [225]])
      expect(now.match(/S160/g)?.length).toBe(t.match(/S160/g)?.length)
      const end = (all: string) => all.slice(all.search(/M104( T0)? S0/))
      expect(end(now)).toBe(end(t))
      expect(run(now).fed).toEqual(run(t).fed)
      expect(fileOf(now).reading.rest.nozzle).toBe(225)
      const { text: back } = change(
        now,
        { kind: 'nozzle', where: 'rest', value: 210 },
        { kind: 'nozzle', where: 'first', value: 210 },
      )
      expect(back).toBe(t)
    },
  )
  test('above the first layer alone, each heater gets it where it next lays', () => {
    for (const { own, t } of Object.values(files)) {
      const { text: now } = change(t, { kind: 'nozzle', where: 'rest', value: 225 })
      expect(heatsOf(now, own)).toEqual([
        [210, 225],
        [210, 225],
      ])
      const above = now.slice(now.indexOf('G1 Z0.4 '))
      expect(above.match(/G1 X/g)!.length).toBe(72)
      expect(change(now, { kind: 'nozzle', where: 'rest', value: 210 }).text).toBe(t)
    }
  })
  test('a heater that was spoken to by its tool only at the end: one in use before it has the heat of the other', () => {
    const t = pair({ own: false }).replace('M104 S0', 'M104 T0 S0\nM104 T1 S0')
    const { text: now } = change(t, { kind: 'nozzle', where: 'rest', value: 225 })
    expect(change(now, { kind: 'nozzle', where: 'rest', value: 210 }).text).toBe(t)
  })
  test('two tools at two heats: what one lays at stays with it', () => {
    const t = files['a heater each'].t
      .replace('M104 T1 S210', 'M104 T1 S190')
      .replace(/X(\d+) Y60 F7200/g, 'X$1 Y60 F7200')
    expect(heatsOf(t, true)).toEqual([[210], [190]])
    const { program } = fileOf(t).analysis
    const read = new Set(
      Array.from(program.state, (s) => `${program.states[s].tool} ${program.states[s].nozzle}`),
    )
    expect([...read].filter((s) => s.startsWith('1'))).toEqual(['1 190'])
  })
  test('feed and pull-backs of both tools, those at a change of tool as they were', () => {
    const t = files['a heater each'].t
    const { text: now } = change(t, { kind: 'flow', where: 'all', ratio: 1.1 })
    const [a, b] = [run(t).fed, run(now).fed]
    a.forEach((v, i) => expect(b[i]).toBeCloseTo(v > 0 && v < 1 ? v * 1.1 : v, 4))
  })
})

describe('steps up a finished file', () => {
  const tall = (lift = 0) => hand({ absolute: true, lift, layers: 41 })
  const values = [220, 210, 200, 190]
  const bands = { from: 0.28, to: 8.28 }
  /** What is set, pulled back and asked for at each height at which lines are laid: the test's own reckoning. */
  const byHeight = (t: string) => {
    const out = new Map<
      number,
      { heat: Set<number>; fan: Set<number>; rate: Set<number>; pull: Set<number> }
    >()
    let [heat, fan, rate, z, e, pull] = [0, 0, 0, 0, 0, 0]
    for (const line of t.split('\n').map((l) => l.replace(/;.*/, ''))) {
      const word = (l: string) => {
        const m = new RegExp(`${l}(-?[\\d.]+)`).exec(line)
        return m ? Number(m[1]) : undefined
      }
      if (/^M10[49]/.test(line)) heat = word('S')!
      if (/^M106/.test(line)) fan = word('S')!
      if (/^M107/.test(line)) fan = 0
      if (/^G92/.test(line)) e = word('E') ?? e
      if (!/^G[01] /.test(line)) continue
      rate = word('F') ?? rate
      z = word('Z') ?? z
      const to = word('E')
      const step = to === undefined ? 0 : to - e
      e = to ?? e
      if (step < 0) pull = Number((-step).toFixed(3))
      if (step <= 0 || !/X/.test(line)) continue
      const key = Number(z.toFixed(2))
      if (!out.has(key)) out.set(key, { heat: new Set(), fan: new Set(), rate: new Set(), pull: new Set() })
      const at = out.get(key)!
      at.heat.add(heat)
      at.fan.add(fan)
      at.rate.add(rate)
      at.pull.add(pull)
    }
    return out
  }
  const bandAt = (z: number) => (z <= 0.28 ? -1 : Math.min(3, Math.floor((z - 0.281) / 2)))

  test('heat: each band lies at its own, the first layer and all places and feeds as before', () => {
    const old = tall()
    const { text: now, summary } = change(old, { kind: 'steps', of: 'nozzle', values, ...bands })
    expect([summary.changed, summary.inserted]).toEqual([1, 3])
    for (const [z, at] of byHeight(now))
      expect([z, ...at.heat]).toEqual([z, bandAt(z) < 0 ? 205 : values[bandAt(z)]])
    expect(run(now).places).toEqual(run(old).places)
    expect(run(now).fed).toEqual(run(old).fed)
    expect(now.slice(now.indexOf('M104 S0'))).toBe(old.slice(old.indexOf('M104 S0')))
  })
  test('between two heights only: above them all is as it was', () => {
    const old = tall()
    const { text: now } = change(old, {
      kind: 'steps',
      of: 'nozzle',
      values: [215, 195],
      from: 2.28,
      to: 6.28,
    })
    for (const [z, at] of byHeight(now)) {
      const want = z <= 0.28 ? 205 : z <= 2.28 || z > 6.28 ? 200 : z <= 4.28 ? 215 : 195
      expect([z, ...at.heat]).toEqual([z, want])
    }
  })
  test.each([0, 0.4])('pull-backs: each band pulls back its own, with lifts of %s mm as well', (lift) => {
    const old = tall(lift)
    const lengths = [1, 2, 3, 4]
    const { text: now } = change(old, { kind: 'steps', of: 'retract-length', values: lengths, ...bands })
    for (const [z, at] of byHeight(now)) {
      // the pull-back on the way up belongs to the layer it leaves
      const [here, below] = [bandAt(z), bandAt(z - 0.2)].map((b) => (b < 0 ? 2 : lengths[b]))
      const strays = [...at.pull].filter((p) => ![here, below].some((want) => Math.abs(p - want) < 2e-3))
      // before the first layer there is the priming line, and nothing was pulled back
      expect([z, ...strays]).toEqual(z <= 0.28 ? [z, 0] : [z])
      expect([...at.pull].some((p) => Math.abs(p - here) < 2e-3)).toBe(true)
    }
    const sum = (t: string) => run(t).fed.reduce((a, b) => a + b, 0)
    expect(sum(now)).toBeCloseTo(sum(old), 2)
    expect(run(now).places).toEqual(run(old).places)
  })
  test('fan and outer walls: their bands alone', () => {
    const old = tall()
    const fan = change(old, { kind: 'steps', of: 'fan', values: [0, 0.4, 0.8, 1], ...bands }).text
    for (const [z, at] of byHeight(fan))
      expect([z, ...at.fan]).toEqual([z, bandAt(z) < 0 ? 0 : Math.round([0, 0.4, 0.8, 1][bandAt(z)] * 255)])
    const speed = change(old, { kind: 'steps', of: 'speed', values: [20, 30, 40, 50], ...bands }).text
    for (const [z, at] of [...byHeight(speed)].filter(([z]) => z > 0.28))
      expect([z, ...at.rate]).toEqual([z, [20, 30, 40, 50][bandAt(z)] * 60])
  })
  test('what does not fit is refused: bands too low, beyond the machine, pulled back by the controller, no acceleration told', () => {
    const low = hand({ absolute: false })
    expect(fault(low, { kind: 'steps', of: 'nozzle', values, ...bands })).toBe('change-bands-low')
    expect(fault(tall(), { kind: 'steps', of: 'nozzle', values, from: 8, to: 4 })).toBe('change-bands-low')
    expect(fault(tall(), { kind: 'steps', of: 'nozzle', values, from: 900, to: 990 })).toBe(
      'change-bands-low',
    )
    const hot = [210, machine.limits.nozzle + 5]
    expect(fault(tall(), { kind: 'steps', of: 'nozzle', values: hot, ...bands })).toBe(
      'change-beyond-machine',
    )
    const own = hand({ absolute: false, layers: 41 })
      .replace(/G1 E-2 F2700/g, 'G10')
      .replace(/G1 E2 F2700/g, 'G11')
    expect(fault(own, { kind: 'steps', of: 'retract-length', values: [1, 2], ...bands })).toBe(
      'change-on-machine',
    )
    expect(fault(own, { kind: 'steps', of: 'acceleration', values: [500, 900], ...bands })).toBe(
      'change-not-told',
    )
  })

  const pair: PairOnBench = {
    machine,
    filament: demoFilaments('2026-01-01').terracotta,
    recipe: deriveRecipe({ machine, filament: demoFilaments('2026-01-01').terracotta }),
  }
  const plan = (over: Partial<PiecePlan> = {}): PiecePlan & { onFile: OnFile } => ({
    piece: 'temperature-tower',
    steps: { key: 'nozzle', from: 220, to: 190, count: 4 },
    onFile: { name: 'gift.gcode', sha256: 'a'.repeat(64), ...bands },
    ...over,
  })
  test('as a trial: a place for each band where it lies, and the file with three lines at its top', () => {
    const old = tall()
    const { gcode, cells, box } = makeOnFile(bytes(old), pair, plan(), [
      'Terracotta on Potting shed',
      'Größe',
    ])
    expect(
      cells.map((c) => [c.values.nozzle, Number(c.box.z0.toFixed(2)), Number(c.box.z1.toFixed(2))]),
    ).toEqual([
      [220, 0.28, 2.28],
      [210, 2.28, 4.28],
      [200, 4.28, 6.28],
      [190, 6.28, 8.28],
    ])
    expect(box.z1).toBeCloseTo(8.28, 2)
    const { text: now } = change(old, { kind: 'steps', of: 'nozzle', values, ...bands })
    expect(gcode.split('\n').slice(3).join('\n')).toBe(now)
    expect(gcode.split('\n').slice(0, 3)).toEqual([
      '; temperature tower in gift.gcode, Nozzle: 220, 210, 200, 190 °C'.replace('°', '?'),
      '; Terracotta on Potting shed',
      '; Gr??e',
    ])
  })
  test('pressure: one command a band in the machine’s own way, none where the machine has none', () => {
    const ask: FileChange = { kind: 'steps', of: 'pressure', values: [0, 0.05, 0.1], from: 0.28, to: 8.28 }
    const { text: now, summary } = change(tall(), ask)
    expect([summary.changed, summary.removed]).toEqual([0, 0])
    const told = now.split('\n').flatMap((line) => /^M900 K([\d.]+)/.exec(line)?.[1] ?? [])
    expect(told.map(Number).filter((v) => v > 0)).toEqual([0.05, 0.1])
    expect(
      now
        .split('\n')
        .filter((line) => !line.endsWith('; Verimend'))
        .join('\n'),
    ).toBe(tall())
    const none = { ...machine, commands: { ...USUAL_COMMANDS, pressure: 'none' as const } }
    expect(() => rewriteFile(bytes(tall()), fileOf(tall()), [ask], none, 1.75)).toThrow(ChangeError)
    const cells = makeOnFile(
      bytes(tall()),
      { ...pair, machine },
      {
        ...plan(),
        piece: 'corner-columns',
        steps: { key: 'pressureCompensation', from: 0, to: 0.1, count: 3 },
      },
    ).cells
    expect(cells.map((c) => c.values.pressureCompensation)).toEqual([0, 0.05, 0.1])
  })
  test('a mark at the beginning and remarks in any encoding go through', () => {
    const utf = new TextEncoder().encode(`\ufeff${tall().replace('by hand', 'von Hand, Größe')}`)
    const { gcode } = makeOnFile(utf, pair, plan())
    expect(gcode.startsWith('\ufeff; temperature')).toBe(true)
    expect(gcode).toContain('von Hand, Größe')
    const latin = bytes(tall().replace('by hand', 'Gr\u00f6\u00dfe'))
    expect(makeOnFile(latin, pair, plan()).gcode).toContain('Größe')
  })
  test('a plan that does not fit says why, before anything is written', () => {
    const why = (p: Partial<PiecePlan>, file = bytes(tall())) => {
      try {
        makeOnFile(file, pair, plan(p))
        return 'none'
      } catch (e) {
        if (e instanceof PieceError) return e.reason.code
        throw e
      }
    }
    expect(why({ steps: { key: 'nozzle', from: 220, to: 900, count: 4 } })).toBe('end-out-of-bounds')
    expect(why({ piece: 'flow-box' as PieceId })).toBe('not-on-part')
    expect(
      why({ steps: { key: 'nozzle', from: 220, to: 190, count: 9 } }, bytes(hand({ absolute: true }))),
    ).toBe('change-bands-low')
    expect(why({}, new Uint8Array(0))).toBe('empty')
    expect(why({}, bytes('hello'))).not.toBe('none')
  })
})

describe('a pause for another roll', () => {
  test.each(Object.entries(MANNERS))(
    '%s: once, where it is asked for; nothing else moves, and no more is fed',
    (_, old) => {
      const { text: now, summary } = change(old, { kind: 'pause', height: 1.08, command: 'M600' })
      expect([summary.changed, summary.inserted, summary.removed]).toEqual([0, 1, 0])
      const at = now.indexOf('M600')
      expect(now.lastIndexOf(';LAYER:', at)).toBe(now.indexOf(';LAYER:5'))
      expect(now.replace(/M600.*\n/, '')).toBe(old)
    },
  )
  test.each(Object.entries(MANNERS))(
    '%s: a machine that only stops is lifted off the part, and set down again',
    (_, old) => {
      const { text: now, summary } = change(old, { kind: 'pause', height: 1.08, command: 'M0' })
      expect(summary.inserted).toBe(5)
      const [a, b] = [run(old), run(now)]
      const sum = (r: Run) => r.fed.reduce((x, y) => x + y, 0)
      expect(sum(b)).toBeCloseTo(sum(a), 3)
      const high = Math.max(...b.places.map(([, , z]) => z))
      expect(high).toBeCloseTo(1.28 + 10, 2)
      // while it waits the head is up, and the filament pulled back
      const before = run(now.slice(0, now.indexOf('M0 ')))
      expect(before.places.at(-1)![2]).toBeCloseTo(high, 2)
      const [x, y] = before.places.at(-1)!
      const after = run(
        now.slice(0, now.indexOf('M0 ')) + now.slice(now.indexOf('M0 ')).split('\n').slice(1, 3).join('\n'),
      )
      expect(after.places.at(-1)).toEqual([x, y, 1.28])
      checkRewritten(fileOf(old).reading, fileOf(now).reading, [])
      expect(fileOf(now).reading.style.pauses).toBe(1)
    },
  )
  test('above the print, or on its first layer, there is nothing to wait for', () => {
    const old = MANNERS['feed in steps']
    expect(fault(old, { kind: 'pause', height: 50, command: 'M0' })).toBe('change-does-nothing')
    const { text: now } = change(old, { kind: 'pause', height: 0, command: 'M600' })
    expect(now.lastIndexOf(';LAYER:', now.indexOf('M600'))).toBe(now.indexOf(';LAYER:1\n'))
  })
  test('a machine that reaches no higher is lifted as far as it goes', () => {
    const low: Machine = { ...machine, height: 4 }
    const old = MANNERS['with lifts']
    const out = text(
      rewriteFile(bytes(old), fileOf(old), [{ kind: 'pause', height: 1.08, command: 'M0' }], low, 1.75).bytes,
    )
    expect(Math.max(...run(out).places.map(([, , z]) => z))).toBeCloseTo(4, 3)
  })
})
