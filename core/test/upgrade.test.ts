import fc from 'fast-check'
import { upgradeMark, upgradeTaught } from '../src/casework'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import { upgradeMachine } from '../src/machine'
import { upgradeFilament } from '../src/material'
import { fillMissing, said } from '../src/quantity'
import {
  SETTING_KEYS,
  VARIANTS,
  deriveGraded,
  deriveRecipe,
  editFaults,
  editRecipe,
  faultOf,
  gradedKeys,
  keysOf,
  machineLimit,
  pinsOf,
  recipeDifferences,
  sameRecipe,
  settingOf,
  upgradeRecipe,
  valuesOf,
  type Changes,
  type SettingKey,
} from '../src/recipe'
import { upgradeReading } from '../src/toolpath'
import { NO_READING, upgradeReadings } from '../src/trials'
import { hand } from './lib/diagnose'
import { tries } from './lib/property'

const machine = DEMO_MACHINES.shed
const filament = demoFilaments('2026-01-01').terracotta
const pair = { machine, filament }
const recipe = deriveGraded({
  ...pair,
  pins: hand({ nozzle: 205 }),
  variantPins: { fine: hand({ topLayers: 7 }) },
})
const stored = JSON.parse(JSON.stringify(recipe)) as typeof recipe

describe('kept recipes', () => {
  test('one in today’s shape comes out as it went in', () => {
    expect(upgradeRecipe(stored, pair)).toEqual(recipe)
  })
  test('a missing setting is derived from what is there, and marked so; nothing else moves', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.constantFrom(...SETTING_KEYS), { minLength: 1, maxLength: 20 }),
        (gone) => {
          const values = Object.fromEntries(
            Object.entries(stored.values).filter(([k]) => !gone.includes(k as SettingKey)),
          )
          const out = upgradeRecipe({ values, variants: stored.variants }, pair)
          for (const k of SETTING_KEYS)
            if (gone.includes(k))
              expect(out.values[k]).toMatchObject({ filledIn: true, value: expect.anything() })
            else expect(out.values[k]).toEqual(recipe.values[k])
        },
      ),
      tries(40),
    )
  })
  test('what is unknown by now, or fits no more, is left out and derived', () => {
    const values = {
      ...stored.values,
      wobble: stored.values.nozzle,
      fan: { ...stored.values.fan, value: 'breezy' },
    }
    const out = upgradeRecipe({ values }, pair).values
    expect(out).not.toHaveProperty('wobble')
    expect(out.fan.filledIn).toBe(true)
    expect(faultOf('fan', out.fan.value)).toBeNull()
  })
  test('sentences from before there were codes are kept as they were said', () => {
    const { reason: _, stack, ...rest } = stored.values.nozzle
    const old = {
      ...rest,
      words: 'Tower, in spring.',
      stack: stack.map(({ reason: __, ...o }) => ({ ...o, words: 'Card.' })),
    }
    const out = upgradeRecipe({ values: { ...stored.values, nozzle: old } }, pair).values.nozzle
    expect(out.reason).toEqual(said('Tower, in spring.'))
    expect(out.stack.map((o) => o.reason)).toEqual(stack.map(() => said('Card.')))
    expect(out).not.toHaveProperty('words')
  })
  test('a recipe from before there were variants has empty ones', () => {
    const out = upgradeRecipe({ values: stored.values, variants: null }, pair)
    for (const v of VARIANTS) expect(out.variants[v]).toEqual({ pins: {}, values: {} })
    expect(valuesOf(out, 'fine').nozzle.value).toBe(205)
  })
})

