import fc from 'fast-check'
import {
  contextOf,
  directionOfMend,
  gatherFacts,
  isSettingProposal,
  mendOf,
  signsAgainst,
  type Proposal,
  type SignStates,
  type Weight,
} from '../src/diagnosis'
import { toTakeBack, type SignResults } from '../src/casework'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import { readGcode } from '../src/gcode'
import { SIGN_IDS, SUSPECT_IDS, suspectOf, type SignId, type SuspectId } from '../src/knowledge'
import { cardOf } from '../src/material'
import { writePart } from '../src/planner'
import {
  asPrinted,
  deriveRecipe,
  differences,
  faultOf,
  keysOf,
  layOver,
  lintRecipe,
  machineLimit,
  printSettingsOf,
  settingApplies,
  spoilsPrint,
  straysIn,
  type Changes,
  type RecipeValues,
  type ValuesOnly,
} from '../src/recipe'
import { said } from '../src/quantity'
import { readPath, type PathReading } from '../src/toolpath'
import { say } from '../src/words'
import { diagnose, hand, type Told } from './lib/diagnose'
import { anyPair } from './lib/pairs'
import { tries } from './lib/property'

const today = '2026-01-01'

/** How often each law is tried; more at the desk by VERIMEND_TRIES. */
const rolls = Object.values(demoFilaments(today))
const TRIES = Number(process.env.VERIMEND_TRIES ?? 30)

test('a freshly derived recipe accuses itself of nothing', () => {
  const told = new Map<string, number>()
  fc.assert(
    fc.property(anyPair, ({ machine, filament }) => {
      const recipe = deriveRecipe({ machine, filament })
      const facts = gatherFacts({ machine, filament, recipe, today })
      for (const id of SUSPECT_IDS) {
        const own = contextOf(id, facts).filter((w) => w.from === 'recipe')
        const sum = own.reduce((s, w) => s + w.decibans, 0)
        if (sum > 2) {
          const k = `${id}: ${own.map((w) => `${w.decibans} ${say(w.reason)}`).join(' | ')} [${filament.family}]`
          told.set(k, (told.get(k) ?? 0) + 1)
        }
      }
    }),
    tries(TRIES),
  )
  expect([...told].sort((a, b) => b[1] - a[1])).toEqual([])
})

// ---- laws over random pairs, recipes, files, signs and confirmed suspects

const rigid = { nozzle: fc.integer({ min: 180, max: 290 }) }
/** Settings as people leave them: some far off, some left over. */
const anyChanges = fc.record(
  {
    ...rigid,
    bedFirst: fc.integer({ min: 20, max: 120 }),
    bed: fc.integer({ min: 20, max: 120 }),
    retract: fc.boolean(),
    retractLength: fc.integer({ min: 1, max: 90 }).map((v) => v / 10),
    fan: fc.integer({ min: 0, max: 20 }).map((v) => v * 5),
    fanOffLayers: fc.integer({ min: 0, max: 6 }),
    minLayerTime: fc.integer({ min: 0, max: 40 }),
    flow: fc.integer({ min: 85, max: 115 }),
    flowFirst: fc.constantFrom(90, 100, 120, 135),
    firstSpeed: fc.integer({ min: 5, max: 90 }),
    outerSpeed: fc.integer({ min: 8, max: 180 }),
    innerSpeed: fc.integer({ min: 8, max: 250 }),
    sparseSpeed: fc.integer({ min: 8, max: 300 }),
    brimLines: fc.constantFrom(0, 3, 12, 20),
    wallCount: fc.constantFrom(1, 2, 4),
    topLayers: fc.constantFrom(0, 2, 5),
    zOffset: fc.integer({ min: -30, max: 30 }).map((v) => v / 100),
    contourOffset: fc.integer({ min: -20, max: 10 }).map((v) => v / 100),
    wipe: fc.constantFrom(0, 0.4, 1),
    pressureCompensation: fc.constantFrom(0, 0.05, 0.9),
    seamPlace: fc.constantFrom('stacked' as const, 'scattered' as const),
    travelSpeed: fc.integer({ min: 30, max: 300 }),
    outerAcceleration: fc.constantFrom(200, 800, 3000, 9000),
  },
  { requiredKeys: [] },
)
const anyCase = fc.record({
  pair: anyPair,
  set: anyChanges,
  /** The file's own changes; null: no file. */
  file: fc.option(anyChanges, { freq: 2 }),
  seen: fc.uniqueArray(fc.constantFrom(...SIGN_IDS), { minLength: 1, maxLength: 4 }),
  absent: fc.uniqueArray(fc.constantFrom(...SIGN_IDS), { maxLength: 3 }),
  confirmed: fc.option(fc.constantFrom(...SUSPECT_IDS), { freq: 3 }),
})
type AnyCase = typeof anyCase extends fc.Arbitrary<infer T> ? T : never

