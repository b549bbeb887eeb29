import fc from 'fast-check'
import {
  CHECKS,
  FACTS,
  PROCEDURES,
  SIGNS,
  SIGN_IDS,
  SUSPECTS,
  SUSPECT_IDS,
  TRIALS,
  suspectOf,
  PRIOR,
  STRENGTH,
  type SignId,
} from '../src/knowledge'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import { SETTINGS, deriveRecipe, faultOf, printSettingsOf, settingOf, type Pins } from '../src/recipe'
import {
  confounded,
  posterior,
  prepare,
  proposeMends,
  weigh,
  type Cause,
  type Finding,
  type SignStates,
} from '../src/diagnosis'
import { say } from '../src/words'
import { diagnose, hand, type Told } from './lib/diagnose'
import { tries } from './lib/property'
import { readGcode } from '../src/gcode'
import { readPath } from '../src/toolpath'
import { writePart } from '../src/planner'

/** Full enumeration over every set of causes: slow, plain, independent of the way the app sums. */
function enumerate(causes: Cause[], findings: Finding[]) {
  const n = causes.length
  let total = 0
  const on = new Array<number>(n).fill(0)
  const responsible = new Array<number>(n).fill(0)
  for (let set = 0; set < 1 << n; set++) {
    let prior = 1
    causes.forEach((c, i) => (prior *= set & (1 << i) ? c.prior : 1 - c.prior))
    const likelihood = (skip = -1) => {
      let l = 1
      findings.forEach((f, k) => {
        if (f.state === undefined) return
        let silent = 1 - f.leak
        causes.forEach((c, i) => {
          if (!(set & (1 << i))) return
          for (const [at, q] of c.links)
            if (at === k && !(i === skip && f.state === true && f.symptom !== false)) silent *= 1 - q
        })
        l *= f.state ? 1 - silent : silent
      })
      return l
    }
    const l = prior * likelihood()
    total += l
    for (let i = 0; i < n; i++)
      if (set & (1 << i)) {
        on[i] += l
        // the share in which this cause stayed silent on every seen symptom
        let none = 1
        for (const [at, q] of causes[i].links)
          if (findings[at].state === true && findings[at].symptom !== false) none *= 1 - q
        responsible[i] += l - prior * none * likelihood(i)
      }
  }
  return {
    causes: on.map((v) => v / total),
    responsible: responsible.map((v) => v / total),
    log: Math.log(total),
  }
}

const chance = fc.double({ min: 0.01, max: 0.95, noNaN: true })
const network = fc.integer({ min: 1, max: 6 }).chain((m) =>
  fc.record({
    causes: fc.array(
      fc.record({
        prior: chance,
        links: fc.uniqueArray(fc.tuple(fc.nat(m - 1), chance), { selector: (l) => l[0], maxLength: m }),
      }),
      { minLength: 1, maxLength: 8 },
    ),
    findings: fc.array(
      fc.record({
        leak: fc.double({ min: 0.001, max: 0.3, noNaN: true }),
        state: fc.constantFrom(true, false, undefined),
        symptom: fc.constantFrom(true, false, undefined),
      }),
      { minLength: m, maxLength: m },
    ),
  }),
)

