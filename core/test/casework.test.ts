import fc from 'fast-check'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import {
  EMPTY_CASE,
  attemptEvidence,
  causesOf,
  currentFile,
  curesOf,
  diagnoseCase,
  filamentAfter,
  learntEvidence,
  machineAfter,
  overallOutcome,
  signsAfter,
  signsThat,
  taughtBy,
  type CaseOnBench,
  type Lesson,
  type NotedAttempt,
  type SignResult,
} from '../src/casework'
import { findingContext, findingsOf, markEvidence, type SignStates } from '../src/diagnosis'
import { readGcode } from '../src/gcode'
import {
  PRIOR,
  SIGN_IDS,
  SUSPECT_IDS,
  belongsTo,
  suspectOf,
  type SignId,
  type SuspectId,
} from '../src/knowledge'
import { dryingOf } from '../src/material'
import { writePart } from '../src/planner'
import { said } from '../src/quantity'
import { deriveRecipe, printSettingsOf } from '../src/recipe'
import { LAYER_QUANTITIES, readPath } from '../src/toolpath'
import { say } from '../src/words'
import { tries } from './lib/property'

const machine = DEMO_MACHINES.shed
const filament = demoFilaments('2026-01-01').terracotta
const recipe = deriveRecipe({ machine, filament })
const context = { machine, filament, recipe, today: '2026-01-01' }

const sign = fc.constantFrom(...SIGN_IDS)
const suspect = fc.constantFrom(...SUSPECT_IDS)
const RESULTS: SignResult[] = ['gone', 'better', 'same', 'worse']
const result = fc.constantFrom(...RESULTS)
const signs = (most: number) =>
  fc
    .uniqueArray(fc.tuple(sign, fc.constantFrom('present' as const, 'absent' as const)), {
      maxLength: most,
      selector: ([s]) => s,
    })
    .map((pairs): SignStates => Object.fromEntries(pairs))
const attempt = fc
  .record({
    suspects: fc.uniqueArray(suspect, { minLength: 1, maxLength: 3 }),
    results: fc.dictionary(sign, result, { maxKeys: 5 }),
    number: fc.integer({ min: 1, max: 9 }),
  })
  .map(({ suspects, results, number }): NotedAttempt => ({
    number,
    mends: suspects.map((s) => ({ suspect: s, kind: 'handling', procedure: 'wash-bed' })),
    signsBefore: {},
    results: results as NotedAttempt['results'],
    newSigns: [],
  }))