function heard({ pair, set, file, seen, absent, confirmed }: AnyCase) {
  const { machine, filament } = pair
  const recipe = deriveRecipe({ machine, filament, pins: hand(set) })
  const signs: SignStates = {}
  for (const s of absent) signs[s] = 'absent'
  for (const s of seen) signs[s] = 'present'
  let reading: PathReading | null = null
  if (file) {
    const printed = deriveRecipe({ machine, filament, pins: hand({ ...set, ...file }) })
    const text = writePart(machine, printSettingsOf(printed), {
      shape: 'box',
      width: 20,
      height: 4,
      copies: 2,
    })
    reading = readPath(readGcode(new TextEncoder().encode(text)), {
      filamentDiameter: printed.diameter.value,
      density: printed.density.value,
      nozzleDiameter: machine.nozzle.diameter,
      limits: machine.limits,
    })
  }
  const checks = confirmed ? [{ by: suspectOf(confirmed).by[0], suspect: confirmed, found: true }] : []
  const told: Told = { machine, filament, recipe, today, signs, reading, checks }
  return { told, d: diagnose(told), printed: asPrinted(recipe, reading) }
}
/** Whether a fix is to print what the recipe has. */
const printsRecipe = (p: Proposal) => p.why.code === 'print-recipe' || p.leads === true
const lawful = (law: (c: ReturnType<typeof heard>, given: AnyCase) => void, broken: AnyCase[] = []) =>
  fc.assert(
    fc.property(anyCase, (given) => law(heard(given), given)),
    tries(
      TRIES,
      broken.map((c): [AnyCase] => [c]),
    ),
  )
/** Broke a law once: a change that goes for three suspects stood before the recipe's own value. */
const COLD_BED: AnyCase = {
  pair: {
    machine: {
      ...DEMO_MACHINES.shed,
      nozzle: { diameter: 0.25, material: 'brass', changedOn: null },
      drive: { kind: 'direct', tubeLength: 0 },
      frame: 'enclosed',
      fan: { present: true, strength: 1.5 },
      limits: { ...DEMO_MACHINES.shed.limits, nozzle: 245, bed: 120, speed: 80, acceleration: 500 },
    },
    filament: { ...demoFilaments('2026-01-01').fern, family: 'hips', finish: 'plain', shore: null },
  },
  set: { fan: 5 },
  file: { bed: 20 },
  seen: ['layer-splits'],
  absent: ['bands-gloss'],
  confirmed: null,
}
const goesFor = (p: Proposal, s: SuspectId) => p.suspect === s || p.also.includes(s)