describe('inference', () => {
  test('agrees with full enumeration on 1,000 random networks to 1e-9', () => {
    fc.assert(
      fc.property(network, ({ causes, findings }) => {
        const got = posterior(causes as Cause[], findings)
        const want = enumerate(causes as Cause[], findings)
        got.causes.forEach((p, i) => expect(Math.abs(p - want.causes[i])).toBeLessThan(1e-9))
        got.responsible.forEach((p, i) => expect(Math.abs(p - want.responsible[i])).toBeLessThan(1e-9))
        expect(Math.abs(got.logEvidence - want.log)).toBeLessThan(1e-9)
      }),
      tries(1000),
    )
  })
  test('base-rate example (Eddy 1982): 1 %, 80 %, 9.6 % → 7.8 %', () => {
    // a noisy-OR with leak has P(sign | cause) = 1 − (1 − leak)(1 − q) = 0.8
    const q = 1 - (1 - 0.8) / (1 - 0.096)
    const { causes } = posterior([{ prior: 0.01, links: [[0, q]] }], [{ leak: 0.096, state: true }])
    expect(causes[0]).toBeCloseTo(0.078, 3)
  })
  test('without a finding is as if nobody had looked for it', () => {
    fc.assert(
      fc.property(network, ({ causes, findings }) => {
        const { without } = prepare(causes as Cause[], findings)
        findings.forEach((_, k) => {
          const unknown = findings.map((f, i) => (i === k ? { leak: f.leak } : f))
          const want = enumerate(causes as Cause[], unknown)
          without(k).forEach((p, i) => expect(Math.abs(p - want.causes[i])).toBeLessThan(1e-9))
        })
      }),
      tries(200),
    )
  })
  /** The knowledge as a network, with so many signs seen, drawn by a seed. */
  const knowledge = (many: number, seed: number) => {
    const drawn = fc.sample(fc.shuffledSubarray(SIGN_IDS, { minLength: many, maxLength: many }), {
      seed,
      numRuns: 1,
    })[0]
    return {
      causes: SUSPECT_IDS.map((id): Cause => ({
        prior: PRIOR[suspectOf(id).prior],
        links: (Object.entries(suspectOf(id).signs) as [SignId, 'S' | 'M' | 'W'][]).map(([s, q]) => [
          SIGN_IDS.indexOf(s),
          STRENGTH[q],
        ]),
      })),
      findings: SIGN_IDS.map((s): Finding => ({ leak: 0.02, state: drawn.includes(s) || undefined })),
    }
  }
  test('thirty signs at once are summed exactly, and taking one in at a time agrees with the whole', () => {
    for (const seed of [1, 2, 3]) {
      const { causes, findings } = knowledge(30, seed)
      const whole = posterior(causes, findings)
      expect(whole.exact).toBe(true)
      // P(all) is the product of P(next | those before), each by a network with one finding more
      const order = findings.flatMap((f, i) => (f.state ? [i] : []))
      const alone = (given: number[], i: number) => {
        const of = (state?: boolean) =>
          posterior(
            causes,
            findings.map((f, k) => (k === i ? { ...f, state } : given.includes(k) ? f : { leak: f.leak })),
          ).logEvidence
        return of(true) - Math.log(Math.exp(of(true)) + Math.exp(of(false)))
      }
      const log = order.reduce((sum, i, n) => sum + alone(order.slice(0, n), i), 0)
      expect(Math.abs(log - whole.logEvidence)).toBeLessThan(1e-6)
    }
  })
  test('where links are cut the likeliest stay so, and chances are near the exact ones', () => {
    const far: number[] = []
    for (let seed = 1; seed <= 12; seed++) {
      const { causes, findings } = knowledge(24 + seed, seed)
      const exact = posterior(causes, findings, Infinity)
      const cut = posterior(causes, findings, 2000)
      expect([exact.exact, cut.exact]).toEqual([true, false])
      far.push(...exact.causes.map((p, i) => Math.abs(p - cut.causes[i])))
      const leader = (p: number[]) => p.indexOf(Math.max(...p))
      expect(exact.causes[leader(cut.causes)]).toBeGreaterThan(Math.max(...exact.causes) - 0.1)
    }
    far.sort((a, b) => a - b)
    expect(far[Math.floor(0.95 * far.length)]).toBeLessThan(0.03)
  })
  test('every sign seen at once: chances are chances, and the leader has reasons for it', () => {
    for (const many of [14, 22, 40, SIGN_IDS.length]) {
      const { findings } = knowledge(many, many)
      const signs: SignStates = Object.fromEntries(
        SIGN_IDS.flatMap((s, i) => (findings[i].state ? [[s, 'present']] : [])),
      )
      const { suspects } = weigh({ signs, facts: {} })
      for (const s of suspects) {
        expect(s.probability).toBeGreaterThanOrEqual(0)
        expect(s.probability).toBeLessThanOrEqual(1)
      }
      expect(suspects[0].weights.some((w) => w.decibans > 1 && w.reason.code === 'sign-seen')).toBe(true)
    }
  })
  test('more improved attempts than can be explained one by one do not break the balance', () => {
    const attempts = Array.from({ length: 24 }, (_, i) => ({
      number: i + 1,
      suspects: ['nozzle-too-hot' as const],
      outcome: 'better' as const,
    }))
    const b = weigh({ signs: { 'strings-thin': 'present' }, facts: {}, attempts })
    expect(b.suspects[0].id).toBe('nozzle-too-hot')
  })
  test('refuses what is no probability', () => {
    expect(() => posterior([{ prior: 2, links: [] }], [])).toThrow(/2 is no probability/)
  })
})

