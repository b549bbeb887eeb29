import fc from 'fast-check'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import {
  JOINT_SHAPES,
  NO_READING,
  flowFromWall,
  mainEffects,
  makePiece,
  outcomeOf,
  proposeSteps,
  type Cell,
  type CellReading,
  type CriterionId,
  type Outcome,
  type PieceId,
  type PiecePlan,
  type ReadTrial,
} from '../src/trials'
import { deriveRecipe, type Changes } from '../src/recipe'
import { say } from '../src/words'
import { hand } from './lib/diagnose'
import { tries } from './lib/property'
import { readGcode } from '../src/gcode'
import { readPath } from '../src/toolpath'
import { trialEvidence } from '../src/diagnosis'
import { normalStream, randomStream } from '../src/statistics'

const machine = DEMO_MACHINES.shed
const filament = demoFilaments('2026-01-01').terracotta
const recipe = deriveRecipe({ machine, filament })
const pair = { machine, filament, recipe }
const reading = (grades: Partial<Record<CriterionId, number>>, measures: number[] = []): CellReading => ({
  ...NO_READING,
  grades,
  measures,
})

/** A trial whose cells are read by a rule over the stepped value. */
function trial(
  piece: PieceId,
  read: (value: number, index: number) => CellReading | null,
  steps?: Partial<PiecePlan['steps']>,
  number = 1,
  more: Partial<PiecePlan> = {},
): ReadTrial {
  const p = proposeSteps(pair, piece)
  const plan: PiecePlan = {
    piece,
    steps: { ...p.steps, ...steps },
    ...(p.across && { across: p.across }),
    ...more,
  }
  const { cells } = makePiece(pair, plan)
  const readings = Object.fromEntries(
    cells.flatMap((c, i) => {
      const r = read(c.values[plan.steps.key] ?? NaN, i)
      return r ? [[c.id, r]] : []
    }),
  )
  return { number, plan, cells, readings, resolution: 0.01 }
}
const outcome = (...t: ReadTrial[]) => outcomeOf(t, { machine, filament, recipe })
/** What an outcome says, sentence by sentence. */
const said = (o: Outcome) => o.reasons.map(say)
/** The recipe with a value in use. */
const using = (set: Changes) => deriveRecipe({ machine, filament, pins: hand(set) })
const grade = (v: number) => Math.max(0, Math.min(4, Math.round(v)))

test('temperature tower: hot bands string, cold ones snap; the best lies between, with its interval', () => {
  const out = outcome(
    trial('temperature-tower', (t) =>
      reading({
        strings: grade(4 - (t - 200) / 8),
        bonding: grade(4 - (212 - t) / 7),
        overhang: grade(4 - (t - 202) / 9),
        bridge: 3,
      }),
    ),
  )
  expect(out.kind).toBe('found')
  expect(out.best!).toBeGreaterThan(200)
  expect(out.best!).toBeLessThan(212)
  expect(out.low!).toBeLessThan(out.best!)
  expect(out.high!).toBeGreaterThan(out.best!)
  expect(out.adopt).toEqual([{ key: 'nozzle', value: Math.round(out.best!), plusMinus: expect.any(Number) }])
  expect(['strings', 'bonding', 'overhang']).toContain(out.decider)
  // what it says of suspects: the value in use above, within or below what was found
  expect(trialEvidence('temperature-tower', out, using({ nozzle: Math.ceil(out.high!) + 20 }))).toMatchObject(
    [
      { by: 'temperature-tower', suspect: 'nozzle-too-hot', found: true },
      { by: 'temperature-tower', suspect: 'nozzle-too-cold', found: false },
    ],
  )
  // the farther out, the more it says; close to the best it says little either way
  const says = (nozzle: number) => trialEvidence('temperature-tower', out, using({ nozzle }))[0].decibans!
  expect(says(Math.ceil(out.high!) + 20)).toBeGreaterThan(says(Math.ceil(out.high!)))
  expect(says(Math.round(out.best!))).toBeLessThanOrEqual(0)
  expect(
    trialEvidence('temperature-tower', out, using({ nozzle: Math.round(out.best!) })).map((e) => e.found),
  ).toEqual([false, false])
})

