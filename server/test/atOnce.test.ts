import { DEMO_MACHINES, demoFilaments } from '@verimend/core/demo'
import { PIECES } from '@verimend/core/trials'
import { SIGN_IDS } from '@verimend/core/knowledge'
import { Database } from '../src/database/database.module'
import { AttemptRow } from '../src/database/models'
import { TestApp } from './harness'

// What several windows, or one impatient finger, do at the same moment.
const app = new TestApp('at_once')
beforeAll(() => app.start())
afterAll(() => app.stop())

async function opened(...signs: string[]) {
  const m = await app.post('machines', { machine: DEMO_MACHINES.shed })
  const f = await app.post('filaments', { filament: demoFilaments('2026-01-01').fern })
  const pair = await app.post('pairs', { machineId: m.body.id, filamentId: f.body.id })
  const c = await app.post('cases', { pairId: pair.body.id, part: 'Peg' })
  for (const s of signs) await app.put(`cases/${c.body.id}/signs/${s}`, { state: 'present' })
  return { pair: pair.body.id as string, id: c.body.id as string }
}
const times = <T>(n: number, work: (i: number) => Promise<T>) =>
  Promise.all(Array.from({ length: n }, (_, i) => work(i)))
const statuses = (answers: { status: number }[]) => answers.map((a) => a.status).sort()

test('a double click on a mend makes one attempt and one version', async () => {
  const { pair, id } = await opened('strings-thin')
  const body = { base: 1, mends: [{ proposal: 'retraction-too-short/0', to: 5.6 }] }
  const answers = await times(6, () => app.post(`cases/${id}/attempts`, body))
  expect(answers.filter((a) => a.status === 201)).toHaveLength(1)
  expect(answers.every((a) => a.status < 500)).toBe(true)
  expect((await app.get(`cases/${id}`)).body.attempts).toHaveLength(1)
  expect((await app.get(`pairs/${pair}/versions`)).body).toHaveLength(2)
})

test('an outcome recorded twice is recorded once; the second says so, unless it is the same sent again', async () => {
  const { id } = await opened('strings-thin')
  await app.post(`cases/${id}/attempts`, { base: 1, mends: [{ proposal: 'nozzle-too-hot/0', to: 208 }] })
  const outcome = (result: string) => ({ results: { 'strings-thin': result }, newSigns: [], note: result })
  const answers = await times(4, (i) =>
    app.post(`cases/${id}/attempts/1/outcome`, outcome(i % 2 ? 'gone' : 'worse')),
  )
  const won = answers.find((a) => a.status < 300)!
  const notes = new Set(answers.filter((a) => a.status < 300).map((a) => a.body.attempts[0].note as string))
  expect(notes.size).toBe(1)
  expect(answers.filter((a) => a.body.code === 'recorded')).toHaveLength(2)
  const { attempts, signs } = (await app.get(`cases/${id}`)).body
  expect(attempts[0].note).toBe(won.body.attempts[0].note)
  expect(signs['strings-thin']).toBe(attempts[0].note === 'gone' ? 'absent' : 'present')
})

test('signs marked in two windows at once are all kept', async () => {
  const { id } = await opened()
  const all = ['strings-thin', 'blobs-on-wall', 'seam-line', 'ghosting', 'weak-layers', 'base-flare']
  await times(all.length, (i) => app.put(`cases/${id}/signs/${all[i]}`, { state: 'present' }))
  expect(Object.keys((await app.get(`cases/${id}`)).body.signs).sort()).toEqual([...all].sort())
})

test('every sign there is can be seen at once, and there is still a next step', async () => {
  const { id } = await opened()
  const answers = await times(SIGN_IDS.length, (i) =>
    app.put(`cases/${id}/signs/${SIGN_IDS[i]}`, { state: 'present' }),
  )
  expect(answers.map((a) => a.status)).toEqual(SIGN_IDS.map(() => 200))
  const { body } = await app.post('diagnosis', { caseId: id })
  expect(body.suspects.length).toBeGreaterThan(5)
  expect(body.next).not.toBeNull()
})

