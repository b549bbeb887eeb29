import fc from 'fast-check'
import { z } from 'zod'
import {
  acknowledgement,
  addFile,
  addMark,
  adoptTrial,
  askDiagnosis,
  beginBlob,
  cellReading,
  closeCase,
  createAttempt,
  createCase,
  createFilament,
  createMachine,
  createPair,
  createSet,
  createTrial,
  createVersion,
  gradeRun,
  importRecipe,
  readRecipe,
  recordChecks,
  recordOutcome,
  restoreVersion,
  setCannot,
  setLearns,
  setSign,
  updateCase,
  updateFilament,
  updateMachine,
  updatePhoto,
  updateTrial,
} from '@verimend/contract'
import { DEMO_MACHINES, demoFilaments } from '@verimend/core/demo'
import { contextOf, findingContext, findingEvidence, findingsOf, gatherFacts } from '@verimend/core/diagnosis'
import { SUSPECT_IDS } from '@verimend/core/knowledge'
import { readGcode } from '@verimend/core/gcode'
import { writePart } from '@verimend/core/planner'
import { compareWithRecipe, deriveRecipe, printSettingsOf } from '@verimend/core/recipe'
import { compareReadings, correlate, readPath, type PathReading } from '@verimend/core/toolpath'
import { say, sayFinding } from '@verimend/core/words'
import { tries } from '../../core/test/lib/property'

const id = '0190d8a4-7d1c-7000-8000-000000000001'
const rolls = demoFilaments('2026-01-01')
const machine = DEMO_MACHINES.shed
const filament = rolls.fern
const steps = { key: 'nozzle', from: 200, to: 225, count: 6 }

/** What a well-behaved page sends, one of each. */
const GOOD: Record<string, [z.ZodType, unknown]> = {
  createMachine: [createMachine, { id, machine: { ...machine, chamber: 60 } }],
  roundMachine: [createMachine, { machine: { ...DEMO_MACHINES.greenhouse, height: 250 } }],
  updateMachine: [updateMachine, { rev: 2, machine }],
  createFilament: [createFilament, { id, filament }],
  soft: [createFilament, { filament: rolls.willow }],
  updateFilament: [updateFilament, { rev: 1, filament: rolls.pond }],
  createPair: [createPair, { machineId: id, filamentId: id }],
  createVersion: [createVersion, { base: 1, set: { nozzle: 215 }, reason: 'Cooler.' }],
  restoreVersion: [restoreVersion, { base: 3, number: 1, reason: 'Back.' }],
  acknowledgement: [acknowledgement, { fingerprint: 'temperature-off-label:210', acknowledged: true }],
  readRecipe: [readRecipe, { text: '{}' }],
  importRecipe: [
    importRecipe,
    { text: '{}', machineId: id, filamentId: id, base: 2, take: [{ key: 'flow', grade: 'standard' }] },
  ],
  createCase: [createCase, { id, pairId: id, part: 'Drip-line clips', place: 'walls' }],
  updateCase: [updateCase, { was: { part: 'Clip', note: '' }, part: 'Clips', note: 'Since Monday.' }],
  setSign: [setSign, { state: 'present' }],
  addMark: [addMark, { fileId: id, heightRanges: [{ from: 1, to: 2 }], quantity: 'outerSpeed' }],
  recordChecks: [recordChecks, { results: [{ suspect: 'bed-dirty', found: true }] }],
  setCannot: [setCannot, { cannot: ['check:calipers'] }],
  setLearns: [setLearns, { learns: false }],
  createSet: [
    createSet,
    {
      design: 'two-by-two',
      sign: 'strings-thin',
      factors: [
        { proposal: 'nozzle-too-hot/0', levels: [205, 215] },
        { proposal: 'retraction-too-short/0', levels: [4, 5] },
      ],
    },
  ],
  gradeRun: [gradeRun, { grade: 2 }],
  createAttempt: [createAttempt, { base: 1, mends: [{ proposal: 'nozzle-too-hot/0', to: 205 }] }],
  recordOutcome: [
    recordOutcome,
    { results: { 'strings-thin': 'gone' }, newSigns: ['dull-finish'], notThere: [], note: '' },
  ],
  closeCase: [closeCase, { rev: 3, keep: 2 }],
  updatePhoto: [
    updatePhoto,
    {
      note: 'Left side',
      marks: [
        { kind: 'ring', x: 10, y: 12, r: 8 },
        { kind: 'length', x1: 0, y1: 0, x2: 30, y2: 4 },
      ],
      scale: 0.05,
      afterAttempt: 1,
    },
  ],
  createTrial: [createTrial, { id, pairId: id, caseId: null, plan: { piece: 'temperature-tower', steps } }],
  updateTrial: [updateTrial, { resolution: 0.01, note: 'By the window.' }],
  cellReading: [
    cellReading,
    { grades: { strings: 3 }, measures: [0.45, 0.46], unsure: false, skipped: false, note: '' },
  ],
  adoptTrial: [adoptTrial, { base: 2, keys: ['nozzle'] }],
  beginBlob: [beginBlob, { sha256: 'a'.repeat(64), bytes: 1000 }],
  askDiagnosis: [
    askDiagnosis,
    {
      machine,
      filament,
      recipe: { nozzle: 225, retractLength: 2, retract: true },
      signs: { 'strings-thin': 'present' },
      today: '2026-01-01',
    },
  ],
}
const NAMES = Object.keys(GOOD)