describe('laws of advice', () => {
  test('a mend starts from the value as printed, goes its declared way and changes something', () => {
    lawful(({ d, printed }) => {
      for (const p of d.proposals) {
        if (p.kind !== 'setting') continue
        const { mend } = mendOf(p.id)!
        expect([p.id, p.from]).toEqual([p.id, printed.values[p.key].value])
        expect(p.to).not.toBe(p.from)
        expect(faultOf(p.key, p.to)).toBeNull()
        const way = mend.kind === 'setting' ? directionOfMend(mend) : 0
        if (way) expect([p.id, Math.sign(Number(p.to) - Number(p.from))]).toEqual([p.id, way])
      }
    })
  })

  test('no mend breaks a rule of severity fault, a melt cap or a limit, or touches what is not in force', () => {
    lawful(({ told, d, printed }, { set }) => {
      const { machine, filament } = told
      const faults = (values: ValuesOnly) =>
        lintRecipe({ machine, filament, values: values as RecipeValues, today })
          .filter((w) => w.severity === 'fault')
          .map((w) => w.rule)
      const before = faults(printed.values)
      for (const p of d.proposals) {
        if (p.kind !== 'setting') continue
        const values = {
          ...printed.values,
          [p.key]: { ...printed.values[p.key], value: p.to, source: 'mend' },
        }
        // speeds follow the cap, those that were not set by hand
        const then =
          p.key === 'meltCap'
            ? deriveRecipe({ machine, filament, pins: hand({ ...set, meltCap: Number(p.to) }) })
            : values
        expect([p.id, faults(then as ValuesOnly).filter((r) => !before.includes(r))]).toEqual([p.id, []])
        expect(settingApplies(p.key, printed.values, machine)).toBe(true)
        const limit = machineLimit(p.key, machine)
        if (limit !== undefined) expect(Number(p.to)).toBeLessThanOrEqual(limit)
        if (cardOf(filament.family).flexible) {
          expect([p.id, p.key === 'brimLines' || p.key === 'raft']).toEqual([p.id, false])
          if (machine.drive.kind === 'tube')
            expect([p.id, p.key === 'retract' && p.to === true]).toEqual([p.id, false])
        }
      }
      for (const b of d.blocked) expect(say(b.why).length).toBeGreaterThan(10)
    })
  })

  test('after a mend the suspect’s context weighs no more than before, and less where it spoke of the setting', () => {
    lawful(({ told, d }) => {
      for (const p of d.proposals) {
        if (p.kind !== 'setting') continue
        const { machine, filament, recipe } = told
        // as it would be printed: the recipe with what the file showed, and the change
        const printedRecipe = asPrinted(recipe, told.reading).values as RecipeValues
        const changed = {
          ...printedRecipe,
          [p.key]: { ...printedRecipe[p.key], value: p.to, source: 'mend' },
        }
        const context = (values: RecipeValues) =>
          contextOf(p.suspect, gatherFacts({ machine, filament, recipe: values, today }))
        const sum = (weights: Weight[]) => weights.reduce((s, w) => s + w.decibans, 0)
        expect([p.id, sum(context(changed as RecipeValues)) <= sum(context(printedRecipe)) + 1e-9]).toEqual([
          p.id,
          true,
        ])
      }
    })
  })

  test('there is always a next step, and every confirmed suspect has something to be done', () => {
    lawful(({ d }, { confirmed }) => {
      expect(d.plan.next).not.toBeNull()
      if (confirmed && d.balance.suspects.find((s) => s.id === confirmed)!.probability > 0.003)
        expect([confirmed, d.proposals.some((p) => goesFor(p, confirmed))]).toEqual([confirmed, true])
    })
  })

  test('what an answer would do to the picture is what it does', () => {
    lawful(({ d, told }) => {
      const { next } = d.plan
      if (next?.kind !== 'look') return
      for (const reason of next.picture) {
        const { answer, chance, suspect } = reason.values as {
          answer: string
          chance: number
          suspect: SuspectId
        }
        const after = diagnose({
          ...told,
          signs: { ...told.signs, [next.sign]: answer === 'there' ? 'present' : 'absent' },
        })
        expect(Math.round(after.balance.suspects.find((s) => s.id === suspect)!.probability * 100)).toBe(
          chance,
        )
      }
    })
  })

  test('a look that changes nothing is not asked', () => {
    lawful(({ d }) => {
      for (const s of [d.plan.next, ...d.plan.others])
        if (s && (s.kind === 'look' || (s === d.plan.next && s.kind !== 'mend'))) {
          expect(s.saves).toBeGreaterThan(0.3)
          expect(s.yes).toBeGreaterThan(0.005)
        }
    })
  })

  test('what can make a seen sign worse, or pulls the other way, says so', () => {
    lawful(({ d, told }) => {
      const moves = d.proposals.filter(isSettingProposal)
      for (const p of moves) {
        const worse = [...p.watch, ...signsAgainst(p.key, p.from, p.to)].filter(
          (s) => told.signs[s] === 'present',
        )
        if (worse.length) expect([p.id, p.cautions.some((c) => c.code === 'worsens')]).toEqual([p.id, true])
        for (const o of moves) {
          const against =
            o.key === p.key &&
            Math.sign(Number(o.to) - Number(o.from)) === -Math.sign(Number(p.to) - Number(p.from))
          if (!against || typeof p.to !== 'number') continue
          expect([p.id, o.id, [p, o].some((q) => q.cautions.some((c) => c.code === 'other-way'))]).toEqual([
            p.id,
            o.id,
            true,
          ])
          expect(Math.min(p.probability, o.probability) >= 0.1 || p.probability === o.probability).toBe(true)
        }
      }
    })
  })

  test('where the file departs from the recipe on what a suspect cares about, printing the recipe’s value comes first', () => {
    let met = 0
    lawful(
      ({ d, printed }) => {
        for (const departs of printed.departs)
          for (const { id, probability } of d.balance.suspects) {
            if (probability < 0.003 || typeof departs.recipe !== 'number') continue
            const towards = suspectOf(id).mends.some(
              (m) =>
                m.kind === 'setting' &&
                m.key === departs.key &&
                directionOfMend(m) === Math.sign(Number(departs.recipe) - Number(departs.file)),
            )
            if (!towards) continue
            met++
            const own = d.proposals.filter(
              (p) => p.suspect === id || (p.also.includes(id) && printsRecipe(p)),
            )
            // one whose chance is not worth a print is offered nothing
            if (!own.length) continue
            expect([id, departs.key, own[0]?.kind === 'handling' && own.some(printsRecipe)]).toEqual([
              id,
              departs.key,
              true,
            ])
          }
      },
      [COLD_BED],
    )
    expect(met).toBeGreaterThan(0)
  })
})