describe('other kept things', () => {
  test('machines and rolls older than a field get it, and keep what they say', () => {
    const { frame: _, chamber: __, ...old } = machine
    expect(upgradeMachine(old)).toMatchObject({ name: machine.name, frame: 'open', chamber: null })
    expect(upgradeMachine(machine)).toEqual(machine)
    expect(upgradeMachine(DEMO_MACHINES.greenhouse)).toEqual(DEMO_MACHINES.greenhouse)
    const { dryings: ___, ...bare } = filament
    expect(upgradeFilament(bare).dryings).toEqual([])
    expect(upgradeFilament(filament)).toEqual(filament)
  })
  test('any missing field of a machine is filled in, at any depth', () => {
    for (const key of Object.keys(machine)) {
      const { [key as keyof typeof machine]: _, ...rest } = machine
      expect(Object.keys(upgradeMachine(rest)).sort()).toEqual(expect.arrayContaining(Object.keys(rest)))
      expect(upgradeMachine(rest)).toHaveProperty(key === 'commands' ? 'name' : key)
    }
    const { zSpeed: _, ...limits } = machine.limits
    expect(upgradeMachine({ ...machine, limits }).limits.zSpeed).toBeGreaterThan(0)
  })
  test('marks, what was taught, and readings of a cell', () => {
    const mark = { id: 'm', fileId: 'f', quantity: 'fan', strength: 0.5, p: 0.01 }
    expect(upgradeMark({ ...mark, marks: [{ from: 1, to: 2 }], sentence: 'The fan drops.' })).toEqual({
      ...mark,
      heightRanges: [{ from: 1, to: 2 }],
      reason: said('The fan drops.'),
    })
    expect(upgradeTaught(null)).toBeNull()
    expect(upgradeTaught('It was the bed.')).toEqual([said('It was the bed.')])
    expect(upgradeTaught(JSON.stringify([said('a'), said('b')]))).toEqual([said('a'), said('b')])
    expect(upgradeReadings({ a: { grades: { strings: 2 } }, b: {} })).toEqual({
      a: { ...NO_READING, grades: { strings: 2 } },
      b: NO_READING,
    })
  })
  test('a path reading from before there were codes', () => {
    const old = {
      faults: [{ line: 3, text: 'No number after X.' }],
      assumed: ['Times rest on the machine’s limits.'],
      seam: { objects: [{ object: 0, count: 9, together: 0.8, direction: 90, p: 0 }] },
    }
    const out = upgradeReading(old as never)
    expect(out.faults).toEqual([{ line: 3, reason: said('No number after X.') }])
    expect(out.assumed).toEqual([said('Times rest on the machine’s limits.')])
    expect(out.seam.objects[0]).toEqual({ object: 0, count: 9, resultantLength: 0.8, direction: 90, p: 0 })
    expect(upgradeReading(out)).toEqual(out)
  })
  test('filling in never changes what is there', () => {
    const value = fc.jsonValue({ maxDepth: 3 })
    fc.assert(
      fc.property(
        fc.dictionary(fc.string({ maxLength: 4 }), value),
        fc.dictionary(fc.string({ maxLength: 4 }), value),
        (template, kept) => {
          const out = fillMissing(template, kept) as Record<string, unknown>
          for (const key of Object.keys(kept)) {
            const plain = (v: unknown) => typeof v === 'object' && v !== null && !Array.isArray(v)
            if (!plain(kept[key]) || !plain(template[key])) expect(out[key]).toEqual(kept[key])
          }
          expect(Object.keys(out).sort()).toEqual(
            [...new Set([...Object.keys(template), ...Object.keys(kept)])].sort(),
          )
          expect(fillMissing(template, out)).toEqual(out)
        },
      ),
      tries(200),
    )
  })
})