/** A part of two heights, read from the file the app writes of it. */
const recipe = deriveRecipe({ machine, filament })
const reading = readPath(
  readGcode(
    Buffer.from(
      writePart(machine, printSettingsOf(recipe), {
        shape: 'box',
        width: 14,
        height: 3,
        copies: 2,
        apart: 20,
        steps: [{ from: 1.6, inset: 3 }],
      }),
    ),
  ),
  { filamentDiameter: 1.75, density: 1.24, nozzleDiameter: 0.4, limits: machine.limits },
)
const file = { name: 'clip.gcode', bytes: 1000, sha256: 'a'.repeat(64), reading }

/** Every place inside a value that holds no further places, as paths. */
function leaves(value: unknown, path: (string | number)[] = []): (string | number)[][] {
  if (value === null || typeof value !== 'object') return [path]
  const inner = Array.isArray(value) ? value.map((v, i) => [i, v] as const) : Object.entries(value)
  return inner.length ? inner.flatMap(([k, v]) => leaves(v, [...path, k])) : [path]
}
function withValue(value: unknown, path: (string | number)[], to: unknown): unknown {
  if (!path.length) return to
  const [head, ...rest] = path
  const copy = (Array.isArray(value) ? [...value] : { ...(value as object) }) as Record<string, unknown>
  if (rest.length || to !== undefined) copy[head] = withValue(copy[head], rest, to)
  else delete copy[head]
  return copy
}

const HOSTILE: [string, unknown][] = [
  ['nothing', undefined],
  ['NaN', NaN],
  ['without end', Infinity],
  ['far below', -1e12],
  ['far above', 1e12],
  ['text', 'seven'],
  ['a page of text', 'x'.repeat(20_000)],
  ['markup with a bell', '<img src=x>\u0007'],
  ['a list', [[]]],
  ['a thing', { toString: 'no', valueOf: 3 }],
  ['yes', true],
]

test.each(NAMES)('%s: what a page sends is taken as it is', (name) => {
  const [schema, good] = GOOD[name]
  const r = schema.safeParse(good)
  expect(r.error?.issues ?? []).toEqual([])
})

test.each(NAMES)(
  '%s: whatever stands in a field, the fault names that field in one plain sentence',
  (name) => {
    const [schema, good] = GOOD[name]
    const bad: string[] = []
    for (const path of leaves(good))
      for (const [what, to] of HOSTILE) {
        const r = schema.safeParse(withValue(good, path, to))
        if (r.success) continue
        const field = path.join('.')
        // at the field itself, inside what was put there, or at what holds it when the whole does not add up;
        // others may suffer from it too
        const named = r.error.issues.some((i) => {
          const at = i.path.join('.')
          return at.startsWith(field) || field.startsWith(at)
        })
        if (!named) bad.push(`${field} = ${what} is not named`)
        for (const { message } of r.error.issues)
          if (!/^[A-Z“].{3,170}[.]$/.test(message) || /expected|invalid|undefined|NaN/i.test(message))
            bad.push(`${field} = ${what}: ${message}`)
      }
    expect([...new Set(bad)]).toEqual([])
  },
)

test('no number that is none gets in, anywhere', () => {
  const worst = (v: unknown): boolean =>
    typeof v === 'number'
      ? !Number.isFinite(v)
      : v !== null && typeof v === 'object' && Object.values(v).some(worst)
  for (const name of NAMES) {
    const [schema, good] = GOOD[name]
    for (const path of leaves(good))
      for (const to of [NaN, Infinity, -Infinity]) {
        const r = schema.safeParse(withValue(good, path, to))
        if (r.success) expect([name, path.join('.'), worst(r.data)]).toEqual([name, path.join('.'), false])
      }
  }
})

test('anything at all is answered, never thrown at', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(...NAMES),
      fc.anything({ withBigInt: true, withDate: true, withMap: true, withNullPrototype: true }),
      (name, value) => {
        const r = GOOD[name][0].safeParse(value)
        if (r.success) return
        expect(r.error.issues.length).toBeGreaterThan(0)
      },
    ),
    tries(400),
  )
})