describe('what came of an attempt', () => {
  test('is as good as the signs its mends went for, never better than the best of all and never worse than the worst', () => {
    const rank = (r: SignResult) => RESULTS.indexOf(r)
    fc.assert(
      fc.property(attempt, (a) => {
        const outcome = overallOutcome(a)
        const all = Object.values(a.results ?? {}) as SignResult[]
        if (!all.length) return expect(outcome).toBeNull()
        expect(rank(outcome!)).toBeGreaterThanOrEqual(Math.min(...all.map(rank)))
        // one sign that is gone among others is better, not gone
        if (outcome === 'worse') expect(all).toContain('worse')
        if (outcome === 'same') expect(all.some((r) => r === 'same')).toBe(true)
      }),
      tries(300),
    )
  })

  test('signs that the mend cannot touch do not speak of it', () => {
    fc.assert(
      fc.property(suspect, sign, sign, result, result, (id, own, other, a, b) => {
        fc.pre(suspectOf(id).signs[own] !== undefined && suspectOf(id).signs[other] === undefined)
        const mends = [{ suspect: id }]
        expect(overallOutcome({ mends, results: { [own]: a, [other]: b } })).toBe(
          overallOutcome({ mends, results: { [own]: a } }),
        )
      }),
      tries(200),
    )
  })

  test('not looked at yet is no evidence, and no cure', () => {
    const waiting: NotedAttempt = {
      number: 1,
      mends: [{ suspect: 'nozzle-too-hot', kind: 'setting', key: 'nozzle', from: 215, to: 205 }],
      signsBefore: { 'strings-thin': 'present' },
      results: null,
      newSigns: [],
    }
    expect(attemptEvidence([waiting])).toEqual([])
    expect(curesOf([waiting])).toEqual([])
    expect(causesOf([waiting])).toEqual([])
    expect(overallOutcome(waiting)).toBeNull()
  })

  test('the signs after: what is gone or not there is absent, what stays or comes is present, the rest is as it was', () => {
    fc.assert(
      fc.property(
        signs(8),
        fc.dictionary(sign, result, { maxKeys: 4 }),
        fc.uniqueArray(sign, { maxLength: 3 }),
        fc.uniqueArray(sign, { maxLength: 3 }),
        (before, results, came, notThere) => {
          const after = signsAfter(before, results, came, notThere)
          for (const s of SIGN_IDS) {
            if (came.includes(s)) expect(after[s]).toBe('present')
            else if (results[s]) expect(after[s]).toBe(results[s] === 'gone' ? 'absent' : 'present')
            else if (notThere.includes(s)) expect(after[s]).toBe('absent')
            else expect(after[s]).toBe(before[s])
          }
          expect([...signsThat('present', after), ...signsThat('absent', after)].sort()).toEqual(
            Object.keys(after).sort(),
          )
        },
      ),
      tries(200),
    )
  })

  test('a case always teaches something, in sentences, and names what is left', () => {
    fc.assert(
      fc.property(fc.array(attempt, { maxLength: 4 }), signs(5), (attempts, left) => {
        const taught = taughtBy('Bracket', attempts, left)
        expect(taught.length).toBeGreaterThan(0)
        for (const reason of taught) expect(say(reason)).toMatch(/^\S.*[.!]$/s)
        const still = signsThat('present', left)
        expect(taught.some((r) => r.code === 'signs-left')).toBe(still.length > 0)
        const cured = attempts.filter((a) => ['gone', 'better'].includes(overallOutcome(a) ?? ''))
        expect(taught.filter((r) => r.code === 'case-cured')).toHaveLength(cured.length)
      }),
      tries(200),
    )
  })
})

describe('what closed cases teach', () => {
  const lesson = (causes: SuspectId[], near: 'pair' | 'machine' | 'family' | 'none' = 'pair'): Lesson => ({
    samePair: near === 'pair',
    sameMachine: near === 'pair' || near === 'machine',
    sameFamily: near === 'pair' || near === 'family',
    causes,
  })
  const shift = (lessons: Lesson[], id: SuspectId) =>
    learntEvidence(lessons).find((e) => e.suspect === id)?.decibans ?? 0

  test('no case, or one from elsewhere, teaches nothing', () => {
    expect(learntEvidence([])).toEqual([])
    expect(learntEvidence([lesson(['feed-slip'], 'none')])).toEqual([])
    expect(learntEvidence([lesson([])])).toEqual([])
  })

  test('by hand: one case of this pair, on a seed worth twenty (beta counts)', () => {
    const prior = PRIOR[suspectOf('feed-slip').prior]
    const learnt = (prior * 20 + 1) / 21
    const decibans = 10 * Math.log10(learnt / (1 - learnt)) - 10 * Math.log10(prior / (1 - prior))
    expect(shift([lesson(['feed-slip'])], 'feed-slip')).toBeCloseTo(decibans, 1)
  })

  test('what was the cause before is likelier now, of this pair more than of the machine, the more often the more', () => {
    fc.assert(
      fc.property(suspect, fc.integer({ min: 1, max: 12 }), (id, n) => {
        const of = (near: 'pair' | 'machine' | 'family', count: number) =>
          shift(
            Array.from({ length: count }, () => lesson([id], near)),
            id,
          )
        expect(of('pair', n)).toBeGreaterThan(0)
        expect(of('pair', n + 1)).toBeGreaterThanOrEqual(of('pair', n))
        expect(of('pair', n)).toBeGreaterThanOrEqual(of('machine', n))
        // it stays with what it is about
        const [own, other] =
          belongsTo(id) === 'machine' ? (['machine', 'family'] as const) : (['family', 'machine'] as const)
        expect(of(own, n)).toBeGreaterThan(0)
        expect(of(other, n)).toBe(0)
      }),
      tries(60),
    )
  })

  test('what never was the cause becomes no likelier by another’s case', () => {
    fc.assert(
      fc.property(suspect, suspect, (id, other) => {
        fc.pre(id !== other)
        expect(shift([lesson([other]), lesson([other])], id)).toBe(0)
      }),
      tries(40),
    )
  })

  test('the order in which cases were closed does not matter', () => {
    const many = [
      lesson(['feed-slip']),
      lesson(['nozzle-too-hot'], 'machine'),
      lesson(['feed-slip'], 'family'),
    ]
    const plain = (l: Lesson[]) =>
      learntEvidence(l)
        .map(({ suspect: s, decibans }) => `${s} ${decibans}`)
        .sort()
    expect(plain([...many].reverse())).toEqual(plain(many))
  })
})