test('what a check found of a likely suspect is put right first, by the mend that fits what was found', () => {
  let held = 0
  const likelyFound = fc
    .record({ suspect: fc.constantFrom(...SUSPECT_IDS), which: fc.nat(9), given: anyCase, own: fc.boolean() })
    .filter(({ suspect }) => suspectOf(suspect).by.length > 0)
  fc.assert(
    fc.property(likelyFound, ({ suspect, which, given, own }) => {
      const { by, signs } = suspectOf(suspect)
      const look = by[which % by.length]
      const brings = keysOf(signs)
      const { told } = heard({ ...given, confirmed: null })
      const seen: SignStates = own
        ? Object.fromEntries(brings.map((s) => [s, 'present']))
        : { ...told.signs, [brings[which % brings.length]]: 'present' }
      const before = diagnose({ ...told, signs: seen })
      const d = diagnose({ ...told, signs: seen, checks: [{ by: look, suspect, found: true }] })
      const chance = (x: typeof d) => x.balance.suspects.find((s) => s.id === suspect)!.probability
      if (chance(before) >= 0.6 || chance(d) < 0.6) return
      const { next } = d.plan
      const open = d.proposals.filter((p) => [p.suspect, ...p.also].includes(suspect))
      if (!open.length) return
      held++
      const of = next?.kind === 'mend' && d.proposals.find((p) => p.id === next.proposal)
      expect([suspect, look, of && [of.suspect, ...of.also].includes(suspect)]).toEqual([suspect, look, true])
      const pointed = suspectOf(suspect).mends.filter((m) => m.foundBy?.includes(look))
      const offered = pointed.filter((m) =>
        open.some((p) =>
          m.kind === 'handling'
            ? p.kind === 'handling' && p.procedure === m.procedure
            : p.kind === 'setting' && p.key === m.key,
        ),
      )
      if (offered.length)
        expect([
          suspect,
          look,
          of &&
            offered.some((m) =>
              m.kind === 'handling'
                ? of.kind === 'handling' && of.procedure === m.procedure
                : of.kind === 'setting' && of.key === m.key,
            ),
        ]).toEqual([suspect, look, true])
    }),
    tries(3 * TRIES),
  )
  // the law was put to the test
  expect(held).toBeGreaterThan(TRIES / 8)
})

test('a mend that costs every later print is not first while a likelier suspect is open to be seen to by hand', () => {
  lawful(({ d }) => {
    const first = d.proposals.at(0)
    // what a check found is put right as it was found
    if (!first?.costly || first.fits) return
    const likelier = d.proposals.filter((p) => p.kind === 'handling' && p.probability >= first.probability)
    expect(likelier.map((p) => [p.id, p.probability, first.id, first.probability])).toEqual([])
  })
})

// ---- sizes

const SIZES: SignId[] = [
  'outside-too-big',
  'outside-too-small',
  'holes-too-small',
  'moving-parts-fused',
  'joint-too-loose',
]
const OTHERS: SignId[] = [
  'error-constant',
  'error-grows-with-length',
  'one-axis-only',
  'gaps-between-walls',
  'top-rough-overfull',
  'gaps-in-solid-fill',
  'seam-blob',
]
/** Which way a setting moves outer sizes, holes and gaps when it goes up: a bead is laid along the edge it is moved with. */
const moves = (key: string): [outside: number, holes: number, gaps: number] =>
  key === 'contourOffset' || key === 'flow' || key === 'flowOuter'
    ? [1, -1, -1]
    : key === 'holeOffset'
      ? [0, 1, 0]
      : key === 'scaleX' || key === 'scaleY'
        ? [1, 1, 0]
        : [0, 0, 0]

