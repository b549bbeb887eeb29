import type { CaseDetail, MeasurementRecord, PairDetail } from '@verimend/contract'
import { TestApp } from './harness'

const app = new TestApp('elsewhere', true)
beforeAll(() => app.start())
afterAll(() => app.stop())

const pairs = async (): Promise<PairDetail[]> => {
  const list = (await app.get('pairs')).body as { id: string }[]
  return Promise.all(list.map(async (p) => (await app.get(`pairs/${p.id}`)).body as PairDetail))
}
const pairNow = async (id: string) => (await app.get(`pairs/${id}`)).body as PairDetail
const caseNow = async (id: string) => (await app.get(`cases/${id}`)).body as CaseDetail
async function openCase(pairId: string, ...signs: string[]): Promise<string> {
  const { id } = (await app.post('cases', { pairId, part: 'Hose clip' })).body as CaseDetail
  for (const sign of signs) await app.put(`cases/${id}/signs/${sign}`, { state: 'present' })
  return id
}
const cube = (v: number) => ({
  kind: 'sizes',
  instrument: { kind: 'caliper', resolution: 0.01 },
  wanted: [],
  readings: ['x', 'y', 'z'].map((axis) => ({
    id: axis,
    name: `Along ${axis}`,
    axis,
    kind: 'outside',
    place: 'above',
    round: false,
    nominal: 20,
    measures: axis === 'z' ? [20, 20] : [v, v],
  })),
})
const hand = (id: string, base: number, set: object) =>
  app.post(`pairs/${id}/versions`, { base, set, reason: '' })

test('what is measured for a case is its attempt: printed next, recorded, and the case closes on it', async () => {
  const [pair] = await pairs()
  const id = await openCase(pair.id, 'outside-too-big', 'error-constant')
  const { machineId, current } = pair
  const made = (
    await app.post('measurements', { machineId, pairId: pair.id, caseId: id, measured: cube(20.2) })
  ).body as MeasurementRecord
  const taken = await app.post(`measurements/${made.id}/adopt`, { base: current, keys: ['contourOffset'] })
  expect(taken.status).toBe(200)
  const kase = await caseNow(id)
  expect(kase.attempts).toMatchObject([
    {
      number: 1,
      fromVersion: current,
      toVersion: current + 1,
      results: null,
      mends: [
        {
          kind: 'setting',
          key: 'contourOffset',
          to: -0.1,
          suspect: 'contour-not-compensated',
          found: { kind: 'measurement', id: made.id },
        },
      ],
    },
  ])
  const recorded = await app.post(`cases/${id}/attempts/1/outcome`, {
    results: { 'outside-too-big': 'gone', 'error-constant': 'gone' },
    newSigns: [],
    note: '',
  })
  expect(recorded.status).toBe(201)
  const { rev } = await caseNow(id)
  const closed = await app.post(`cases/${id}/close`, { rev, keep: current + 1 })
  expect(closed.body).toMatchObject({ status: 'closed', keptVersion: current + 1 })
  const { cases } = (await app.get('cases?status=closed&limit=50')).body as {
    cases: { id: string; causes: string[] }[]
  }
  expect(cases.find((c) => c.id === id)?.causes).toEqual(['contour-not-compensated'])
})

test('what is found while an attempt waits to be looked at joins it, and both are taken back together', async () => {
  const pair = (await pairs())[1]
  const id = await openCase(pair.id, 'outside-too-big', 'holes-too-small')
  const was = await pairNow(pair.id)
  const at = was.version.values
  const first = await app.post(`cases/${id}/attempts`, {
    base: was.current,
    mends: [{ proposal: 'flow-too-high/0', to: (at.flow.value as number) - 3 }],
  })
  expect(first.status).toBe(201)
  const { current } = await pairNow(pair.id)
  const made = (
    await app.post('measurements', {
      machineId: pair.machineId,
      pairId: pair.id,
      caseId: id,
      measured: cube(20.3),
    })
  ).body as MeasurementRecord
  await app.post(`measurements/${made.id}/adopt`, { base: current, keys: ['contourOffset'] })
  const { attempts } = await caseNow(id)
  expect(attempts).toHaveLength(1)
  expect(attempts[0]).toMatchObject({ fromVersion: was.current, toVersion: current + 1 })
  expect(attempts[0].mends.map((m) => m.kind === 'setting' && m.key)).toEqual(['flow', 'contourOffset'])
  await app.remove(`cases/${id}/attempts/1`)
  const { values } = (await pairNow(pair.id)).version
  expect([values.flow.value, values.contourOffset.value]).toEqual([at.flow.value, at.contourOffset.value])
})

