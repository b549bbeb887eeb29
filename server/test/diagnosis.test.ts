import { DEMO_MACHINES, demoFilaments } from '@verimend/core/demo'
import { TestApp } from './harness'

const app = new TestApp('diagnosis', true)
beforeAll(() => app.start())
afterAll(() => app.stop())

test('signs by id in, ranked suspects, reasons and advised steps out', async () => {
  const said = await app.post('diagnosis', {
    machine: DEMO_MACHINES.shed,
    filament: demoFilaments('2026-01-01').terracotta,
    recipe: { retractLength: 2 },
    signs: { 'strings-thin': 'present', 'popping-or-steam': 'absent' },
  })
  expect(said.status).toBe(200)
  expect(said.body.suspects[0].id).toBe('retraction-too-short')
  expect(said.body.suspects[0].weights[0].words).toMatch(/under what this extruder/)
  expect(said.body.next.words.length).toBeGreaterThan(0)
  expect(said.body.mends[0]).toMatchObject({ key: 'retractLength', from: 2 })
  // "I can't do that" re-plans
  const other = await app.post('diagnosis', {
    machine: DEMO_MACHINES.shed,
    filament: demoFilaments('2026-01-01').terracotta,
    recipe: { retractLength: 2 },
    signs: { 'strings-thin': 'present', 'popping-or-steam': 'absent' },
    cannot: [said.body.next.id],
  })
  expect(other.body.next.id).not.toBe(said.body.next.id)
})

test('by pair; bad ids get one sentence', async () => {
  const pairs = (await app.get('pairs')).body as { id: string }[]
  const ok = await app.post('diagnosis', { pairId: pairs[0].id, signs: { 'corners-lift': 'present' } })
  expect(ok.body.suspects.length).toBeGreaterThan(40)
  expect((await app.post('diagnosis', { signs: {} })).body.detail).toBe(
    'Name a case or a pair, or give a machine and a filament.',
  )
  const bad = await app.post('diagnosis', { pairId: pairs[0].id, signs: { 'no-such': 'present' } })
  expect(bad.status).toBe(422)
})

test('a check’s answers, steps left out and learning are kept with the case', async () => {
  const pairs = (await app.get('pairs')).body as { id: string }[]
  const made = (await app.post('cases', { pairId: pairs[0].id, part: 'Peg' })).body
  const checked = await app.put(`cases/${made.id}/checks/listen-nozzle`, {
    results: [{ suspect: 'filament-wet', found: true }],
  })
  expect(checked.body.checks).toEqual([{ by: 'listen-nozzle', suspect: 'filament-wet', found: true }])
  const back = await app.put(`cases/${made.id}/checks/listen-nozzle`, {
    results: [{ suspect: 'filament-wet', found: null }],
  })
  expect(back.body.checks).toEqual([])
  expect((await app.put(`cases/${made.id}/checks/guessing`, { results: [] })).status).toBe(422)
  expect((await app.put(`cases/${made.id}/cannot`, { cannot: ['check:cold-pull'] })).body.cannot).toEqual([
    'check:cold-pull',
  ])
  // the demo's closed case teaches about its pair; and can be taken out of the learning
  const coupling = (
    (await app.get('cases')).body.cases as { id: string; part: string; pairId: string; causes: string[] }[]
  ).find((c) => c.part === 'Hose coupling')!
  expect(coupling.causes).toEqual(['first-layer-overfed'])
  const lessons = (await app.get(`cases/lessons?pairId=${coupling.pairId}`)).body
  expect(lessons[0]).toMatchObject({
    caseId: coupling.id,
    causes: ['first-layer-overfed'],
    samePair: true,
    learns: true,
  })
  await app.put(`cases/${coupling.id}/learns`, { learns: false })
  expect((await app.get(`cases/lessons?pairId=${coupling.pairId}`)).body[0].learns).toBe(false)
  const summary = await fetch(`http://127.0.0.1:${app.port}/api/cases/${coupling.id}/summary.md`)
  const text = await summary.text()
  expect(text).toMatch(/## The cause\n\nFirst layer overfed\./)
  expect(text).toMatch(/Flow, first layer 120/)
})

test('a designed set is begun from mends, graded print by print, and its files carry each run’s settings', async () => {
  const pairs = (await app.get('pairs')).body as { id: string }[]
  const made = (await app.post('cases', { pairId: pairs[0].id, part: 'Peg' })).body
  const factors = [
    { proposal: 'nozzle-too-hot/0', levels: [212, 202] },
    { proposal: 'retraction-too-short/0', levels: [3, 5] },
  ]
  const body = { design: 'two-by-two', sign: 'strings-thin', factors }
  const begun = await app.post(`cases/${made.id}/sets`, body)
  expect(begun.status).toBe(201)
  const [set] = begun.body.sets
  expect(set.factors.map((f: { key: string }) => f.key)).toEqual(['nozzle', 'retractLength'])
  for (const [i, grade] of [0, 0, 4, 4].entries())
    await app.put(`cases/${made.id}/sets/${set.id}/runs/${i + 1}`, { grade })
  expect((await app.get(`cases/${made.id}`)).body.sets[0].grades).toEqual([0, 0, 4, 4])
  const file = await fetch(
    `http://127.0.0.1:${app.port}/api/cases/${made.id}/sets/${set.id}/runs/2/posts.gcode`,
  ).then((r) => r.text())
  expect(file).toMatch(/^M104 S202$/m)
  expect(file).toMatch(/^G1 E-3 /m)
  expect((await app.put(`cases/${made.id}/sets/${set.id}/runs/5`, { grade: 1 })).status).toBe(404)
  const wrong = { ...body, factors: [factors[0], { proposal: 'nozzle-too-cold/0', levels: [212, 217] }] }
  expect((await app.post(`cases/${made.id}/sets`, wrong)).body.detail).toMatch(/same setting/)
  expect((await app.post(`cases/${made.id}/sets`, { ...body, factors: factors.slice(0, 1) })).status).toBe(
    422,
  )
  expect((await app.remove(`cases/${made.id}/sets/${set.id}`)).body.sets).toEqual([])
})