const text = writePart(machine, printSettingsOf(recipe), { shape: 'box', width: 20, height: 3 })
const reading = readPath(readGcode(Uint8Array.from(text, (c) => c.charCodeAt(0))), {
  filamentDiameter: 1.75,
  density: 1.24,
  nozzleDiameter: machine.nozzle.diameter,
  limits: machine.limits,
})
const bench = (more: Partial<CaseOnBench>): CaseOnBench => ({ ...EMPTY_CASE, ...more })
const probabilities = (c: CaseOnBench) =>
  Object.fromEntries(
    diagnoseCase(c, context).balance.suspects.map((s) => [s.id, Number(s.probability.toFixed(9))]),
  )

describe('one assembly of a diagnosis', () => {
  test('the order in which signs were marked does not matter', () => {
    fc.assert(
      fc.property(signs(7), (marked) => {
        const turned = Object.fromEntries(Object.entries(marked).reverse()) as SignStates
        expect(probabilities(bench({ signs: turned }))).toEqual(probabilities(bench({ signs: marked })))
      }),
      tries(25),
    )
  })

  test('every probability is one, and a sign nobody looked at says nothing', () => {
    fc.assert(
      fc.property(signs(7), (marked) => {
        const { balance } = diagnoseCase(bench({ signs: marked }), context)
        expect(balance.suspects).toHaveLength(SUSPECT_IDS.length)
        for (const s of balance.suspects) {
          expect(s.probability).toBeGreaterThanOrEqual(0)
          expect(s.probability).toBeLessThanOrEqual(1)
        }
        expect(balance.seen).toBe(signsThat('present', marked).length)
        expect(balance.looked).toBe(Object.keys(marked).length)
      }),
      tries(25),
    )
  })

  test('a sign that is not there never speaks for a suspect that would show it', () => {
    fc.assert(
      fc.property(signs(4), sign, (marked, s) => {
        fc.pre(marked[s] === undefined)
        const before = probabilities(bench({ signs: marked }))
        const after = probabilities(bench({ signs: { ...marked, [s]: 'absent' } }))
        // without other signs to explain, nothing else can make up for it
        fc.pre(signsThat('present', marked).length === 0)
        for (const id of SUSPECT_IDS)
          if (suspectOf(id).signs[s]) expect(after[id]).toBeLessThanOrEqual(before[id] + 1e-9)
      }),
      tries(40),
    )
  })

  const file = { id: 'f1', afterAttempt: 0, reading }
  const changed = { number: 1, fromVersion: 1, toVersion: 2, results: {} as object | null }

  test('a file counts until a change makes it old; looking at the bed makes nothing old', () => {
    expect(currentFile({ files: [], attempts: [] })).toEqual({ file: null, outdated: false })
    expect(currentFile({ files: [file], attempts: [] })).toEqual({ file, outdated: false })
    expect(currentFile({ files: [file], attempts: [changed] })).toEqual({ file: null, outdated: true })
    // nothing has been seen of a print that is still to be made
    const open = { ...changed, results: null }
    expect(currentFile({ files: [file], attempts: [open] })).toEqual({ file, outdated: false })
    const anew = { ...changed, toVersion: 1, mends: [{ kind: 'handling', procedure: 'prepare-paths' }] }
    expect(currentFile({ files: [file], attempts: [anew] })).toEqual({ file: null, outdated: true })
    const handled = { ...changed, toVersion: 1 }
    expect(currentFile({ files: [file], attempts: [handled] })).toEqual({ file, outdated: false })
    const newer = { ...file, id: 'f2', afterAttempt: 1 }
    expect(currentFile({ files: [file, newer], attempts: [changed] })).toEqual({
      file: newer,
      outdated: false,
    })
  })

  test('the file’s findings speak in the balance, an old file’s do not', () => {
    const findings = findingsOf(reading, findingContext(context))
    expect(findings.length).toBeGreaterThan(0)
    const seen: SignStates = { 'strings-thin': 'present' }
    const without = probabilities(bench({ signs: seen }))
    expect(probabilities(bench({ signs: seen, files: [file] }))).not.toEqual(without)
    const attempts = [{ ...changed, mends: [], signsBefore: {}, results: {}, newSigns: [] }]
    expect(probabilities(bench({ signs: seen, files: [file], attempts }))).toEqual(
      probabilities(bench({ signs: seen, attempts })),
    )
  })

  test('a mark speaks of the file it was made on, and of no other', () => {
    const mark = {
      fileId: 'f1',
      heightRanges: [{ from: 1, to: 2 }],
      quantity: 'fan' as const,
      strength: 0.9,
      p: 0.001,
      reason: said('The fan changes there.'),
    }
    const seen: SignStates = { 'bands-gloss': 'present' }
    const plain = probabilities(bench({ signs: seen, files: [file] }))
    expect(probabilities(bench({ signs: seen, files: [file], marks: [mark] }))).not.toEqual(plain)
    expect(
      probabilities(bench({ signs: seen, files: [file], marks: [{ ...mark, fileId: 'another' }] })),
    ).toEqual(plain)
  })

  test('a match by accident says nothing; a stronger one never says less', () => {
    for (const id of Object.keys(LAYER_QUANTITIES) as (keyof typeof LAYER_QUANTITIES)[]) {
      const of = (strength: number, p: number) =>
        markEvidence({ id, strength, p, inside: NaN, outside: NaN, reason: said('x') })
      for (const e of of(0.9, 0.5)) expect(e.decibans).toBe(0)
      const weak = of(0.3, 0.01)
      const strong = of(0.9, 0.01)
      strong.forEach((e, i) => {
        expect(e.decibans).toBeGreaterThanOrEqual(weak[i].decibans)
        expect(e.decibans).toBeLessThanOrEqual(10)
      })
      // the first suspect of a quantity is spoken of most
      expect([...strong].sort((a, b) => b.decibans - a.decibans)).toEqual(strong)
    }
  })

  test('what a person noted of a trial counts', () => {
    const checks = [
      { by: 'retraction-tower' as const, suspect: 'retraction-too-short' as const, found: false },
    ]
    const seen: SignStates = { 'strings-thin': 'present' }
    const before = probabilities(bench({ signs: seen }))
    expect(probabilities(bench({ signs: seen, checks }))['retraction-too-short']).toBeLessThan(
      before['retraction-too-short'],
    )
  })

  test('a step that cannot be done is not the next one, and the case itself is not changed by being weighed', () => {
    const c = bench({ signs: { 'strings-thin': 'present', 'blobs-on-wall': 'present' } })
    const frozen = JSON.stringify(c)
    const ids = new Set<string>()
    let cannot: string[] = []
    for (let i = 0; i < 6; i++) {
      const { next } = diagnoseCase({ ...c, cannot }, context).plan
      if (!next) break
      expect(ids.has(next.id)).toBe(false)
      ids.add(next.id)
      cannot = [...cannot, next.id]
    }
    expect(ids.size).toBeGreaterThan(2)
    expect(JSON.stringify(c)).toBe(frozen)
  })
})