test('a recipe that was changed elsewhere is taken up; one that was not, or helps against nothing, is said', async () => {
  const pair = (await pairs())[2]
  const id = await openCase(pair.id, 'strings-thin')
  const same = await app.post(`cases/${id}/attempts/take-up`, {
    change: { from: 'recipe', base: pair.current },
  })
  expect([same.status, same.body.code]).toEqual([422, 'nothing-moved'])
  const nozzle = pair.version.values.nozzle.value as number
  await hand(pair.id, pair.current, { nozzle: nozzle - 10 })
  const { current } = await pairNow(pair.id)
  const late = await app.post(`cases/${id}/attempts/take-up`, {
    change: { from: 'recipe', base: pair.current },
  })
  expect(late.status).toBe(409)
  const taken = await app.post(`cases/${id}/attempts/take-up`, { change: { from: 'recipe', base: current } })
  // what only followed the nozzle is no change of its own
  expect((taken.body as CaseDetail).attempts[0].mends).toMatchObject([
    { key: 'nozzle', from: nozzle, to: nozzle - 10, suspect: 'nozzle-too-hot', found: { kind: 'recipe' } },
  ])
  await app.remove(`cases/${id}/attempts/1`)
  const back = await pairNow(pair.id)
  expect(back.version.values.nozzle.value).toBe(nozzle)
  await hand(pair.id, back.current, { skirtLoops: 3 })
  const none = await app.post(`cases/${id}/attempts/take-up`, {
    change: { from: 'recipe', base: (await pairNow(pair.id)).current },
  })
  expect([none.status, none.body.code]).toEqual([422, 'fixes-nothing'])
})

test('a case that is closed or removed is left alone, whatever is found for it', async () => {
  const pair = (await pairs())[3]
  for (const end of ['close', 'remove'] as const) {
    const id = await openCase(pair.id, 'outside-too-big')
    const { current } = await pairNow(pair.id)
    const made = (
      await app.post('measurements', {
        machineId: pair.machineId,
        pairId: pair.id,
        caseId: id,
        measured: cube(end === 'close' ? 20.2 : 20.5),
      })
    ).body as MeasurementRecord
    const { rev } = await caseNow(id)
    if (end === 'close') await app.post(`cases/${id}/close`, { rev, keep: current })
    else await app.remove(`cases/${id}`)
    const taken = await app.post(`measurements/${made.id}/adopt`, { base: current, keys: ['contourOffset'] })
    expect(taken.status).toBe(200)
    expect((await caseNow(id)).attempts).toEqual([])
  }
})

test('a part that is planned otherwise in a case is its attempt, without a version of the recipe', async () => {
  const pair = (await pairs())[4]
  const id = await openCase(pair.id, 'corners-lift')
  const parts = (await app.get('parts')).body as { id: string }[]
  const brim = pair.version.values.brimLines.value as number
  const change = {
    from: 'part',
    partId: parts[0].id,
    changes: [{ key: 'brimLines', from: brim, to: brim + 12 }],
    turned: true,
  }
  const taken = (await app.post(`cases/${id}/attempts/take-up`, { change })).body as CaseDetail
  const { current } = await pairNow(pair.id)
  expect(taken.partId).toBe(parts[0].id)
  expect(taken.attempts).toMatchObject([{ number: 1, fromVersion: current, toVersion: current }])
  expect(taken.attempts[0].mends.map((m) => (m.kind === 'setting' ? m.key : m.procedure))).toEqual([
    'brimLines',
    'turn-part',
  ])
  const bad = await app.post(`cases/${id}/attempts/take-up`, {
    change: { ...change, changes: [{ key: 'brimLines', from: 0, to: 100_000 }] },
  })
  expect(bad.status).toBe(422)
  const gone = await app.post(`cases/${id}/attempts/take-up`, {
    change: { ...change, partId: '00000000-0000-4000-8000-000000000000' },
  })
  expect(gone.status).toBe(404)
})