describe('knowledge', () => {
  test('every sign can be caused, every suspect has a mend and a way to tell, no id is an orphan', () => {
    const caused = new Set(SUSPECT_IDS.flatMap((s) => Object.keys(SUSPECTS[s].signs)))
    expect(SIGN_IDS.filter((s) => !caused.has(s))).toEqual([])
    for (const id of SUSPECT_IDS) {
      const s = suspectOf(id)
      expect(s.mends.length).toBeGreaterThan(0)
      expect(s.tell.length).toBeGreaterThan(5)
      for (const sign of [...Object.keys(s.signs), ...s.watch]) expect(SIGNS).toHaveProperty(sign)
      for (const by of s.by) expect({ ...CHECKS, ...TRIALS }).toHaveProperty(by)
      for (const rule of s.context) expect(FACTS).toHaveProperty(rule.fact)
      for (const m of s.mends) {
        if (m.kind === 'handling') expect(PROCEDURES).toHaveProperty(m.procedure)
        else {
          expect(SETTINGS).toHaveProperty(m.key)
          if (m.to !== undefined) expect(faultOf(m.key, m.to)).toBeNull()
          expect([m.by, m.to, m.toFact, m.times].filter((v) => v !== undefined)).toHaveLength(1)
        }
      }
    }
    for (const sign of Object.values(SIGNS))
      if ('unlike' in sign) expect(SIGNS).toHaveProperty((sign.unlike as { id: string }).id)
  })
})

const today = '2026-11-24'
const rolls = demoFilaments(today)
const situation = (
  roll: keyof typeof rolls,
  machine: 'shed' | 'greenhouse',
  signs: SignStates,
  pins: Pins = {},
  more: Partial<Told> = {},
) => {
  const m = DEMO_MACHINES[machine]
  const recipe = deriveRecipe({ machine: m, filament: rolls[roll], pins })
  return { machine: m, filament: rolls[roll], recipe, today, signs, ...more }
}
const ranked = (s: ReturnType<typeof situation>) =>
  diagnose(s)
    .balance.suspects.slice(0, 3)
    .map((w) => w.id)

