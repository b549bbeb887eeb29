import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import fc from 'fast-check'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import { CHECK_IDS, PROCEDURE_IDS, SIGN_IDS, SUSPECT_IDS, TRIAL_IDS, type SignId } from '../src/knowledge'
import { FAMILIES } from '../src/material'
import { bytes, change, duration, figure, quantity, said, upgradeReason, type Reason } from '../src/quantity'
import { measurementContext } from '../src/casework'
import { SIZE_AXES, SIZE_KINDS, evaluate, type Measured } from '../src/measurement'
import { deriveGraded, deriveRecipe, settingOf, valuesOf, SETTING_KEYS } from '../src/recipe'
import {
  CATALOGUE,
  bareText,
  changeText,
  lookName,
  procedureName,
  say,
  sayAll,
  settingMatches,
  signNames,
  stepName,
  suspectName,
  valueText,
  weightWords,
} from '../src/words'
import { meshFaultSentences } from '../src/words/sentences/mesh'
import { caseSentences } from '../src/words/sentences/casework'
import {
  deriveSentences,
  policySentences,
  relativeSentences,
  valueFaultSentences,
} from '../src/words/sentences/derive'
import { diagnosisSentences } from '../src/words/sentences/diagnosis'
import {
  gcodeFaultSentences,
  heightSentences,
  lineFaultSentences,
  motionSentences,
  rewriteSentences,
} from '../src/words/sentences/paths'
import { measurementSentences } from '../src/words/sentences/measurement'
import { planFaultSentences } from '../src/words/sentences/planner'
import {
  outcomeSentences,
  pieceFaultSentences,
  readingFaultSentences,
  stepSentences,
} from '../src/words/sentences/trials'
import { PIECES, PIECE_IDS } from '../src/trials'
import { diagnose } from './lib/diagnose'
import { tries } from './lib/property'

const LISTS = {
  gcodeFaultSentences,
  heightSentences,
  lineFaultSentences,
  motionSentences,
  rewriteSentences,
  policySentences,
  relativeSentences,
  valueFaultSentences,
  derive: deriveSentences(say),
  stepSentences,
  meshFaultSentences,
  planFaultSentences,
  pieceFaultSentences,
  readingFaultSentences,
  outcomeSentences,
  measurementSentences,
  diagnosis: diagnosisSentences(say),
  casework: caseSentences(say),
}

test('no code stands in two lists, and every code is in the catalogue', () => {
  const home = new Map<string, string>()
  const twice: string[] = []
  for (const [list, sentences] of Object.entries(LISTS))
    for (const code of Object.keys(sentences)) {
      if (home.has(code)) twice.push(`${code}: ${home.get(code)} and ${list}`)
      home.set(code, list)
    }
  expect(twice).toEqual([])
  expect(Object.keys(CATALOGUE).sort()).toEqual([...home.keys(), 'said'].sort())
})