test('at the end of the range the next one is proposed; flat and contradicting readings are called so', () => {
  const rising = outcome(
    trial('temperature-tower', (t) => reading({ bonding: grade((t - 187) / 6) }), {
      from: 210,
      to: 190,
      count: 5,
    }),
  )
  expect(rising.kind).toBe('end')
  expect(Math.max(rising.next!.from, rising.next!.to)).toBeGreaterThan(210)
  expect(said(rising)[1]).toMatch(/^Print the next one from/)
  const flat = outcome(trial('temperature-tower', () => reading({ strings: 3, bonding: 3 })))
  const inUse = recipe.nozzle.value
  expect(flat).toMatchObject({ kind: 'found', best: inUse, adopt: [{ key: 'nozzle', value: inUse }] })
  // what makes no difference is not at work; what is better further on is, unless that is where it stands
  const says = (of: typeof flat, nozzle: number) =>
    Object.fromEntries(
      trialEvidence('temperature-tower', of, using({ nozzle })).map((e) => [e.suspect, e.decibans!]),
    )
  for (const decibans of Object.values(says(flat, 205))) expect(decibans).toBeLessThan(0)
  expect(says(rising, 195)['nozzle-too-cold']).toBeGreaterThan(0)
  expect(says(rising, 195)['nozzle-too-hot']).toBeLessThan(0)
  expect(says(rising, 210)['nozzle-too-cold']).toBeLessThanOrEqual(0)
  const wild = outcome(
    trial('temperature-tower', (_, i) => reading({ strings: [4, 1, 4, 1, 3, 1, 4][i] ?? 2 })),
  )
  expect(wild).toMatchObject({ kind: 'disagree', adopt: [] })
  expect(said(wild)[0]).toMatch(/^These readings disagree with each other/)
})

test('where nothing goes beyond the end that end is proposed, and a level is not taken for its lower edge', () => {
  // the label ends where the tower ends
  const top = Math.max(...trial('temperature-tower', () => null).cells.map((c) => c.values.nozzle!))
  const cold = outcome(trial('temperature-tower', (t) => reading({ bonding: grade(4 - (top - t) / 4) })))
  expect(cold).toMatchObject({ kind: 'found', next: null, adopt: [{ key: 'nozzle', value: top }] })
  expect(said(cold).join(' ')).toMatch(/cannot go further/)
  // nothing without a fan, and all alike with one: the answer lies among what is alike, not at the cliff
  const level = outcome(trial('fan-tower', (fan) => reading({ detail: fan < 30 ? 0 : 4, surface: 3 })))
  expect(level.adopt[0].key).toBe('fan')
  expect(level.adopt[0].value).toBeGreaterThan(50)
  expect(level.plateau![1]).toBe(100)
})

test('a fan tower tells the fans of walls, overhangs and bridges apart', () => {
  const out = outcome(
    trial('fan-tower', (fan) =>
      reading({
        bonding: grade(4.4 - (fan - 25) / 20),
        surface: 4,
        detail: fan < 40 ? 1 : 4,
        overhang: grade(fan / 20),
        bridge: grade(4 - (100 - fan) / 18),
      }),
    ),
  )
  const by = Object.fromEntries(out.adopt.map((a) => [a.key, a.value]))
  expect(by.fan).toBeLessThan(60)
  expect(by.fanOverhang).toBeGreaterThan(by.fan!)
  expect(by.fanBridge).toBeGreaterThan(by.fan!)
  expect(said(out).join(' ')).toMatch(/For overhang alone/)
  // never less than walls have
  const lazy = outcome(
    trial('fan-tower', (fan) => reading({ detail: grade(fan / 25), overhang: grade(4 - fan / 25) })),
  )
  for (const a of lazy.adopt) if (a.key !== 'fan') expect(a.value).toBeGreaterThanOrEqual(lazy.adopt[0].value)
})

test('between bands far apart a closer tower is proposed for the pull-back, round what was found', () => {
  const steps = { from: 1.5, to: 7.5, count: 9 }
  const out = outcome(
    trial(
      'retraction-tower',
      (l, i) => reading({ strings: grade(l >= 3.2 ? 4 - (i % 3 === 0 ? 1 : 0) : 4 - (3.2 - l) * 1.6) }),
      steps,
    ),
  )
  expect(out.kind).toBe('found')
  expect(out.next!.to - out.next!.from).toBeLessThan(2.5)
  expect(out.next!.from).toBeLessThan(out.best!)
  expect(out.next!.to).toBeGreaterThan(out.best!)
})