test('no mend moves a size further off, in any combination of the signs of size', () => {
  const sets: Changes[] = [
    {},
    { contourOffset: -0.12, holeOffset: 0.3 },
    { contourOffset: 0.1, flow: 104, flowOuter: 106 },
  ]
  let offered = 0
  for (let mask = 1; mask < 1 << SIZES.length; mask++)
    for (const [n, set] of sets.entries())
      for (const other of [null, OTHERS[(mask + n) % OTHERS.length]]) {
        const { machine, filament } = {
          machine: DEMO_MACHINES.shed,
          filament: rolls[(mask + n) % rolls.length],
        }
        const seen = SIZES.filter((_, i) => mask & (1 << i))
        const signs: SignStates = Object.fromEntries(
          [...seen, ...(other ? [other] : [])].map((s) => [s, 'present']),
        )
        const d = diagnose({
          machine,
          filament,
          recipe: deriveRecipe({ machine, filament, pins: hand(set) }),
          today,
          signs,
        })
        for (const p of d.proposals) {
          if (p.kind !== 'setting' || typeof p.to !== 'number' || typeof p.from !== 'number') continue
          expect([p.key, Number.isFinite(p.to)]).toEqual([p.key, true])
          const [outside, holes, gaps] = moves(p.key).map((m) => m * Math.sign(Number(p.to) - Number(p.from)))
          offered += Number(outside !== 0 || holes !== 0)
          const off = [
            outside > 0 && seen.includes('outside-too-big'),
            outside < 0 && seen.includes('outside-too-small'),
            holes < 0 && seen.includes('holes-too-small'),
            gaps < 0 && seen.includes('moving-parts-fused'),
            gaps > 0 && seen.includes('joint-too-loose'),
          ]
          expect([seen, p.key, p.from, p.to, off.some(Boolean)]).toEqual([seen, p.key, p.from, p.to, false])
        }
        // something is left to do in each of them
        expect([seen, d.plan.next !== null]).toEqual([seen, true])
      }
  expect(offered).toBeGreaterThan(50)
})

test('outside and holes both too small: neither too much plastic nor an edge moved in', () => {
  for (const filament of rolls) {
    const machine = DEMO_MACHINES.shed
    const d = diagnose({
      machine,
      filament,
      recipe: deriveRecipe({ machine, filament }),
      today,
      signs: { 'outside-too-small': 'present', 'holes-too-small': 'present' },
    })
    const first = d.balance.suspects[0].id
    expect(['flow-too-high', 'contour-not-compensated', 'outer-wall-overfed']).not.toContain(first)
  }
})

test('under a sure leader nothing unlikely is offered, and what can make things worse only where it is likely', () => {
  lawful(({ d }) => {
    const [leader] = d.balance.suspects
    const chance = new Map(d.balance.suspects.map((s) => [s.id, s.probability]))
    const likeliest = (p: Proposal) => Math.max(...[p.suspect, ...p.also].map((s) => chance.get(s)!))
    if (leader.probability > 0.9 && d.proposals.some((p) => p.suspect === leader.id && p.works[0] > 0.5)) {
      for (const p of d.proposals) expect([p.id, likeliest(p) > 0.02]).toEqual([p.id, true])
    }
    const most = Math.max(...d.proposals.map(likeliest))
    for (const p of d.proposals)
      if (p.cautions.some((c) => c.code === 'worsens'))
        expect([p.id, likeliest(p) > 0.15 * most]).toEqual([p.id, true])
  })
  const machine = DEMO_MACHINES.shed
  const wet = { ...rolls[0], openedOn: '2025-06-01', dryings: [] }
  const seen = ['popping-or-steam', 'rough-foamy-surface', 'strings-thin'] as const
  const d = diagnose({
    machine,
    filament: wet,
    recipe: deriveRecipe({ machine, filament: wet }),
    today,
    signs: Object.fromEntries(seen.map((s) => [s, 'present'])),
  })
  expect(d.balance.suspects[0].probability).toBeGreaterThan(0.9)
  expect(d.proposals.map((p) => p.suspect)).toEqual(['filament-wet'])
})

// ---- what came back