describe('what does not add up', () => {
  const of = (name: string, ...changes: [string, unknown][]) => {
    const [schema, good] = GOOD[name]
    const r = schema.safeParse(
      changes.reduce<unknown>((v, [path, to]) => withValue(v, path.split('.'), to), good),
    )
    return r.success ? 'taken' : `${r.error.issues[0].path.join('.')}: ${r.error.issues[0].message}`
  }
  test.each([
    ['createMachine', 'machine.drive.tubeLength', 0, 'needs the length of its tube'],
    ['createFilament', 'filament.weightLeft', 1200, 'More is left than the roll held'],
    ['createFilament', 'filament.label.nozzle', { min: 230, max: 200 }, 'lower end is above the upper'],
    ['createFilament', 'filament.measured', [{ a: 2.85, b: null }], 'far from the nominal'],
    ['createFilament', 'filament.openedOn', '2026-13-41', 'no day of the calendar'],
    ['createAttempt', 'mends', [], 'at least one thing to change'],
    [
      'createAttempt',
      'mends',
      Array(4).fill({ proposal: 'nozzle-too-hot/0', to: 1 }),
      'Three changes at once',
    ],
    ['adoptTrial', 'keys', [], 'at least one value'],
    ['createTrial', 'plan.piece', 'statue', 'no such test piece'],
    ['setSign', 'state', 'maybe', ''],
    ['cellReading', 'measures', [-0.4], 'above 0'],
    ['cellReading', 'grades.strings', 9, 'A grade is a whole number from 0 to 4'],
  ] as const)('%s: %s', (name, path, to, words) => {
    const said = of(name, [path, to])
    expect(said).toContain(words)
    expect(said).not.toBe('taken')
  })
  test('names are trimmed, markup in them stays text', () => {
    const r = createCase.parse({ pairId: id, part: '  <b>Clip</b>  ' })
    expect(r.part).toBe('<b>Clip</b>')
  })
})

describe('path readings', () => {
  test('a reading of the app’s own passes', () => {
    expect(addFile.safeParse(file).error?.issues ?? []).toEqual([])
  })

  /** A few places of each kind: a column of a thousand layers is one kind. */
  const places = (() => {
    const seen = new Map<string, number>()
    return leaves(file).filter((path) => {
      const kind = path.map((p) => (typeof p === 'number' ? '*' : p)).join('.')
      const count = (seen.get(kind) ?? 0) + 1
      seen.set(kind, count)
      return count <= 2
    })
  })()

  /** Everything the app does with a reading. */
  const used = (r: PathReading) => {
    const pair = { machine, filament, recipe }
    const findings = findingsOf(r, findingContext(pair))
    compareWithRecipe(r, recipe)
    compareReadings(r, reading)
    correlate(r.layers, [{ from: 0.5, to: 1.5 }])
    const facts = gatherFacts({ ...pair, reading: r, today: '2026-01-01' })
    return [
      ...findings.map((f) => sayFinding(f).text),
      ...findingEvidence(findings).map((e) => say(e.reason)),
      ...SUSPECT_IDS.flatMap((id) => contextOf(id, facts).map((w) => say(w.reason))),
    ]
  }

  test('whatever stands in a field is refused with a sentence at that field, or the app lives with it', () => {
    const bad: string[] = []
    for (const path of places)
      for (const [what, to] of [
        ...HOSTILE,
        ['null', null],
        ['zero', 0],
        ['minus three', -3],
        ['a third', 1 / 3],
      ] as [string, unknown][]) {
        const field = path.join('.')
        const r = addFile.safeParse(withValue(file, path, to))
        if (!r.success) {
          for (const { message } of r.error.issues)
            if (!/^[A-Z“].{3,170}[.]$/.test(message) || /expected|invalid|undefined|NaN/i.test(message))
              bad.push(`${field} = ${what}: ${message}`)
          continue
        }
        if (path[0] !== 'reading') continue
        try {
          const nonsense = used(r.data.reading).find((t) => /NaN|undefined|Infinity|\[object/.test(t))
          if (nonsense) bad.push(`${field} = ${what}: ${nonsense}`)
        } catch (error) {
          bad.push(`${field} = ${what}: ${(error as Error).stack?.slice(0, 200)}`)
        }
      }
    expect(bad).toEqual([])
  })

  test('columns of unequal length and layers that are not there are refused', () => {
    const short = { ...reading, layers: { ...reading.layers, fan: reading.layers.fan.slice(1) } }
    const faults = (r: unknown) => addFile.safeParse({ ...file, reading: r }).error?.issues ?? []
    expect(faults(short)[0]?.message).toMatch(/as many entries/)
    const away = { ...reading, firstLayer: { ...reading.firstLayer, layer: 4000 } }
    expect(faults(away)[0]?.message).toMatch(/no such layer/)
  })
})