test('retraction: the shortest on the level, not the best-looking', () => {
  const out = outcome(
    trial('retraction-tower', (l) => reading({ strings: grade(l >= 4 ? 4 : 4 - (4 - l) * 1.2) })),
  )
  expect(out.kind).toBe('found')
  expect(out.best!).toBeGreaterThan(3)
  expect(out.best!).toBeLessThan(4.8)
  expect(out.adopt[0].key).toBe('retractLength')
  const more = outcome(trial('retraction-tower', (l) => reading({ strings: grade(l / 2.5) })))
  expect(more.kind).toBe('end')
  expect(more.next!.to).toBeGreaterThan(8)
})

const towerOf = (count: number) =>
  trial('retraction-tower', () => null, { from: 1.5, to: 1.5 + 0.5 * (count - 1), count })
const nineBands = towerOf(9)
/** A tower with these grades, the shortest length first. */
const pulled = (grades: readonly number[]) => {
  const lengths = nineBands.cells.map((c) => c.values.retractLength!).sort((p, q) => p - q)
  const readings = Object.fromEntries(
    nineBands.cells.map((c) => [
      c.id,
      reading({ strings: grades[lengths.indexOf(c.values.retractLength!)] }),
    ]),
  )
  return outcome({ ...nineBands, readings })
}
test.each([
  [[2, 4, 4, 4, 4, 4, 4, 4, 4], 2],
  [[2, 3, 4, 4, 4, 4, 4, 4, 4], 2],
  [[4, 4, 4, 4, 4, 4, 4, 4, 4], 1.5],
  [[0, 0, 4, 4, 4, 4, 4, 4, 4], 2.5],
])('retraction graded %j takes no length that was not clean', (grades, least) => {
  const out = pulled(grades)
  expect(out.kind).toBe('found')
  const [{ value }] = out.adopt.filter((a) => a.key === 'retractLength')
  expect(value).toBeGreaterThanOrEqual(least - 1e-9)
  expect(value).toBeLessThan(least + 1)
})
test('whatever the grades of a retraction tower, no length is taken that is plainly worse than the longer ones', () => {
  const law = (grades: number[]) => {
    const taken = pulled(grades).adopt.find((a) => a.key === 'retractLength')
    if (!taken) return
    // the printed length next to what is taken, and those beyond
    const at = Math.min(8, Math.max(0, Math.round((taken.value - 1.5) / 0.5)))
    const beyond = grades.slice(at + 1)
    if (beyond.length < 2) return
    const mean = beyond.reduce((a, b) => a + b, 0) / beyond.length
    expect([grades, taken.value, grades[at] > mean - 2]).toEqual([grades, taken.value, true])
  }
  // found by a random seed: a length graded 0 before one graded 4
  law([1, 1, 2, 3, 3, 0, 0, 1, 4])
  const nine = fc.array(fc.integer({ min: 0, max: 4 }), { minLength: 9, maxLength: 9 })
  fc.assert(fc.property(nine, law), tries(300))
})

test('a recipe that pulls nothing back is sent to a tower with the reason', () => {
  const reason = (retract: boolean) =>
    say(proposeSteps({ machine, filament, recipe: using({ retract }) }, 'retraction-tower').reason)
  expect(reason(false)).toMatch(/^Retraction is off in this recipe/)
  expect(reason(true)).not.toMatch(/off/)
})

test('a second factor by row is judged band by band', () => {
  const rows = (gain: number) => {
    const base = trial('retraction-tower', () => null)
    const plan: PiecePlan = { ...base.plan, across: { key: 'retractSpeed', from: 25, to: 45, count: 2 } }
    const { cells } = makePiece(pair, plan)
    const readings = Object.fromEntries(
      cells.map((c) => {
        const clean = Math.min(3, c.values.retractLength! - 1)
        return [c.id, reading({ strings: grade(clean + (c.values.retractSpeed === 45 ? gain : 0)) })]
      }),
    )
    return outcome({ number: 1, plan, cells, readings, resolution: 0.01 })
  }
  const better = rows(1)
  expect(said(better).at(-1)).toMatch(/^Retraction speed: 45/)
  expect(better.adopt.map((a) => [a.key, a.value])).toContainEqual(['retractSpeed', 45])
  expect(said(rows(0)).at(-1)).toMatch(/no difference that shows/)
})