const attempted = (p: Proposal, results: SignResults | null, signsBefore: SignStates) => ({
  number: 1,
  mends: [
    p.kind === 'setting'
      ? ({ suspect: p.suspect, kind: 'setting', key: p.key, from: p.from, to: p.to } as const)
      : ({ suspect: p.suspect, kind: 'handling', procedure: p.procedure } as const),
  ],
  signsBefore,
  results,
  newSigns: [],
  fromVersion: 1,
  toVersion: p.kind === 'setting' ? 2 : 1,
})

test('an attempt that is begun changes no chance before it is printed; worse and same take from its suspect', () => {
  let settings = 0
  lawful(({ told, d }, given) => {
    const p = d.proposals.at(0)
    if (!p) return
    const after = (results: SignResults | null) => {
      const recipe =
        p.kind === 'setting' ? layOver({}, { [p.key]: p.to }, { source: 'mend', reason: said('') }) : {}
      const { machine, filament } = given.pair
      const now = deriveRecipe({ machine, filament, pins: { ...hand(given.set), ...recipe } })
      return diagnose({
        ...told,
        recipe: now,
        latest: { version: 2, changes: differences(told.recipe, now) },
        notebook: [attempted(p, results, told.signs)],
      })
    }
    const chances = (x: typeof d) => new Map(x.balance.suspects.map((s) => [s.id, s.present]))
    if (!given.file) {
      settings += Number(p.kind === 'setting')
      const before = chances(d)
      for (const [id, chance] of chances(after(null)))
        expect([p.id, id, Math.abs(chance - before.get(id)!) < 1e-9]).toEqual([p.id, id, true])
    }
    const seen = Object.keys(told.signs).filter((s) => told.signs[s as SignId] === 'present')
    const all = (r: 'same' | 'worse') => Object.fromEntries(seen.map((s) => [s, r])) as SignResults
    for (const r of ['same', 'worse'] as const)
      expect([p.id, r, chances(after(all(r))).get(p.suspect)! <= chances(d).get(p.suspect)! + 1e-9]).toEqual([
        p.id,
        r,
        true,
      ])
  })
  expect(settings).toBeGreaterThan(0)
})

test('what made it worse speaks for those that want the other way', () => {
  const { machine, filament } = { machine: DEMO_MACHINES.shed, filament: rolls[0] }
  const recipe = deriveRecipe({ machine, filament, pins: hand({ fan: 60 }) })
  const of = (notebook: Told['notebook']) =>
    diagnose({
      machine,
      filament,
      recipe,
      today,
      signs: { 'sagging-overhangs': 'present', 'weak-layers': 'present' },
      notebook,
    })
  const worse = attempted(
    { suspect: 'cooling-too-weak', kind: 'setting', key: 'fan', from: 50, to: 60 } as Proposal,
    { 'weak-layers': 'worse' },
    {},
  )
  const chance = (d: ReturnType<typeof of>, id: SuspectId) =>
    d.balance.suspects.find((s) => s.id === id)!.present
  expect(chance(of([worse]), 'cooling-too-strong')).toBeGreaterThan(chance(of([]), 'cooling-too-strong'))
  expect(chance(of([worse]), 'cooling-too-weak')).toBeLessThan(chance(of([]), 'cooling-too-weak'))
  expect(toTakeBack([worse], 2)?.number).toBe(1)
  // taken back, or moved on since, or better: nothing to take back
  expect(toTakeBack([worse], 1)).toBeNull()
  expect(toTakeBack([{ ...worse, results: { 'weak-layers': 'better' } }], 2)).toBeNull()
})

test('a check asks about three suspects at the most', () => {
  lawful(({ d }) => {
    for (const step of [d.plan.next, ...d.plan.others])
      if (step?.kind === 'check') expect([step.check, step.about.length <= 3]).toEqual([step.check, true])
  })
})