test('closing while another window changes the case: one of both, never half of each', async () => {
  const { id } = await opened('strings-thin')
  const { rev } = (await app.get(`cases/${id}`)).body
  const [close, sign] = await Promise.all([
    app.post(`cases/${id}/close`, { rev, keep: 1 }),
    app.put(`cases/${id}/signs/seam-line`, { state: 'present' }),
  ])
  const now = (await app.get(`cases/${id}`)).body
  if (now.status === 'closed') {
    expect(close.status).toBe(200)
    expect(sign.body.code).toBe('closed')
    expect(now.signs['seam-line']).toBeUndefined()
  } else {
    expect(close.status).toBe(409)
    expect(now.signs['seam-line']).toBe('present')
  }
})

test('trials begun at once get numbers of their own', async () => {
  const { pair } = await opened()
  const plan = { piece: 'string-posts', steps: { key: 'span', from: 40, to: 40, count: 1 } }
  const made = await times(5, () => app.post('trials', { pairId: pair, plan }))
  expect(statuses(made)).toEqual([201, 201, 201, 201, 201])
  expect(made.map((t) => t.body.number).sort()).toEqual([1, 2, 3, 4, 5])
})

test('a value taken over twice from a trial makes one version', async () => {
  const { pair } = await opened()
  const steps = { key: 'nozzle', from: 200, to: 225, count: 6 }
  const trial = (await app.post('trials', { pairId: pair, plan: { piece: 'temperature-tower', steps } })).body
  for (const c of trial.cells as { id: string; values: { nozzle: number } }[]) {
    const away = Math.abs(c.values.nozzle - 210) / 10
    const grade = Math.max(0, Math.round(4 - away * 3))
    const grades = Object.fromEntries(PIECES['temperature-tower'].criteria.map((k) => [k, grade]))
    const reading = { grades, measures: [], unsure: false, skipped: false, note: '' }
    expect((await app.put(`trials/${trial.id}/readings/${c.id}`, reading)).status).toBe(200)
  }
  const answers = await times(4, () => app.post(`trials/${trial.id}/adopt`, { base: 1, keys: ['nozzle'] }))
  expect(answers.filter((a) => a.status < 300)).toHaveLength(1)
  expect(answers.every((a) => a.status < 500)).toBe(true)
  const versions = (await app.get(`pairs/${pair}/versions`)).body
  expect(versions).toHaveLength(2)
})

test('two rolls with one id sent at once are one roll', async () => {
  const id = '33333333-3333-4333-8333-333333333333'
  const filament = demoFilaments('2026-01-01').pond
  const answers = await times(5, () => app.post('filaments', { id, filament }))
  expect(answers.every((a) => a.status < 300)).toBe(true)
  expect(new Set(answers.map((a) => a.body.id)).size).toBe(1)
})

test('pairs of one machine and one roll asked for at once are one pair', async () => {
  const m = await app.post('machines', { machine: DEMO_MACHINES.greenhouse })
  const f = await app.post('filaments', { filament: demoFilaments('2026-01-01').dew })
  const answers = await times(5, () => app.post('pairs', { machineId: m.body.id, filamentId: f.body.id }))
  expect(answers.every((a) => a.status < 300)).toBe(true)
  expect(new Set(answers.map((a) => a.body.id)).size).toBe(1)
})

test('more saves at once than there are connections: every pair gets its version', async () => {
  const m = await app.post('machines', { machine: DEMO_MACHINES.shed })
  const filament = demoFilaments('2026-01-01').fern
  const pairs: string[] = []
  for (let i = 0; i < 32; i++) {
    const f = await app.post('filaments', { filament: { ...filament, name: `Fern ${i}` } })
    const pair = await app.post('pairs', { machineId: m.body.id, filamentId: f.body.id, relative: null })
    pairs.push(pair.body.id)
  }
  const answers = await times(32, (i) =>
    app.post(`pairs/${pairs[i]}/versions`, { base: 1, set: { nozzle: 200 + i }, reason: `${i}` }),
  )
  // a request that cannot be served within two seconds is told so with a 503: none may be
  expect(statuses(answers)).toEqual(Array(32).fill(201))
  answers.forEach((a, i) => expect(a.body.values.nozzle.value).toBe(200 + i))
})