test('every suspect can be told from its neighbours by something that is really there', () => {
  const without: string[] = []
  for (const id of SUSPECT_IDS) {
    const s = suspectOf(id)
    const own = Object.keys(s.signs) as SignId[]
    if (!own.length || !s.by.length || !s.tell) without.push(id)
  }
  expect(without).toEqual([])
})

describe('after a step that did not do', () => {
  const signs: SignStates = { 'strings-thin': 'present' }
  const step = (result: 'same' | 'gone') =>
    bench({
      signs: result === 'gone' ? { 'strings-thin': 'absent', 'strings-thick': 'present' } : signs,
      attempts: [
        {
          number: 1,
          mends: [
            { suspect: 'retraction-too-short', kind: 'setting', key: 'retractLength', from: 4.1, to: 4.6 },
          ],
          signsBefore: signs,
          results: { 'strings-thin': result },
          newSigns: [],
          fromVersion: 1,
          toVersion: 2,
        },
      ],
    })
  const trials = (c: CaseOnBench) =>
    diagnoseCase(c, context).proposals.filter(
      (p) => p.suspect === 'retraction-too-short' && p.why.code === 'step-failed',
    )
  test('the trial that finds the value is a mend of its own; before it, and after one that helped, it is none', () => {
    expect(trials(bench({ signs }))).toEqual([])
    expect(trials(step('gone'))).toEqual([])
    const [trial] = trials(step('same'))
    expect(say(trial.why)).toMatch(/^One step was not enough\. .* will find the value\.$/)
    // it is worth more than the same step once more
    const d = diagnoseCase(step('same'), context)
    const again = d.proposals.find((p) => p.suspect === trial.suspect && p.kind === 'setting')!
    expect(trial.works[0]).toBeGreaterThan(again.works[0])
  })
})