test('corners that lift have a ladder, whatever the recipe has already; and when all of it failed there is still a step', () => {
  const machine = DEMO_MACHINES.shed
  const filament = { ...rolls[0], family: 'abs' as const }
  const signs: SignStates = { 'corners-lift': 'present', 'first-layer-not-sticking': 'absent' }
  const rungsWith = (set: Changes) =>
    diagnose({
      machine,
      filament,
      recipe: deriveRecipe({ machine, filament, pins: hand(set) }),
      today,
      signs,
    })
      .proposals.filter((p) => [p.suspect, ...p.also].includes('shrink-stress'))
      .map((p) => (p.kind === 'setting' ? `${p.key} ${String(p.to)}` : p.procedure))
  expect(rungsWith({ brimLines: 0 })).toEqual(expect.arrayContaining(['brimLines 12', 'cover-frame']))
  const further = rungsWith({ brimLines: 12 })
  expect(further).not.toContain('brimLines 12')
  expect(further.length).toBeGreaterThan(1)
  expect(rungsWith({ brimLines: 20, cornerTabs: 12, fan: 0, draughtWall: 1 }).length).toBeGreaterThan(0)
  const recipe = deriveRecipe({ machine, filament, pins: hand({ brimLines: 0 }) })
  const notebook: NonNullable<Told['notebook']>[number][] = []
  for (let number = 1; number <= 12; number++) {
    const d = diagnose({ machine, filament, recipe, today, signs, notebook })
    const [p] = d.proposals
    expect([number, p !== undefined, d.plan.next !== null]).toEqual([number, true, true])
    const { signsBefore: _, ...made } = attempted(p, { 'corners-lift': 'same' }, {})
    notebook.push({ ...made, number, signsBefore: signs, fromVersion: number, toVersion: number + 1 })
  }
})

// ---- what was really printed

test('a file that was hardly meant so is printed with the recipe’s values first, whatever is seen', () => {
  const strange: Changes[] = [{ wallCount: 1 }, { topLayers: 0, bottomLayers: 0 }, { nozzle: 285 }]
  let led = 0
  fc.assert(
    fc.property(fc.record({ given: anyCase, odd: fc.constantFrom(...strange) }), ({ given, odd }) => {
      const { told, d, printed } = heard({ ...given, set: {}, file: odd as AnyCase['file'], confirmed: null })
      const strays = straysIn(printed.departs, told.filament).filter(spoilsPrint)
      if (!strays.length) return
      led++
      const { next } = d.plan
      expect(next?.kind).toBe('mend')
      const lead = next?.kind === 'mend' && d.proposals.find((p) => p.id === next.proposal)
      expect(lead).toMatchObject({ leads: true, procedure: 'prepare-paths' })
      // it names what is odd, as the file has it
      const named = lead && lead.kind === 'handling' ? (lead.departs ?? []).map((x) => x.setting) : []
      for (const s of strays) expect(named).toContain(s.key)
      if (lead)
        expect(say(lead.why)).toMatch(/^The file that was printed has .+ left over from another job\./)
    }),
    tries(TRIES),
  )
  expect(led).toBeGreaterThan(5)
})

test('a file as the recipe has it, or with an ordinary change, leads nowhere of itself', () => {
  fc.assert(
    fc.property(
      fc.record({
        given: anyCase,
        change: fc.constantFrom<Changes>({}, { outerSpeed: 30 }, { brimLines: 5 }),
      }),
      ({ given, change }) => {
        const { d } = heard({ ...given, set: {}, file: change as AnyCase['file'], confirmed: null })
        expect(d.proposals.filter((p) => p.leads)).toEqual([])
      },
    ),
    tries(TRIES),
  )
  // in a label's range nothing is odd, beyond it it is; a plastic without a label has more room
  const at = (nozzle: number, label: { min: number; max: number } | null) => {
    const filament = { ...rolls[0], family: 'pla' as const, label: { ...rolls[0].label, nozzle: label } }
    return straysIn([{ key: 'nozzle', recipe: 210, file: nozzle, leftover: false }], filament)
  }
  expect(at(225, { min: 195, max: 225 })).toEqual([])
  expect(at(250, { min: 195, max: 225 })).toMatchObject([{ outside: { min: 195, max: 225, of: 'label' } }])
  expect(at(230, null)).toEqual([])
  expect(at(250, null)).toMatchObject([{ outside: { of: 'card' } }])
})

test('once the file was printed anew, what it had does not lead again', () => {
  const machine = DEMO_MACHINES.shed
  const given: AnyCase = {
    pair: { machine, filament: rolls[0] },
    set: {},
    file: { wallCount: 1 },
    seen: ['gaps-between-walls'],
    absent: [],
    confirmed: null,
  }
  const { told, d } = heard(given)
  expect(d.proposals[0].leads).toBe(true)
  const after = diagnose({
    ...told,
    notebook: [attempted(d.proposals[0], { 'gaps-between-walls': 'same' }, told.signs)],
  })
  expect(after.proposals.some((p) => p.leads)).toBe(false)
})
