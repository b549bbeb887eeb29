import fc from 'fast-check'
import { diagnosisContextOf, type CaseDetail, type GivenDiagnosis, type PairDetail } from '@verimend/contract'
import { diagnoseCase, type Diagnosis } from '@verimend/core/casework'
import type { SignStates } from '@verimend/core/diagnosis'
import { CHECK_IDS, SIGN_IDS, SUSPECT_IDS, TRIAL_IDS, suspectOf } from '@verimend/core/knowledge'
import { tries } from '../../core/test/lib/property'
import { TestApp } from './harness'

// What a program is told over the API is what a person is shown on the bench.
const app = new TestApp('same', true)
beforeAll(() => app.start())
afterAll(() => app.stop())

/** The diagnosis as the screen's worker makes it, from what the API hands out. */
async function onScreen(id: string): Promise<Diagnosis> {
  const kase = (await app.get(`cases/${id}`)).body as CaseDetail
  const pair = (await app.get(`pairs/${kase.pairId}`)).body as PairDetail
  const context = diagnosisContextOf({
    pair,
    measurements: (await app.get(`measurements?machineId=${pair.machineId}&pairId=${pair.id}`)).body,
    trials: (await app.get(`trials?pairId=${kase.pairId}`)).body,
    lessons: (await app.get(`cases/lessons?pairId=${kase.pairId}`)).body,
    caseId: id,
    today: new Date().toISOString().slice(0, 10),
  })
  return diagnoseCase(kase, context)
}
/** What both have to agree on, number for number. */
const summed = (d: Diagnosis) => ({
  fit: d.balance.fitDecibans,
  suspects: d.balance.suspects.map((s) => [s.id, s.probability, s.weights.map((w) => w.decibans)]),
  next: d.plan.next && [d.plan.next.id, d.plan.next.expected, d.plan.next.saves],
  others: d.plan.others.map((s) => [s.id, s.expected]),
  mends: d.proposals.slice(0, 30).map((p) => [p.id, p.expectedMinutes]),
})
const told = (d: GivenDiagnosis): ReturnType<typeof summed> => ({
  fit: d.fitDecibans,
  suspects: d.suspects.map((s) => [s.id, s.probability, s.weights.map((w) => w.decibans)]),
  next: d.next && [d.next.id, d.next.expected, d.next.saves],
  others: d.others.map((s) => [s.id, s.expected]),
  mends: d.mends.map((p) => [p.id, p.expectedMinutes]),
})
async function agree(id: string): Promise<void> {
  const answer = await app.post('diagnosis', { caseId: id })
  expect(answer.status).toBe(200)
  expect(told(answer.body)).toEqual(JSON.parse(JSON.stringify(summed(await onScreen(id)))))
}

test('every case of the demo', async () => {
  const cases = (await app.get('cases')).body.cases as { id: string }[]
  expect(cases.length).toBeGreaterThan(6)
  for (const { id } of cases) await agree(id)
})

const signs = fc.uniqueArray(fc.constantFrom(...SIGN_IDS), { maxLength: 24 }).chain((ids) =>
  fc
    .array(fc.constantFrom('present' as const, 'absent' as const), {
      minLength: ids.length,
      maxLength: ids.length,
    })
    .map((states): SignStates => Object.fromEntries(ids.map((s, i) => [s, states[i]]))),
)
const looks = fc.array(
  fc.record({
    by: fc.constantFrom(...CHECK_IDS, ...TRIAL_IDS),
    suspect: fc.constantFrom(...SUSPECT_IDS),
    found: fc.boolean(),
  }),
  { maxLength: 3 },
)
const outcome = fc.constantFrom('gone', 'better', 'same', 'worse')

test('any case: signs, answers of checks, steps left out, an attempt and what came of it', async () => {
  const pairs = (await app.get('pairs')).body as { id: string }[]
  const handled = SUSPECT_IDS.filter((id) => suspectOf(id).mends[0]?.kind === 'handling')
  await fc.assert(
    fc.asyncProperty(
      fc.constantFrom(...pairs.map((p) => p.id)),
      signs,
      looks,
      fc.subarray(['check:cold-pull', 'trial:temperature-tower', 'look:strings-thin']),
      fc.option(fc.tuple(fc.constantFrom(...handled), outcome)),
      async (pairId, states, checks, cannot, attempt) => {
        const { id } = (await app.post('cases', { pairId, part: 'Peg' })).body as { id: string }
        for (const [sign, state] of Object.entries(states))
          await app.put(`cases/${id}/signs/${sign}`, { state })
        for (const { by, suspect, found } of checks)
          await app.put(`cases/${id}/checks/${by}`, { results: [{ suspect, found }] })
        await app.put(`cases/${id}/cannot`, { cannot })
        if (attempt) {
          const [suspect, result] = attempt
          const { current } = (await app.get(`pairs/${pairId}`)).body
          await app.post(`cases/${id}/attempts`, { base: current, mends: [{ proposal: `${suspect}/0` }] })
          const seen = Object.keys(states).filter((s) => states[s as keyof SignStates] === 'present')
          await app.post(`cases/${id}/attempts/1/outcome`, {
            results: Object.fromEntries(seen.map((s) => [s, result])),
            newSigns: [],
            note: '',
          })
        }
        await agree(id)
        await app.remove(`cases/${id}`)
      },
    ),
    tries(50),
  )
})

test('a repair takes the ground from earlier trials, here as on the screen', async () => {
  for (const { id: pairId } of (await app.get('pairs')).body as { id: string }[]) {
    const { id } = (await app.post('cases', { pairId, part: 'Peg' })).body as { id: string }
    await app.put(`cases/${id}/signs/strings-thin`, { state: 'present' })
    const { current } = (await app.get(`pairs/${pairId}`)).body
    await app.post(`cases/${id}/attempts`, { base: current, mends: [{ proposal: 'roll-unlike-family/0' }] })
    // begun, and looked at
    await agree(id)
    await app.post(`cases/${id}/attempts/1/outcome`, {
      results: { 'strings-thin': 'same' },
      newSigns: [],
      note: '',
    })
    await agree(id)
    await app.remove(`cases/${id}`)
  }
})