test('flow from a wall, with the uncertainty worked by hand', () => {
  // four sides 0.86, 0.88, 0.87, 0.87 mm against 0.84 at 100 %: mean 0.87, s = 0.0081650, s/√4 = 0.0040825 (3 d.o.f.);
  // display 0.01/√12 = 0.0028868; caliper 0.02/√3 = 0.0115470. u = √(0.0040825² + 0.0028868² + 0.0115470²) = 0.0125835 mm.
  // flow = 96.5517 %; u = 96.5517 · 0.0125835/0.87 = 1.39650 %; ν = 1.39650⁴/(0.453071⁴/3) = 270.8; t = 1.96877; U = 2.7494 %.
  const f = flowFromWall([0.86, 0.88, 0.87, 0.87], 0.84, 100, 0.01)
  expect(f.value).toBeCloseTo(96.5517, 4)
  expect(f.u).toBeCloseTo(1.3965, 4)
  expect(f.dof).toBeCloseTo(270.8, 0)
  expect(f.expanded).toBeCloseTo(2.7494, 3)
  const out = outcome(
    trial('flow-box', (v, i) =>
      i === 0 ? reading({}, [0.9, 0.91, 0.9, 0.89]) : reading({ closed: grade(4 - Math.abs(v - 103) / 2) }),
    ),
  )
  expect(out.adopt.map((a) => a.key)).toEqual(['flow', 'flowSolid'])
  expect(out.adopt[1].value).toBeGreaterThan(101)
})

test('melt rate: the cap is a tenth below where a twentieth is lost', () => {
  const cells = trial('melt-rate-run', () => null).cells
  const nominal = cells[0].nominal!
  const cap = 12
  const out = outcome(
    trial('melt-rate-run', (r) => reading({}, [nominal * (r <= cap ? 0.99 : 0.99 - 0.025 * (r - cap))])),
  )
  expect(out.kind).toBe('found')
  expect(out.best!).toBeCloseTo(0.9 * (cap + (0.05 * 0.99) / 0.025), 0)
  // a first heap that carries what had run out before it does not spoil the others
  const odd = outcome(
    trial('melt-rate-run', (r, i) =>
      reading({}, [nominal * (i === 0 ? 1.3 : r <= cap ? 0.99 : 0.99 - 0.025 * (r - cap))]),
    ),
  )
  expect(odd.kind).toBe('found')
  expect(Math.abs(odd.adopt[0].value - 0.9 * (cap + 2))).toBeLessThan(0.8)
  expect(said(odd).join(' ')).toMatch(/is left out/)
  const all = outcome(trial('melt-rate-run', () => reading({}, [nominal * 0.99])))
  expect(all).toMatchObject({ kind: 'end', adopt: [] })
})

test('two factors at once: main effects, and only what stands out of the scatter is adopted', () => {
  // 2² with a centre-free repeat, worked by hand: y = 0.5 + 0.2·a, no effect of b
  const runs = [0, 1].flatMap((a) =>
    [0, 1].flatMap((b) =>
      [-0.01, 0.01].map((e) => ({ values: { earlyStop: a, wipe: b }, y: 0.5 + 0.2 * a + e })),
    ),
  )
  const [a, b] = mainEffects(runs, ['earlyStop', 'wipe'])!
  expect(a.effect).toBeCloseTo(0.2, 10)
  expect(a.p).toBeLessThan(1e-5)
  expect(b.effect).toBeCloseTo(0, 10)
  expect(b.p).toBeGreaterThan(0.5)
  expect(
    mainEffects(
      runs.map((r) => ({ ...r, values: { earlyStop: 1, wipe: 0 } })),
      ['earlyStop'],
    ),
  ).toBeNull()
  const out = outcome(
    trial('seam-columns', (early, i) => reading({ seam: grade(1 + early / 0.065 + (i >= 3 ? 1 : 0)) })),
  )
  expect(out.adopt.map((x) => x.key)).toContain('earlyStop')
})

