import fc from 'fast-check'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { isDeepStrictEqual } from 'node:util'
import { readRecipeFile, recipeFileJsonSchema, recipeFileSchema, RecipeFileError } from '@verimend/contract'
import { DEMO_MACHINES, demoFilaments } from '@verimend/core/demo'
import { FAMILIES } from '@verimend/core/material'
import { said } from '@verimend/core/quantity'
import {
  SETTING_KEYS,
  deriveGraded,
  recipeFile,
  recipeIn,
  upgradeRecipe,
  type RecipeFile,
} from '@verimend/core/recipe'
import { say } from '@verimend/core/words'
import { tries } from '../../core/test/lib/property'

const rolls = Object.values(demoFilaments('2026-01-01'))
const fileOf = (family = rolls[0].family, flow?: number, topLayers?: number): RecipeFile => {
  const machine = DEMO_MACHINES.greenhouse
  const filament = { ...rolls[0], family }
  const recipe = deriveGraded({
    machine,
    filament,
    pins: {
      ...(flow !== undefined && {
        flow: {
          value: flow,
          source: 'measured',
          reason: said('Box — “thin”, 4 walls.'),
          plusMinus: 0.8,
          at: '2026-01-01',
        },
      }),
    },
    variantPins: {
      fine:
        topLayers === undefined ? {} : { topLayers: { value: topLayers, source: 'hand', reason: said('') } },
    },
  })
  return recipeFile(
    { machine, filament, recipe, number: 3, reason: said('Test.'), written: '2026-01-01T00:00:00Z' },
    say,
  )
}
const text = JSON.stringify(fileOf())
const refusal = (t: string) => {
  try {
    readRecipeFile(t)
  } catch (e) {
    if (e instanceof RecipeFileError) return e.message
    throw e
  }
  return 'read'
}
const changed = (change: (f: Record<string, never> & RecipeFile) => void) => {
  const f = JSON.parse(text)
  change(f)
  return JSON.stringify(f)
}

test('what is written is read back exactly: values, reasons, pins, variants', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(...FAMILIES),
      fc.option(fc.double({ min: 80, max: 120, noNaN: true }), { nil: undefined }),
      fc.option(fc.integer({ min: 0, max: 30 }), { nil: undefined }),
      (family, flow, top) => {
        const file = fileOf(family, flow, top)
        const read = readRecipeFile(JSON.stringify(file))
        expect(read.file).toEqual(JSON.parse(JSON.stringify(file)))
        expect(read.ignored).toEqual([])
        expect(read.missing).toEqual([])
        expect(isDeepStrictEqual(recipeIn(read.file), recipeIn(JSON.parse(JSON.stringify(file))))).toBe(true)
      },
    ),
    tries(25),
  )
})

test.each([
  ['', /empty/],
  ['{', /no readable JSON/],
  ['[]', /not written as a Verimend recipe/],
  ['{"format":"other","version":1,"reader":1}', /not written as a Verimend recipe/],
  [changed((f) => (f.reader = 9)), /needs a newer Verimend/],
  ['{"a":' + '['.repeat(60) + ']'.repeat(60) + '}', /nested deeper/],
  [text.replace('"settings":{', '"settings":{"__proto__":{"value":1},'), /“__proto__”/],
  [text.replace('"machine":{', '"machine":{"constructor":{},'), /“constructor”/],
  [changed((f) => (f.settings.nozzle.unit = '°F')), /Nozzle is given in “°F”; Verimend works in “°C”/],
  [changed((f) => (f.settings.nozzle.value = 4000)), /lies between 150 and 350/],
  [changed((f) => (f.settings.nozzle.value = 'hot')), /needs a number/],
  [
    changed((f) => (f.variants.fine.pins = { topLayers: { value: 900, source: 'hand', words: '' } })),
    /Top layers/,
  ],
  [changed((f) => (f.filament.family = 'cheese' as never)), /material family/],
  [' '.repeat(1_000_001) + '{', /larger than a recipe/],
])('a bad file is refused with one clear sentence', (t, sentence) => {
  expect(refusal(t)).toMatch(sentence)
  expect(({} as Record<string, unknown>).value).toBeUndefined()
})

