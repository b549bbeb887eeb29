import type { CaseDetail, PartRecord, PartSummary, Trial } from '@verimend/contract'
import { USUAL_LAYOUT } from '@verimend/core/planner'
import { createHash } from 'node:crypto'
import { TestApp } from './harness'

const app = new TestApp('parts', true)
let hinge: PartRecord
beforeAll(async () => {
  await app.start()
  const all = (await app.get('parts')).body as PartSummary[]
  hinge = (await app.get(`parts/${all.find((p) => p.name === 'Vent hinge')!.id}`)).body
})
afterAll(() => app.stop())

const BODY = Buffer.from('solid part\nendsolid part\n')
const sha256 = createHash('sha256').update(BODY).digest('hex')
const mesh = (over: object = {}) => ({
  sha256,
  fileName: 'clip.stl',
  bytes: BODY.length,
  unit: 'mm',
  faces: 12,
  size: [10, 20, 30],
  volume: 6000,
  mended: 0,
  ...over,
})
async function keep(): Promise<void> {
  await app.post('blobs', { sha256, bytes: BODY.length })
  await fetch(`http://127.0.0.1:${app.port}/api/blobs/${sha256}?from=0`, { method: 'PUT', body: BODY })
  expect((await app.post('blobs/finish', { sha256, bytes: BODY.length })).body.done).toBe(true)
}

test('a part needs its file; it is kept by id once, gets versions, is changed by revision, removed and brought back', async () => {
  const early = await app.post('parts', { name: 'Clip', mesh: mesh() })
  expect([early.status, early.body.code]).toEqual([422, 'file-not-there'])
  await keep()
  const id = '7b3b7a52-6c1e-4a3f-9d51-0d9f1f7b2c11'
  const made = (await app.post('parts', { id, name: 'Clip', mesh: mesh() })).body as PartRecord
  expect(made).toMatchObject({ id, rev: 1, layout: USUAL_LAYOUT, own: {} })
  // sent twice, as on a shaky network
  expect((await app.post('parts', { id, name: 'Clip', mesh: mesh() })).body.versions).toHaveLength(1)
  const layout = { ...USUAL_LAYOUT, turn: 30, withoutTab: [{ x: 1, y: 2 }], copies: 3 }
  const edit = { rev: 1, name: 'Clip, stout', note: 'thin arm', layout, own: { brimLines: 6 } }
  const changed = (await app.put(`parts/${id}`, edit)).body as PartRecord
  expect(changed).toMatchObject({ rev: 2, name: 'Clip, stout', layout, own: { brimLines: 6 } })
  const late = await app.put(`parts/${id}`, edit)
  expect([late.status, late.body.current.name]).toEqual([409, 'Clip, stout'])
  // the same file is no new version, the same file in inches is one; places told on the old one go
  expect((await app.post(`parts/${id}/versions`, { mesh: mesh() })).body.versions).toHaveLength(1)
  const inches = (await app.post(`parts/${id}/versions`, { mesh: mesh({ unit: 'inch' }) })).body as PartRecord
  expect(inches.versions.map((v) => [v.number, v.unit])).toEqual([
    [1, 'mm'],
    [2, 'inch'],
  ])
  expect(inches.layout).toMatchObject({ turn: 30, withoutTab: [] })
  const names = async () => ((await app.get('parts')).body as PartSummary[]).map((p) => p.name)
  await app.remove(`parts/${id}`)
  expect(await names()).not.toContain('Clip, stout')
  await app.post(`parts/${id}/restore`)
  expect(await names()).toContain('Clip, stout')
})

test('bad layouts are refused at their field in a sentence', async () => {
  const base = { rev: hinge.rev, name: 'Vent hinge', note: '', layout: USUAL_LAYOUT, own: {} }
  for (const [field, over] of [
    ['layout.copies', { layout: { ...USUAL_LAYOUT, copies: 1000 } }],
    ['layout.scale', { layout: { ...USUAL_LAYOUT, scale: 0 } }],
    ['layout.placement.3', { layout: { ...USUAL_LAYOUT, placement: Array(12).fill(1e9) } }],
    ['name', { name: '   ' }],
    ['own', { own: { brimLines: 'many' } }],
  ] as const) {
    const { status, body } = await app.put(`parts/${hinge.id}`, { ...base, ...over })
    expect([field, status]).toEqual([field, 422])
    const paths = (body.fields as { path: string; message: string }[]).map((f) => f.path)
    expect(paths.some((p) => p.startsWith(field.split('.')[0]))).toBe(true)
  }
})

test('a case names its part, the part lists its cases; a plan that was taken is remembered once', async () => {
  const [{ id: caseId, pairId }] = hinge.cases
  const kase = (await app.get(`cases/${caseId}`)).body as CaseDetail
  expect(kase.partId).toBe(hinge.id)
  expect((await app.put(`cases/${caseId}/part`, { partId: null })).body.partId).toBeNull()
  expect((await app.get(`parts/${hinge.id}`)).body.cases).toEqual([])
  expect((await app.put(`cases/${caseId}/part`, { partId: caseId })).status).toBe(404)
  await app.put(`cases/${caseId}/part`, { partId: hinge.id })
  const plan = {
    id: '0d6c1c4e-8a57-4be4-a3a5-6a1a6c8f9f10',
    pairId,
    recipe: 1,
    version: 1,
    minutes: 41,
    grams: 7.5,
  }
  await app.post(`parts/${hinge.id}/plans`, plan)
  const twice = (await app.post(`parts/${hinge.id}/plans`, plan)).body as PartRecord
  expect(twice.plans).toHaveLength(1)
})

test('a trial on the part itself: bands of its height, the same file each time, refused where bands are too low', async () => {
  const [{ pairId }] = hinge.cases
  const [{ sha256: file, unit }] = hinge.versions
  const onPart = {
    partId: hinge.id,
    name: hinge.name,
    version: 1,
    sha256: file,
    unit,
    layout: USUAL_LAYOUT,
    own: {},
    from: 0.5,
    to: 8.4,
  }
  const steps = { key: 'nozzle', from: 225, to: 205, count: 5 }
  const made = await app.post('trials', {
    pairId,
    caseId: null,
    plan: { piece: 'temperature-tower', steps, onPart },
  })
  expect(made.status).toBe(201)
  const trial = made.body as Trial
  expect(trial.cells.map((c) => c.values.nozzle)).toEqual([225, 220, 215, 210, 205])
  for (const [i, c] of trial.cells.entries())
    if (i) expect(c.box.z0).toBeCloseTo(trial.cells[i - 1].box.z1, 2)
  const gcode = async () =>
    (await fetch(`http://127.0.0.1:${app.port}/api/trials/${trial.id}/piece.gcode`)).text()
  const text = await gcode()
  for (const heat of [225, 220, 215, 210, 205]) expect(text).toContain(`M104 S${heat}`)
  expect(await gcode()).toBe(text)
  const many = await app.post('trials', {
    pairId,
    caseId: null,
    plan: { piece: 'temperature-tower', steps: { ...steps, count: 9 }, onPart: { ...onPart, to: 3 } },
  })
  expect([many.status, many.body.detail]).toEqual([422, expect.stringContaining('bands are too many')])
  const other = await app.post('trials', {
    pairId,
    caseId: null,
    plan: { piece: 'flow-box', steps: { key: 'flow', from: 95, to: 105, count: 1 }, onPart },
  })
  expect(other.status).toBe(422)
})