test('seam columns: a best in the middle is found, and where nothing makes a difference nothing is offered', () => {
  const blank = trial('seam-columns', () => null)
  const stops = blank.cells.map((c) => c.values.earlyStop!)
  const middle = stops[1]
  const normal = normalStream(randomStream(20261202))
  const graded = (worth: (v: number) => number) =>
    outcome({
      ...blank,
      readings: Object.fromEntries(
        blank.cells.map((c, i) => [c.id, reading({ seam: grade(worth(stops[i]) + 0.55 * normal()) })]),
      ),
    })
  const runs = 200
  let found = 0
  let right = 0
  let offered = 0
  for (let k = 0; k < runs; k++) {
    const bent = graded((v) => (v === middle ? 3.6 : 1.4))
    if (bent.kind === 'found') found++
    if (bent.best === middle) right++
    if (graded(() => 2.5).adopt.length) offered++
  }
  expect(found / runs).toBeGreaterThan(0.8)
  expect(right / runs).toBeGreaterThan(0.8)
  expect(offered / runs).toBeLessThan(0.07)
})

test('ladders and combs: the smallest that turns, the widest that holds', () => {
  const joint = outcome(trial('joint-ladder', (g) => reading({ free: g > 0.25 ? 4 : 1 })))
  expect(joint).toMatchObject({ kind: 'found', best: 0.3 })
  // parts that print in place are drawn with 0.2 mm: each face moves by half of what is missing
  expect(joint.adopt).toMatchObject([{ key: 'contourOffset', value: -0.05 }])
  expect(outcome(trial('joint-ladder', () => reading({ free: 4 }))).adopt).toEqual([])
  const odd = outcome(trial('joint-ladder', (_, i) => reading({ free: i === 4 ? 0 : i > 1 ? 4 : 1 })))
  expect(odd.kind).toBe('disagree')
  expect(outcome(trial('bridge-comb', (s) => reading({ bridge: s > 35 ? 1 : 4 }))).best).toBe(30)
})

test('a ladder accuses the contour until its offset is in the recipe; lying joints alone accuse nothing', () => {
  const ladder = trial('joint-ladder', (g) => reading({ free: g > 0.25 ? 4 : 1 }))
  const says = (values: typeof recipe) =>
    Object.fromEntries(
      trialEvidence('joint-ladder', outcome(ladder), values).map((e) => [e.suspect, e.decibans!]),
    )
  expect(says(recipe)['contour-not-compensated']).toBeGreaterThan(8)
  expect(says(using({ contourOffset: -0.05 }))['contour-not-compensated']).toBeLessThan(-8)
  expect(says(using({ contourOffset: -0.02 }))['clearance-too-small']).toBeLessThan(
    says(recipe)['clearance-too-small'],
  )
  const lying = trial('joint-ladder', () => reading({ free: 4 }), {}, 1, { joints: ['round-lying'] })
  expect(outcome(lying).kind).toBe('found')
  expect(trialEvidence('joint-ladder', outcome(lying), recipe)).toEqual([])
})

test('kinds of joint are read apart: upright ones give the offset, lying ones say what to draw', () => {
  const every = { joints: [...JOINT_SHAPES] }
  const read = (grade: (c: Cell) => number) => {
    const base = trial('joint-ladder', () => null, {}, 1, every)
    return outcome({
      ...base,
      readings: Object.fromEntries(base.cells.map((c) => [c.id, reading({ free: grade(c) })])),
    })
  }
  // tongues need more than pins; everything turns freely a tenth later than it moves
  const out = read((c) => {
    const from = c.joint === 'flat-upright' ? 0.4 : c.joint === 'flat-lying' ? 0.39 : 0.2
    const gap = c.values.gap!
    return gap >= from + 0.095 ? 4 : gap >= from - 0.005 ? 3 : 1
  })
  expect(out).toMatchObject({ kind: 'found', best: 0.4 })
  expect(out.adopt).toMatchObject([{ key: 'contourOffset', value: -0.1 }])
  expect(out.reasons).toContainEqual(expect.objectContaining({ values: { snug: 0.2, free: 0.3 } }))
  expect(out.reasons.map((r) => say(r)).join(' ')).toMatch(/Lying tongue: leave 0.4\smm, which is 2\slayers/)
  // lying ones alone tell no offset
  const lying = read((c) => (c.joint!.endsWith('lying') ? 4 : 0))
  expect(lying.kind).toBe('end')
  expect(lying.adopt).toEqual([])
})