describe('edits', () => {
  const change = fc.constantFrom(...SETTING_KEYS).chain((key): fc.Arbitrary<Changes> => {
    const s = settingOf(key)
    if (s.kind === 'switch') return fc.boolean().map((v) => ({ [key]: v }) as Changes)
    if (s.kind === 'choice') return fc.constantFrom(...s.choices).map((c) => ({ [key]: c.value }) as Changes)
    const most = Math.min(s.max, machineLimit(key, machine) ?? s.max)
    return fc.integer({ min: 0, max: 100 }).map((t) => {
      const v = s.min + ((most - s.min) * t) / 100
      return { [key]: Number(Math.min(most, v).toFixed(4)) } as Changes
    })
  })
  const edit = (set: Changes, variants = {}) => ({
    set,
    variants,
    source: 'hand' as const,
    reason: said('Trying.'),
  })

  test('what is set stands, as set by hand, and taking it back gives the recipe as it was', () => {
    fc.assert(
      fc.property(change, (set) => {
        expect(editFaults(recipe, machine, edit(set))).toEqual([])
        const then = editRecipe(recipe, pair, edit(set))
        const [key] = keysOf(set)
        if (then.values[key].clippedFrom === undefined) expect(then.values[key].value).toBe(set[key])
        expect(then.values[key].source).toBe('hand')
        const back = editRecipe(
          then,
          pair,
          edit({ [key]: recipe.values[key].source === 'hand' ? recipe.values[key].value : null } as Changes),
        )
        expect(recipeDifferences(recipe, back)).toEqual([])
      }),
      tries(80),
    )
  })
  test('the order of two edits does not matter where they touch different settings', () => {
    fc.assert(
      fc.property(change, change, (a, b) => {
        fc.pre(keysOf(a)[0] !== keysOf(b)[0])
        const ab = editRecipe(editRecipe(recipe, pair, edit(a)), pair, edit(b))
        const ba = editRecipe(editRecipe(recipe, pair, edit(b)), pair, edit(a))
        expect(sameRecipe(ab, ba)).toBe(true)
      }),
      tries(60),
    )
  })
  describe('of a recipe whose machine or roll has become another since', () => {
    const { greenhouse } = DEMO_MACHINES
    const { fern, dew } = demoFilaments('2026-01-01')
    /** What can become of a bench: other speeds, another nozzle's heat, another drive, a label filled in, another plastic's needs. */
    const bench = fc.record({
      machine: fc
        .record({
          limits: fc.constantFrom(machine.limits, greenhouse.limits),
          drive: fc.constantFrom(machine.drive, greenhouse.drive),
          frame: fc.constantFrom('open' as const, 'enclosed' as const),
          nozzle: fc.constantFrom(machine.nozzle, { ...machine.nozzle, diameter: 0.6 }),
        })
        .map((some) => ({ ...machine, ...some })),
      filament: fc
        .record({
          label: fc.constantFrom(filament.label, fern.label, dew.label),
          diameter: fc.constantFrom(filament.diameter, 1.71),
          finish: fc.constantFrom(filament.finish, 'silk' as const),
        })
        .map((some) => ({ ...filament, ...some })),
    })
    const within = (b: typeof pair, key: SettingKey) => {
      const limit = machineLimit(key, b.machine)
      return limit === undefined || Number(recipe.values[key].value) <= limit
    }

    test('law: a value pinned as it is moves nothing, in any grade', () => {
      fc.assert(
        fc.property(bench, fc.constantFrom(...SETTING_KEYS), (now, key) => {
          // what the person pins is what stands; what follows from it stands with it
          const pinned = deriveGraded({
            ...pair,
            pins: { ...hand({ nozzle: 205 }), ...hand({ [key]: recipe.values[key].value }) },
            variantPins: { fine: hand({ topLayers: 7 }) },
          })
          const then = editRecipe(pinned, now, edit({ [key]: pinned.values[key].value } as Changes))
          for (const d of recipeDifferences(pinned, then)) expect([d, within(now, d.key)]).toEqual([d, false])
        }),
        tries(60),
      )
    })
    test('law: an edit moves what it names and what follows from it, never what the bench has changed by itself', () => {
      fc.assert(
        fc.property(bench, change, (now, set) => {
          const [named] = keysOf(set)
          const then = editRecipe(recipe, now, edit(set))
          const without = deriveGraded({ ...now, pins: pinsOf(recipe.values) })
          const withIt = deriveGraded({ ...now, pins: pinsOf(then.values) })
          for (const { key, grade } of recipeDifferences(recipe, then)) {
            if (grade || key === named || !within(now, key)) continue
            expect([key, withIt.values[key].value]).not.toEqual([key, without.values[key].value])
          }
        }),
        tries(60),
      )
    })
    test('what the bench has changed comes with an edit that names nothing, and only then', () => {
      const now = {
        machine: { ...machine, limits: greenhouse.limits },
        filament: { ...filament, label: dew.label },
      }
      const anew = editRecipe(recipe, now, edit({}))
      expect(recipeDifferences(recipe, anew).length).toBeGreaterThan(0)
      const one = editRecipe(recipe, now, edit({ retractLength: 3.5 }))
      expect(recipeDifferences(recipe, one)).toEqual([
        {
          key: 'retractLength',
          from: recipe.values.retractLength.value,
          to: 3.5,
          was: recipe.values.retractLength.source,
        },
      ])
      // and the bench's change can still be had after it
      expect(recipeDifferences(one, editRecipe(one, now, edit({}))).map((d) => d.key)).toEqual(
        recipeDifferences(recipe, anew).map((d) => d.key),
      )
    })
  })
  test('a variant moves nothing of the base, and only what follows the layer height', () => {
    const fine = editRecipe(recipe, pair, edit({}, { fine: { topLayers: 9 } }))
    expect(fine.values).toEqual(recipe.values)
    expect(valuesOf(fine, 'fine').topLayers.value).toBe(9)
    expect(editFaults(recipe, machine, edit({}, { fine: { nozzle: 210 } }))).toEqual([
      { where: 'fine', key: 'nozzle', fault: 'not-graded' },
    ])
    expect(gradedKeys(recipe.values)).not.toContain('nozzle')
  })
  test('beyond the machine is a fault with its limit', () => {
    expect(editFaults(recipe, machine, edit({ nozzle: 300 }))).toEqual([
      { where: 'set', key: 'nozzle', fault: 'beyond-machine', limit: 260 },
    ])
  })
  test('measured values carry their ±, and pins survive deriving again', () => {
    const measured = editRecipe(recipe, pair, {
      ...edit({ flow: 97 }),
      measured: { flow: 0.8 },
      at: '2026-01-02',
    })
    expect(measured.values.flow).toMatchObject({ source: 'measured', plusMinus: 0.8, at: '2026-01-02' })
    expect(deriveRecipe({ ...pair, pins: pinsOf(measured.values) })).toEqual(measured.values)
  })
})