test('a request that gets no connection is told so in a sentence, and to come again', async () => {
  const { sequelize } = app.app.get(Database)
  const held = await Promise.all(Array.from({ length: 8 }, () => sequelize.transaction()))
  const [busy, alone] = await Promise.all([
    app.get('machines'),
    app.post('filaments', { filament: demoFilaments('2026-01-01').fern }),
  ])
  for (const answer of [busy, alone]) {
    expect(answer.status).toBe(503)
    expect(answer.body.code).toBe('busy')
    expect(answer.body.detail).toMatch(/try again in a second/)
    expect(answer.headers.get('retry-after')).toBe('1')
  }
  await Promise.all(held.map((t) => t.rollback()))
  expect((await app.get('machines')).status).toBe(200)
})

test('a change that fails half-way leaves nothing behind', async () => {
  const { pair, id } = await opened('strings-thin')
  // the version is written before the attempt, and the attempt cannot be
  const spy = jest.spyOn(AttemptRow, 'create').mockRejectedValueOnce(new Error('disk full'))
  const body = { base: 1, mends: [{ proposal: 'retraction-too-short/0', to: 5.6 }] }
  expect((await app.post(`cases/${id}/attempts`, body)).status).toBe(500)
  spy.mockRestore()
  expect((await app.get(`pairs/${pair}`)).body.current).toBe(1)
  expect((await app.get(`pairs/${pair}/versions`)).body).toHaveLength(1)
  expect((await app.post(`cases/${id}/attempts`, body)).status).toBe(201)
})

test('a change that made it worse is taken back with one request, and not twice', async () => {
  const { id, pair: pairId } = await opened('strings-thin')
  const before = (await app.get(`pairs/${pairId}`)).body
  const base = before.version.number as number
  const nozzle = before.version.values.nozzle.value as number
  const mend = { proposal: 'nozzle-too-hot/0', to: nozzle - 10 }
  await app.post(`cases/${id}/attempts`, { base, mends: [mend] })
  // begun and not printed: nothing to take back, and the chances are as before
  expect((await app.post(`cases/${id}/attempts/1/take-back`, {})).body.code).toBe('nothing-to-take-back')
  await app.post(`cases/${id}/attempts/1/outcome`, {
    results: { 'strings-thin': 'worse' },
    newSigns: [],
    note: '',
  })
  expect((await app.get(`pairs/${pairId}`)).body.version.values.nozzle.value).toBe(nozzle - 10)
  const answers = await times(2, () => app.post(`cases/${id}/attempts/1/take-back`, {}))
  expect(answers.filter((a) => a.status === 200)).toHaveLength(1)
  expect(answers.find((a) => a.status !== 200)!.body.code).toBe('nothing-to-take-back')
  const after = (await app.get(`pairs/${pairId}`)).body
  expect(after.version.values.nozzle.value).toBe(nozzle)
  expect((await app.get(`cases/${id}`)).body.attempts[0].results['strings-thin']).toBe('worse')
})

test('a roll that was dried for an attempt is noted as dried once it was looked at', async () => {
  const { id, pair } = await opened('strings-thin')
  const roll = async () => {
    const { filament } = (await app.get(`pairs/${pair}`)).body
    return filament.filament.dryings as { on: string; hours: number }[]
  }
  const before = await roll()
  await app.post(`cases/${id}/attempts`, { base: 1, mends: [{ proposal: 'filament-wet/0' }] })
  expect(await roll()).toEqual(before)
  const told = { results: { 'strings-thin': 'gone' }, newSigns: [], note: '' }
  await times(3, () => app.post(`cases/${id}/attempts/1/outcome`, told))
  const after = await roll()
  expect(after).toHaveLength(before.length + 1)
  expect(after.at(-1)!.hours).toBeGreaterThan(0)
})