/** Every reason inside a value, at any depth. */
function reasonsIn(value: unknown, out: Reason[] = []): Reason[] {
  if (Array.isArray(value)) for (const v of value) reasonsIn(v, out)
  else if (value && typeof value === 'object') {
    const r = value as Partial<Reason>
    if (typeof r.code === 'string' && r.values && Object.hasOwn(CATALOGUE, r.code)) out.push(r as Reason)
    for (const v of Object.values(value)) reasonsIn(v, out)
  }
  return out
}
const sound = (sentence: string) =>
  /^[A-Z0-9“].*[.?!”]$/s.test(sentence) && !/undefined|NaN|\[object|null|Infinity| {2}/.test(sentence)

test('whatever a recipe or a diagnosis gives as its reason is a sound sentence', () => {
  const rolls = demoFilaments('2026-01-01')
  const codes = new Set<string>()
  const wrong = new Set<string>()
  const hear = (value: unknown) => {
    for (const r of reasonsIn(value)) {
      codes.add(r.code)
      const sentence = say(r)
      if (!sound(sentence)) wrong.add(`${r.code}: ${sentence}`)
    }
  }
  fc.assert(
    fc.property(
      fc.constantFrom(...Object.values(DEMO_MACHINES)),
      fc.constantFrom(...FAMILIES),
      fc.constantFrom(...Object.values(rolls)),
      fc.uniqueArray(fc.constantFrom(...SIGN_IDS), { maxLength: 5 }),
      (machine, family, base, seen) => {
        const filament = { ...base, family }
        const recipe = deriveGraded({ machine, filament })
        for (const grade of ['fine', 'standard', 'coarse'] as const) hear(valuesOf(recipe, grade))
        const signs = Object.fromEntries(
          seen.map((s, i): [SignId, 'present' | 'absent'] => [s, i % 3 ? 'present' : 'absent']),
        )
        hear(diagnose({ machine, filament, recipe: recipe.values, signs, today: '2026-01-10' }))
      },
    ),
    tries(60),
  )
  expect([...wrong]).toEqual([])
  expect(codes.size).toBeGreaterThan(60)
})

test('whatever a measurement says is a sound sentence, of any readings', () => {
  const number = (min: number, max: number) => fc.double({ min, max, noNaN: true })
  const size = fc.record({
    id: fc.uuid(),
    name: fc.constant('Side'),
    axis: fc.constantFrom(...SIZE_AXES),
    kind: fc.constantFrom(...SIZE_KINDS),
    place: fc.constantFrom('above' as const, 'base' as const),
    round: fc.boolean(),
    nominal: fc.constantFrom(0.45, 5, 20, 40, 100),
    off: fc.array(number(-0.4, 0.4), { maxLength: 3 }),
    speed: fc.option(number(10, 120), { nil: undefined }),
  })
  const few = <T>(of: fc.Arbitrary<T>, maxLength = 8) => fc.array(of, { maxLength })
  const place = fc.record({ x: number(0, 220), y: number(0, 220) })
  const any: fc.Arbitrary<Measured> = fc.oneof(
    fc
      .record({ readings: few(size, 14), resolution: fc.constantFrom(0.01, 0.1, 1) })
      .map(({ readings, resolution }): Measured => ({
        kind: 'sizes',
        instrument: { kind: 'caliper', resolution },
        wanted: [{ name: 'Seat', nominal: 22, kind: 'inside', axis: 'x' }],
        readings: readings.map(({ off, ...r }) => ({
          ...r,
          measures: off.map((o) => Math.max(0.05, r.nominal + o)),
        })),
      })),
    few(
      fc.record({ x: number(0, 220), y: number(0, 220), z: number(-0.5, 0.5), u: number(0, 0.05) }),
      30,
    ).map((points): Measured => ({ kind: 'bed', from: 'grid', points })),
    few(
      fc.record({
        at: place,
        feel: fc.constantFrom('loose' as const, 'drags' as const, 'tight' as const, null),
      }),
      9,
    ).map((gaps): Measured => ({
      kind: 'bed',
      from: 'felt',
      sheet: 0.1,
      gaps: gaps.map(({ at, feel }) => ({ ...at, feel, gap: null })),
    })),
    few(number(80, 120)).map((fed): Measured => ({ kind: 'feed', asked: 100, fed, steps: null })),
    few(number(0.1, 1)).map((grams): Measured => ({ kind: 'purge', fed: 100, grams, resolution: 0.01 })),
    fc
      .tuple(number(1, 2000), number(1, 2000))
      .map(([before, after]): Measured => ({ kind: 'drying', before, after, spool: null, resolution: 1 })),
    fc
      .tuple(number(1, 2000), number(0, 900))
      .map(([gross, spool]): Measured => ({ kind: 'roll', gross, spool })),
    few(fc.record({ a: number(1.5, 1.9), b: fc.option(number(1.5, 1.9)) })).map((places): Measured => ({
      kind: 'diameter',
      places,
      resolution: 0.01,
    })),
    few(number(0.1, 1.2)).map((diameters): Measured => ({ kind: 'thread', diameters, resolution: 0.01 })),
    few(number(20, 260), 40).map((temperatures): Measured => ({
      kind: 'heater',
      of: 'nozzle',
      temperatures,
      interval: 1,
    })),
    few(number(0, 80), 10).map((heights): Measured => ({ kind: 'bands', heights, spacing: null })),
    few(
      fc.record({ speed: number(10, 200), spacing: number(0.3, 8), height: fc.option(number(0, 0.4)) }),
      5,
    ).map((readings): Measured => ({ kind: 'ripples', readings, allowed: 0.03 })),
  )
  const codes = new Set<string>()
  fc.assert(
    fc.property(any, fc.constantFrom(...Object.values(DEMO_MACHINES)), (measured, machine) => {
      const filament = demoFilaments('2026-01-01').fern
      const context = measurementContext(
        { machine, filament, recipe: deriveRecipe({ machine, filament }) },
        null,
      )
      const { outcome } = evaluate(measured, context)
      for (const r of outcome.reasons) {
        codes.add(r.code)
        if (!sound(say(r))) throw new Error(`${r.code}: ${say(r)}`)
      }
      // nothing is corrected on what is no number
      if ('corrections' in outcome)
        for (const c of outcome.corrections)
          expect([c.key, Number.isFinite(c.value + c.plusMinus)]).toEqual([c.key, true])
    }),
    tries(400),
  )
  expect(codes.size).toBeGreaterThan(25)
})

test('a code from a newer writer says nothing rather than nonsense; old sentences are said as they were', () => {
  expect(say({ code: 'from-the-future', values: {} })).toBe('')
  expect(say({ code: 'constructor', values: {} })).toBe('')
  expect(say(upgradeReason('Tower, in spring.'))).toBe('Tower, in spring.')
  expect(upgradeReason({ code: 'said', values: { text: 'x' } })).toEqual(said('x'))
  for (const odd of [null, undefined, 7, [], {}]) expect(upgradeReason(odd)).toEqual(said(''))
  expect(sayAll([said('One.'), said(''), said('Two.')])).toBe('One. Two.')
})

test('every id has a name of its own to be called by', () => {
  for (const names of [
    SUSPECT_IDS.map(suspectName),
    [...CHECK_IDS, ...TRIAL_IDS].map(lookName),
    PROCEDURE_IDS.map(procedureName),
  ]) {
    expect(names.filter((n) => n.length < 3)).toEqual([])
    expect(new Set(names).size).toBe(names.length)
  }
  expect(signNames(['strings-thin', 'base-flare'])).toMatch(/^[a-z].*, [a-z]/)
})

describe('figures', () => {
  test.each([
    [0.1 + 0.2, 2, '0.3'],
    [-0.004, 2, '0'],
    [-1.5, 1, '\u22121.5'],
    [1234567, 0, '1234567'],
    [NaN, 2, '–'],
    [Infinity, 2, '–'],
  ])('%d with %d decimals', (v, digits, text) => expect(figure(v, digits)).toBe(text))
  test('units keep a thin space, changes their sign, times their size', () => {
    expect(quantity(4.5, 'mm')).toBe('4.5\u2009mm')
    expect(quantity(3, '')).toBe('3')
    expect(change(5, '°C')).toBe('+5\u2009°C')
    expect(change(-0.2, 'mm')).toBe('\u22120.2\u2009mm')
    expect([8, 250, 3900].map(duration)).toEqual(['8\u2009s', '4\u2009min 10\u2009s', '1\u2009h 05\u2009min'])
    expect([12, 4200, 3_200_000].map(bytes)).toEqual(['12\u2009bytes', '4.2\u2009kB', '3.2\u2009MB'])
  })
  test('what is written can be read again, to the decimals shown', () => {
    fc.assert(
      fc.property(fc.double({ min: -1e6, max: 1e6, noNaN: true }), fc.integer({ min: 0, max: 4 }), (v, d) => {
        const back = Number(figure(v, d).replace('\u2212', '-'))
        expect(Math.abs(back - v)).toBeLessThanOrEqual(0.5 * 10 ** -d + 1e-9)
      }),
    )
  })
})

test('weights in words grow with their size and keep their side', () => {
  expect([0.5, 2, 6, 10, 20].map(weightWords)).toEqual([
    'hardly for',
    'a little for',
    'clearly for',
    'strongly for',
    'very strongly for',
  ])
  expect(weightWords(-6)).toBe('clearly against')
})

test('steps and changes are called by what they do', () => {
  expect(changeText({ kind: 'setting', key: 'retractLength', from: 2, to: 5 })).toMatch(
    /^Retraction length 2\u2009mm → 5\u2009mm$/,
  )
  expect(changeText({ kind: 'handling', procedure: 'dry-filament' })).toBe(procedureName('dry-filament'))
  const step = { minutes: 1, machineMinutes: 0, grams: 0, expected: 1, saves: 0, picture: [], yes: 0.5 }
  expect(stepName({ ...step, id: 'a', kind: 'check', check: 'cold-pull', about: [] })).toBe(
    lookName('cold-pull'),
  )
})

describe('settings', () => {
  test('are found by their label, by what they are and by the trade’s other words, in any order', () => {
    const found = (words: string) => SETTING_KEYS.filter((k) => settingMatches(k, words))
    expect(found('part cooling')).toContain('fan')
    expect(found('RETRACTION length')).toContain('retractLength')
    expect(found('length retraction')).toContain('retractLength')
    expect(found('zebra')).toEqual([])
    expect(found('  ')).toHaveLength(SETTING_KEYS.length)
    // every other word leads to its setting
    for (const k of SETTING_KEYS)
      for (const aka of settingOf(k).aka ?? [])
        expect([k, aka, settingMatches(k, aka)]).toEqual([k, aka, true])
  })
  test('values are written with their unit, choices by their label', () => {
    expect(valueText('nozzle', 210)).toBe('210\u2009°C')
    expect(valueText('retract', false)).toBe('off')
    expect(valueText('seamPlace', 'stacked')).toBe(bareText('seamPlace', 'stacked'))
    expect(bareText('flow', 97.5)).toBe('97.5')
  })
})

test('docs/words.md lists every setting, its other words and every piece', () => {
  const text = readFileSync(join(__dirname, '../../docs/words.md'), 'utf8').replaceAll(/\s+/g, ' ')
  const missing = [
    ...SETTING_KEYS.flatMap((key) => {
      const { label, aka = [] } = settingOf(key)
      return [`| ${label} `, ...aka]
    }),
    ...PIECE_IDS.map((id) => `| ${PIECES[id].name} `),
  ].filter((words) => !text.includes(words))
  expect(missing).toEqual([])
})