describe('a file that has the recipe’s values', () => {
  const anew = (c: CaseOnBench) =>
    diagnoseCase(c, context)
      .proposals.filter((p) => p.kind === 'handling' && p.procedure === 'prepare-paths')
      .map((p) => Math.max(...p.works))
  test('is made no other by making it anew: that comes last, yet every likely suspect has something to do', () => {
    const signs: SignStates = { 'strings-thin': 'present' }
    const files = [{ id: 'file', afterAttempt: 0, reading }]
    const without = anew(bench({ signs }))
    const withFile = anew(bench({ signs, files }))
    expect(Math.max(...without)).toBeGreaterThan(0.2)
    expect(Math.max(0, ...withFile)).toBeLessThan(0.1)
    const d = diagnoseCase(bench({ signs, files }), context)
    const goneFor = new Set(d.proposals.flatMap((p) => [p.suspect, ...p.also]))
    for (const s of d.balance.suspects.filter((s) => s.probability > 0.1)) expect(goneFor).toContain(s.id)
  })
})

test('who makes a check is asked about the three likeliest that it shows, the likeliest first', () => {
  const d = diagnoseCase(bench({ signs: { 'first-layer-uneven': 'present' } }), context)
  const checks = [d.plan.next, ...d.plan.others].flatMap((s) => (s?.kind === 'check' ? [s] : []))
  expect(checks.length).toBeGreaterThan(0)
  const rank = new Map(d.balance.suspects.map((s, i) => [s.id, i]))
  for (const { check, about } of checks) {
    const able = d.balance.suspects.filter((s) => suspectOf(s.id).by.includes(check)).map((s) => s.id)
    expect(about).toEqual(able.slice(0, 3))
    expect(about.map((s) => rank.get(s))).toEqual(about.map((s) => rank.get(s)).sort((a, b) => a! - b!))
  }
})

test('what was done by hand is noted on the machine and the roll, and nothing else of them', () => {
  const today = '2026-01-01'
  const after = machineAfter(machine, ['wash-bed', 'level-screws', 'replace-nozzle'], today)
  expect(after.bed).toEqual({ ...machine.bed, printsSinceWash: 0, printsSinceLevel: 0, residual: null })
  expect(after.nozzle.changedOn).toBe(today)
  expect({ ...after, bed: machine.bed, nozzle: machine.nozzle }).toEqual(machine)
  expect(machineAfter(machine, ['tension-belts'], today)).toEqual(machine)
  const dried = filamentAfter(filament, ['dry-filament'], today)
  expect(dried.dryings.at(-1)).toEqual({
    on: today,
    temperature: dryingOf(filament).temperature,
    hours: dryingOf(filament).hours,
  })
  // noted by the person the same day already
  expect(filamentAfter(dried, ['dry-filament'], today)).toEqual(dried)
  expect(filamentAfter(filament, ['wash-bed'], today)).toEqual(filament)
})