test('size plate: contour, scale and holes are told apart; scatter is not corrected; the plate is laid as drawn', () => {
  const sized = (error: (c: Cell) => number) => {
    const base = trial('size-plate', () => null)
    return outcome({
      ...base,
      readings: Object.fromEntries(
        base.cells.map((c, i) => [c.id, reading({}, [c.nominal! + error(c) + (i % 2 ? 0.004 : -0.004)])]),
      ),
    })
  }
  const flat = (c: Cell) => c.axis !== 'z'
  const ends = (c: Cell) => (c.axis === 'd1' || c.axis === 'd2' ? Math.SQRT2 : 1)
  const value = (o: Outcome, key: string) => o.adopt.find((a) => a.key === key)?.value
  const wide = sized((c) => (flat(c) && c.measure === 'outside' ? 0.12 * ends(c) : 0))
  expect(value(wide, 'contourOffset')).toBeCloseTo(-0.06, 2)
  expect(said(wide)[0]).toMatch(/^The contour: \+0\.1[12]/)
  const short = sized((c) => (flat(c) ? -0.004 * c.nominal! : 0))
  expect(value(short, 'scaleX')).toBeCloseTo(100.4, 1)
  expect(value(short, 'scaleY')).toBeCloseTo(100.4, 1)
  const narrow = sized((c) => (c.measure === 'inside' ? -0.2 : 0))
  expect(narrow.adopt.map((a) => a.key)).toEqual(['holeOffset'])
  expect(value(narrow, 'holeOffset')).toBeCloseTo(0.1, 2)
  const flared = sized((c) => (c.base ? 0.3 : 0))
  expect(value(flared, 'footTrim')).toBeCloseTo(0.15, 2)
  expect(sized(() => 0).kind).toBe('flat')
})

test.each([1, 1.6, 2.6])(
  'a hot end that gives out with a power of %d: the cap is found, near where a twentieth is lost, and its ± holds',
  (power) => {
    const random = randomStream(70 + 10 * power)
    const normal = normalStream(random)
    const blank = trial('melt-rate-run', () => null)
    const rates = blank.cells.map((c) => c.values.meltRate!)
    const [low, high] = [Math.min(...rates), Math.max(...rates)]
    let [answered, near, held, found] = [0, 0, 0, 0]
    const runs = 60
    for (let k = 0; k < runs; k++) {
      // a twentieth is lost somewhere in the middle, a fifth or more at the end
      const twentieth = low + (high - low) * (0.35 + 0.3 * random())
      const knee = twentieth * 0.6
      const share = (x: number) => 1 - 0.05 * (Math.max(0, x - knee) / (twentieth - knee)) ** power
      const readings = Object.fromEntries(
        blank.cells.map((c) => {
          const grams = c.nominal! * Math.max(0.25, share(c.values.meltRate!)) * (1 + 0.008 * normal())
          return [c.id, reading({}, [Number(grams.toFixed(2)) || 0.01])]
        }),
      )
      const out = outcome({ ...blank, readings })
      answered += Number(out.kind === 'found' || out.kind === 'end')
      if (out.kind !== 'found') continue
      found++
      near += Number(Math.abs(out.best! / (0.9 * twentieth) - 1) < 0.15)
      held += Number(out.low! <= 0.9 * twentieth && out.high! >= 0.9 * twentieth)
    }
    expect(answered / runs).toBeGreaterThanOrEqual(0.9)
    expect(near / found).toBeGreaterThanOrEqual(0.75)
    expect(held / found).toBeGreaterThanOrEqual(0.8)
  },
)

test('halves of a layer-time pair that are the same are told apart in one of twenty at most', () => {
  const normal = normalStream(randomStream(8))
  const runs = 300
  let found = 0
  for (let k = 0; k < runs; k++) {
    const at = () => grade(2.5 + 0.6 * normal())
    found += Number(
      outcome(trial('layer-time-pair', () => reading({ detail: at(), surface: at() }))).atWork === true,
    )
  }
  expect(found / runs).toBeLessThanOrEqual(0.08)
})

