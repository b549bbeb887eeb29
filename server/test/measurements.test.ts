import type { MeasurementRecord, PairDetail } from '@verimend/contract'
import { TestApp } from './harness'

const app = new TestApp('measurements', true)
let pair: PairDetail
beforeAll(async () => {
  await app.start()
  const rolls = (await app.get('filaments')).body as { id: string; filament: { name: string } }[]
  const pairs = (await app.get('pairs')).body as { id: string; filamentId: string }[]
  const roll = rolls.find((r) => r.filament.name === 'Terracotta')!
  pair = (await app.get(`pairs/${pairs.find((p) => p.filamentId === roll.id)!.id}`)).body
})
afterAll(() => app.stop())

const cube = (x: number, y: number, z: number) => ({
  kind: 'sizes',
  instrument: { kind: 'caliper', resolution: 0.01 },
  wanted: [],
  readings: [
    ['x', x],
    ['y', y],
    ['z', z],
  ].map(([axis, v]) => ({
    id: axis,
    name: `Along ${axis}`,
    axis,
    kind: 'outside',
    place: 'above',
    round: false,
    nominal: 20,
    measures: [v, v],
  })),
})
const begin = (measured: object, pairId: string | null = pair.id) =>
  app.post('measurements', { machineId: pair.machineId, pairId, measured })

test('a measurement is kept, changed with its revision, removed and brought back', async () => {
  const made = (await begin(cube(20.2, 20.2, 20))).body as MeasurementRecord
  expect(made).toMatchObject({ rev: 1, version: pair.current, acted: null })
  const changed = await app.put(`measurements/${made.id}`, {
    rev: 1,
    measured: cube(20.1, 20.1, 20),
    note: 'cold',
  })
  expect(changed.body).toMatchObject({ rev: 2, note: 'cold' })
  const late = await app.put(`measurements/${made.id}`, { rev: 1, measured: cube(21, 21, 20), note: '' })
  expect(late.status).toBe(409)
  // sent again because its answer was lost, it stands there already
  const again = await app.put(`measurements/${made.id}`, {
    rev: 1,
    measured: changed.body.measured,
    note: 'cold',
  })
  expect([again.status, again.body.note]).toEqual([200, 'cold'])
  // one who has seen what stands there says so by leaving the revision out
  const over = await app.put(`measurements/${made.id}`, { measured: cube(21, 21, 20), note: '' })
  expect(over.body).toMatchObject({ rev: 3, note: '' })
  const list = () => app.get(`measurements?machineId=${pair.machineId}&pairId=${pair.id}`)
  const ids = async () => ((await list()).body as MeasurementRecord[]).map((m) => m.id)
  expect(await ids()).toContain(made.id)
  await app.remove(`measurements/${made.id}`)
  expect(await ids()).not.toContain(made.id)
  await app.post(`measurements/${made.id}/restore`)
  expect(await ids()).toContain(made.id)
})

test('values go into a new version as measured, with their ±; scale or contour, never both', async () => {
  const made = (await begin(cube(20.2, 20.2, 20))).body as MeasurementRecord
  const both = await app.post(`measurements/${made.id}/adopt`, {
    base: pair.current,
    keys: ['contourOffset', 'scaleX'],
  })
  expect([both.status, both.body.code]).toEqual([422, 'one-or-other'])
  const none = await app.post(`measurements/${made.id}/adopt`, { base: pair.current, keys: ['nozzle'] })
  expect(none.status).toBe(422)
  const done = await app.post(`measurements/${made.id}/adopt`, {
    base: pair.current,
    keys: ['contourOffset'],
  })
  expect(done.body.acted).toEqual({ version: pair.current + 1, what: 'recipe' })
  const { version } = (await app.get(`pairs/${pair.id}`)).body as PairDetail
  expect(version.values.contourOffset).toMatchObject({ value: -0.1, source: 'measured' })
  expect(version.values.contourOffset.plusMinus).toBeGreaterThan(0)
  const other = (await begin(cube(19.6, 19.6, 20))).body as MeasurementRecord
  const stale = await app.post(`measurements/${other.id}/adopt`, {
    base: pair.current,
    keys: ['contourOffset'],
  })
  expect(stale.status).toBe(409)
})