describe('cases a person would bring', () => {
  test('“cobwebs between the clips, pulled back only 2 mm on the long tube”', () => {
    const s = situation(
      'fern',
      'shed',
      { 'strings-thin': 'present', 'popping-or-steam': 'absent' },
      hand({ retractLength: 2 }),
    )
    expect(ranked(s)[0]).toBe('retraction-too-short')
    const first = diagnose(s).proposals[0]
    expect(first).toMatchObject({ kind: 'setting', key: 'retractLength', from: 2 })
    // three half-millimetre steps at the most, towards the usual for the tube
    expect('to' in first && first.to).toBe(3.5)
  })
  test('“it crackles and everything has hair on it, the roll stood about for a month”', () => {
    const s = situation('pond', 'shed', {
      'popping-or-steam': 'present',
      'strings-thin': 'present',
      'rough-foamy-surface': 'present',
    })
    expect(ranked(s)[0]).toBe('filament-wet')
    expect(diagnose(s).proposals[0]).toMatchObject({ kind: 'handling', procedure: 'dry-filament' })
  })
  test('“good on the left, nothing sticks on the right, it has not been levelled for weeks”', () => {
    const s = situation('fern', 'shed', {
      'first-layer-uneven': 'present',
      'first-layer-not-sticking': 'present',
    })
    expect(ranked(s)[0]).toBe('bed-tilted')
  })
  test('“fat foot on the couplings; first-layer flow was left at 120”', () => {
    const s = situation('fern', 'greenhouse', { 'base-flare': 'present' }, hand({ flowFirst: 120 }))
    expect(ranked(s)[0]).toBe('first-layer-overfed')
    expect(diagnose(s).proposals[0]).toMatchObject({ key: 'flowFirst', to: 100 })
  })
  test('“the hood’s corners curl, black ASA on the open machine”', () => {
    const s = situation('slate', 'shed', { 'corners-lift': 'present', 'first-layer-not-sticking': 'absent' })
    expect(ranked(s)).toContain('shrink-stress')
  })
  test('“the head crosses without pulling back”: the path file decides, whatever the recipe says', () => {
    const m = DEMO_MACHINES.shed
    const wrong = deriveRecipe({ machine: m, filament: rolls.fern, pins: hand({ retract: false }) })
    const text = writePart(m, printSettingsOf(wrong), {
      shape: 'box',
      width: 10,
      height: 10,
      copies: 2,
      apart: 30,
    })
    const reading = readPath(readGcode(Uint8Array.from(text, (c) => c.charCodeAt(0))), {
      filamentDiameter: 1.75,
      density: 1.24,
      nozzleDiameter: 0.4,
      limits: m.limits,
    })
    const s = situation('fern', 'shed', { 'strings-thin': 'present' }, {}, { reading })
    expect(ranked(s)[0]).toBe('retraction-off')
    // the recipe is right already, so the file has to be made anew
    expect(diagnose(s).proposals[0]).toMatchObject({ kind: 'handling', procedure: 'prepare-paths' })
  })
})

describe('attempts move the balance', () => {
  const base = situation('fern', 'shed', { 'strings-thin': 'present', 'blobs-on-wall': 'present' })
  const p = (attempts: Told['attempts'], id: string) =>
    diagnose({ ...base, attempts }).balance.suspects.find((s) => s.id === id)!.present
  test('no change speaks against, better speaks for', () => {
    const before = p([], 'nozzle-too-hot')
    expect(p([{ number: 1, suspects: ['nozzle-too-hot'], outcome: 'same' }], 'nozzle-too-hot')).toBeLessThan(
      before / 2,
    )
    expect(
      p([{ number: 1, suspects: ['nozzle-too-hot'], outcome: 'better' }], 'nozzle-too-hot'),
    ).toBeGreaterThan(before * 1.5)
  })
  test('two changes at once share the credit: neither gains what it would alone', () => {
    const alone = p([{ number: 1, suspects: ['nozzle-too-hot'], outcome: 'better' }], 'nozzle-too-hot')
    const both = p(
      [{ number: 1, suspects: ['nozzle-too-hot', 'retraction-too-short'], outcome: 'better' }],
      'nozzle-too-hot',
    )
    expect(both).toBeLessThan(alone)
    const reason = confounded([{ suspect: 'nozzle-too-hot' }, { suspect: 'retraction-too-short' }])
    expect(say(reason!)).toMatch(/will not know/)
  })
})

test('proposals stay within registry, machine and label, whatever the state', () => {
  const signs = fc.dictionary(
    fc.constantFrom(...SIGN_IDS),
    fc.constantFrom('present' as const, 'absent' as const),
    { maxKeys: 7 },
  )
  fc.assert(
    fc.property(
      signs,
      fc.constantFrom(...Object.keys(rolls)),
      fc.constantFrom('shed' as const, 'greenhouse' as const),
      (s, roll, m) => {
        const input = situation(roll, m, s)
        const d = diagnose(input)
        for (const proposal of proposeMends({ ...input, balance: d.balance, facts: d.facts }).proposals) {
          if (proposal.kind !== 'setting') continue
          expect(faultOf(proposal.key, proposal.to)).toBeNull()
          expect(proposal.to).not.toBe(proposal.from)
          const setting = settingOf(proposal.key)
          if (setting.kind === 'number' && (proposal.key === 'nozzle' || proposal.key === 'bed'))
            expect(Number(proposal.to)).toBeLessThanOrEqual(input.machine.limits[proposal.key])
        }
      },
    ),
    tries(60),
  )
})