describe('layer-time pair', () => {
  const both = (two: number, one: number) =>
    trial('layer-time-pair', (posts) => {
      const g = posts === 2 ? two : one
      return reading({ detail: g, surface: g })
    })
  test('the time it carries at each half is the time the path reader finds there', () => {
    const p = proposeSteps(pair, 'layer-time-pair')
    const piece = makePiece(pair, { piece: 'layer-time-pair', steps: p.steps })
    const r = readPath(readGcode(Uint8Array.from(piece.gcode, (c) => c.charCodeAt(0))), {
      filamentDiameter: 1.75,
      density: 1.24,
      nozzleDiameter: 0.4,
      limits: machine.limits,
    })
    for (const c of piece.cells) {
      const middle = r.layers.z.findIndex((z) => z > (c.box.z0 + c.box.z1) / 2)
      expect(c.values.minLayerTime! / r.layers.seconds[middle]).toBeGreaterThan(0.9)
      expect(c.values.minLayerTime! / r.layers.seconds[middle]).toBeLessThan(1.02)
    }
    // twice the plastic takes about twice the time, and a travel
    const [two, one] = piece.cells.map((c) => c.values.minLayerTime!)
    expect(two / one).toBeGreaterThan(1.9)
    expect(two / one).toBeLessThan(2.5)
  })
  test('better two at a time: the time that did is taken over, with what was not tried as its ±', () => {
    const t = both(4, 1)
    const o = outcome(t)
    const [two, one] = t.cells.map((c) => c.values.minLayerTime!)
    expect(o.adopt).toHaveLength(1)
    expect(o.adopt[0].key).toBe('minLayerTime')
    expect(o.adopt[0].value).toBeGreaterThanOrEqual(two)
    expect(o.adopt[0].value).toBeLessThan(two + 0.5)
    expect(o.adopt[0].plusMinus).toBeCloseTo((two - one) / 2, 1)
    expect(trialEvidence('layer-time-pair', o, using({ minLayerTime: 5 }))).toEqual([
      { by: 'layer-time-pair', suspect: 'layer-time-too-short', found: true },
    ])
  })
  test('alike, or better but still bad: nothing is taken over', () => {
    expect(outcome(both(3, 3)).adopt).toEqual([])
    expect(said(outcome(both(3, 3)))[0]).toMatch(/look the same/)
    const bad = outcome(both(2, 0))
    expect(bad.adopt).toEqual([])
    expect(said(bad).join(' ')).toMatch(/more fan/)
  })
})

describe('bad readings get a sentence and never a fit that pretends', () => {
  const wall = (v: number) => outcome(trial('flow-box', (_, i) => (i === 0 ? reading({}, [v]) : null)))
  test.each([
    ['a wall of 40 mm', 40, /should be about 0\.\d+\smm: 40\smm cannot be that/],
    ['a negative one', -0.8, /above 0/],
    ['no number', NaN, /Enter a number/],
  ])('%s', (_, v, sentence) => {
    const out = wall(v)
    expect(out).toMatchObject({ kind: 'bad', adopt: [], best: null })
    expect(said(out)[0]).toMatch(sentence)
  })
  test('one band, nothing, and a grade that is none', () => {
    expect(
      outcome(trial('temperature-tower', (_, i) => (i === 0 ? reading({ strings: 3 }) : null))),
    ).toMatchObject({ kind: 'few', adopt: [] })
    expect(said(outcome(trial('temperature-tower', () => null)))[0]).toMatch(/^Nothing is graded/)
    expect(outcome(trial('temperature-tower', () => reading({ strings: 7 })))).toMatchObject({ kind: 'bad' })
    expect(outcome(trial('melt-rate-run', () => null)).kind).toBe('few')
  })
})

test('earlier trials of the same pair count half; a change between them is flagged', () => {
  const curve = (best: number) => (t: number) =>
    reading({ strings: grade(4 - Math.abs(t - best) / 4), bonding: 4 })
  const first = trial('temperature-tower', curve(200), {}, 1)
  const second = trial('temperature-tower', curve(206), {}, 2)
  const alone = outcome(second)
  const both = outcome(first, second)
  expect(both.points.length).toBe(alone.points.length * 2)
  expect(both.best!).toBeLessThan(alone.best!)
  const spoilt = trial(
    'temperature-tower',
    (t) => reading({ strings: grade(2.2 - Math.abs(t - 205) / 10), bonding: 2 }),
    {},
    3,
  )
  expect(say(outcome(second, spoilt).drift!)).toMatch(/something besides nozzle has changed/)
})

test('steps close in on what was found', () => {
  const wide = proposeSteps(pair, 'temperature-tower')
  const close = proposeSteps(pair, 'temperature-tower', undefined, {
    best: 205,
    low: 202,
    high: 208,
    trial: 4,
  })
  expect(Math.abs(close.steps.from - close.steps.to)).toBeLessThan(Math.abs(wide.steps.from - wide.steps.to))
  expect(say(close.reason)).toContain('trial 4')
})