test('a levelled bed and corrected steps are noted on the machine, once; a weighed roll on the roll', async () => {
  const gaps = [20, 110, 200].flatMap((x) =>
    [20, 110, 200].map((y) => ({ x, y, feel: x < 50 ? 'tight' : 'drags', gap: null })),
  )
  const bed = (await begin({ kind: 'bed', from: 'felt', sheet: 0.1, gaps })).body as MeasurementRecord
  const levelled = await app.post(`measurements/${bed.id}/apply`, { what: 'levelled' })
  expect(levelled.body.acted).toEqual({ version: null, what: 'levelled' })
  expect((await app.post(`measurements/${bed.id}/apply`, { what: 'levelled' })).status).toBe(422)
  const machine = async () => ((await app.get(`pairs/${pair.id}`)).body as PairDetail).machine.machine
  // turned, it is another bed: unknown until it is measured again
  expect((await machine()).bed).toMatchObject({ printsSinceLevel: 0, residual: null })
  const sides = gaps.map((g) => ({ ...g, feel: null, gap: g.x < 50 ? 0.35 : 0.1 }))
  const again = (await begin({ kind: 'bed', from: 'felt', sheet: 0.1, gaps: sides }))
    .body as MeasurementRecord
  await app.post(`measurements/${again.id}/apply`, { what: 'as-it-lies' })
  const { residual } = (await machine()).bed
  expect(residual).toBeCloseTo(0.25, 3)
  // three places in a row say nothing of a plane
  const few = (await begin({ kind: 'bed', from: 'felt', sheet: 0.1, gaps: gaps.slice(0, 3) }))
    .body as MeasurementRecord
  expect((await app.post(`measurements/${few.id}/apply`, { what: 'as-it-lies' })).status).toBe(422)
  expect((await machine()).bed.residual).toBe(residual)
  const feed = (await begin({ kind: 'feed', asked: 100, fed: [95, 95.1], steps: 93 }, null))
    .body as MeasurementRecord
  await app.post(`measurements/${feed.id}/apply`, { what: 'steps' })
  expect((await machine()).drive.steps).toBeCloseTo(93 * (100 / 95.05), 1)
  const roll = (await begin({ kind: 'roll', gross: 640, spool: 190 })).body as MeasurementRecord
  await app.post(`measurements/${roll.id}/apply`, { what: 'weight' })
  const { filament } = ((await app.get(`pairs/${pair.id}`)).body as PairDetail).filament
  expect(filament.weightLeft).toBe(450)
})

test.each([
  [
    'text for a number',
    { ...cube(20, 20, 20), readings: [{ ...cube(1, 1, 1).readings[0], measures: ['x'] }] },
  ],
  ['a negative size', { ...cube(20, 20, 20), readings: [{ ...cube(1, 1, 1).readings[0], measures: [-2] }] }],
  ['an unknown kind', { kind: 'wish' }],
  ['a grid beyond any bed', { kind: 'bed', from: 'grid', points: [{ x: 1, y: 1, z: 99, u: 0.01 }] }],
  ['too many heights', { kind: 'bands', heights: Array.from({ length: 300 }, (_, i) => i), spacing: null }],
])('%s is refused with a sentence, and nothing is kept', async (_, measured) => {
  const before = ((await app.get('measurements')).body as unknown[]).length
  const answer = await begin(measured)
  expect(answer.status).toBe(422)
  expect(answer.body.detail).toMatch(/[.]$/)
  expect(((await app.get('measurements')).body as unknown[]).length).toBe(before)
})

test('an axis that goes too far is the machine’s: its steps are noted, beside what went into the recipe, and accuse no more', async () => {
  const of = (axis: 'x' | 'y', nominal: number, off: number) => ({
    id: `${axis}${nominal}`,
    name: `${axis} ${nominal}`,
    axis,
    kind: 'outside',
    place: 'above',
    round: false,
    nominal,
    measures: [Number((nominal + 0.16 + off).toFixed(2)), Number((nominal + 0.16 + off).toFixed(2))],
  })
  const measured = {
    ...cube(20, 20, 20),
    readings: [20, 40, 80].flatMap((l) => [of('x', l, 0.01 * l), of('y', l, 0)]),
  }
  const { current } = (await app.get(`pairs/${pair.id}`)).body as PairDetail
  const made = (await begin(measured)).body as MeasurementRecord
  const right = (await begin(cube(20.01, 20, 20))).body as MeasurementRecord
  expect((await app.post(`measurements/${right.id}/apply`, { what: 'steps' })).status).toBe(422)
  const kept = await app.post(`measurements/${made.id}/adopt`, { base: current, keys: ['contourOffset'] })
  expect(kept.status).toBe(200)
  const noted = await app.post(`measurements/${made.id}/apply`, { what: 'steps' })
  expect(noted.body.acted).toEqual({ version: current + 1, what: 'steps' })
  expect((await app.post(`measurements/${made.id}/apply`, { what: 'steps' })).status).toBe(422)
})

test('diameters at several places go onto the roll and into the recipe; far-off ones do not', async () => {
  const places = [
    { a: 1.7, b: 1.72 },
    { a: 1.71, b: null },
    { a: 1.7, b: 1.71 },
  ]
  const made = (await begin({ kind: 'diameter', places, resolution: 0.01 })).body as MeasurementRecord
  expect((await app.post(`measurements/${made.id}/apply`, { what: 'diameter' })).status).toBe(200)
  const taken = await app.post(`measurements/${made.id}/adopt`, {
    base: ((await app.get(`pairs/${pair.id}`)).body as PairDetail).current,
    keys: ['diameter'],
  })
  expect(taken.status).toBe(200)
  const { filament, version } = (await app.get(`pairs/${pair.id}`)).body as PairDetail
  expect(filament.filament.measured).toEqual(places)
  expect(version.values.diameter.value).toBeCloseTo(1.708, 2)
  const far = (await begin({ kind: 'diameter', places: [{ a: 2.85, b: null }], resolution: 0.01 }))
    .body as MeasurementRecord
  const refused = await app.post(`measurements/${far.id}/apply`, { what: 'diameter' })
  expect([refused.status, refused.body.code]).toEqual([422, 'diameter-far'])
  const empty = (await begin({ kind: 'diameter', places: [], resolution: 0.01 })).body as MeasurementRecord
  expect((await app.post(`measurements/${empty.id}/apply`, { what: 'diameter' })).status).toBe(422)
})