test('a file of a later writer with members and settings unknown here is read, and they are named', () => {
  const later = changed((f) => {
    const g = f as unknown as Record<string, unknown>
    g.version = 3
    g.mood = 'good'
    ;(f.settings as Record<string, unknown>).wobble = f.settings.nozzle
    delete (f.settings as Record<string, unknown>).seamDirection
  })
  const read = readRecipeFile(later)
  expect(read.ignored).toEqual(['wobble'])
  expect(read.missing).toEqual(['seamDirection'])
})

test('the published schema is made from the reader’s own and asks for the same members', () => {
  const schema = recipeFileJsonSchema() as { required: string[]; properties: object }
  expect(schema.required.sort()).toEqual(Object.keys(recipeFileSchema.shape).sort())
  expect(JSON.stringify(schema).length).toBeGreaterThan(2000)
})

test('mutated files are read or refused, never worse', () => {
  fc.assert(
    fc.property(fc.nat(text.length - 1), fc.string({ maxLength: 6 }), fc.nat(12), (at, put, cut) => {
      const said = refusal(text.slice(0, at) + put + text.slice(at + cut))
      expect(said.length).toBeGreaterThan(3)
    }),
    tries(300),
  )
})

test('the schema in docs/ is the one that is served', () => {
  const kept = JSON.parse(readFileSync(join(__dirname, '../../docs/recipe-2.schema.json'), 'utf8')) as object
  expect(kept).toEqual(JSON.parse(JSON.stringify(recipeFileJsonSchema())))
})

test.each(['variants', 'mend'])('a file of format 1 opens for good: %s', (name) => {
  const kept = readFileSync(join(__dirname, `fixtures/recipe-file-1-${name}.json`), 'utf8')
  const written = JSON.parse(kept) as { settings: Record<string, { value: unknown; words: string }> }
  const { file, ignored } = readRecipeFile(kept)
  expect(file.version).toBe(1)
  expect(ignored).toEqual([])
  const { values } = upgradeRecipe(recipeIn(file), file)
  for (const key of SETTING_KEYS) {
    if (!written.settings[key]) continue
    expect([key, values[key].value]).toEqual([key, written.settings[key].value])
    // its sentences stay as they were written
    expect(say(values[key].reason)).toBe(written.settings[key].words)
  }
})

test('whatever stands in a field of a file is refused with one sentence, or the recipe can be used', () => {
  const file = JSON.parse(text) as RecipeFile
  const hostile = [null, undefined, -1e12, 'seven', [[]], { code: 'said' }, true, {}]
  const members = [['value'], ['reason'], ['stack'], []]
  const wholes = [['variants'], ['variants', 'fine'], ['machine', 'limits'], ['filament', 'label']]
  const bad: string[] = []
  /** Puts a value in a place of the file, and reads it. */
  const tried = (path: string[], to: unknown) => {
    const copy = structuredClone(file) as unknown as Record<string, never>
    const holder = path.slice(0, -1).reduce((at, step) => at[step], copy)
    ;(holder as Record<string, unknown>)[path[path.length - 1]] = to
    const written = JSON.stringify(copy)
    const answer = refusal(written)
    if (answer !== 'read') {
      if (!/^[A-Z“].{3,260}[.]$/.test(answer)) bad.push(`${path.join('.')}: ${answer}`)
      return
    }
    const { values } = upgradeRecipe(recipeIn(readRecipeFile(written).file), file)
    for (const key of SETTING_KEYS)
      if (/undefined|NaN/.test(say(values[key].reason))) bad.push(`${path.join('.')}: ${key}`)
  }
  // each setting meets some of them, and all of them meet some setting
  SETTING_KEYS.forEach((key, i) =>
    members.forEach((member, j) =>
      tried(['settings', key, ...member], hostile[(i + 3 * j) % hostile.length]),
    ),
  )
  for (const path of wholes) for (const to of hostile) tried(path, to)
  expect(bad).toEqual([])
})
