import { readGcode } from '@verimend/core/gcode'
import { say } from '@verimend/core/words'
import { TestApp } from './harness'

const app = new TestApp('trials', true)
beforeAll(() => app.start())
afterAll(() => app.stop())

const pairOf = async (name: RegExp) => {
  const pairs = (await app.get('pairs')).body as { id: string }[]
  for (const p of pairs) {
    const one = (await app.get(`pairs/${p.id}`)).body
    if (name.test(one.filament.filament.name)) return one
  }
  throw new Error('no such pair')
}
const tower = { piece: 'temperature-tower', steps: { key: 'nozzle', from: 225, to: 195, count: 7 } }
const none = { measures: [], unsure: false, skipped: false, note: '' }

test('a tower is written, read band by band, fitted, and its best kept as measured', async () => {
  const pair = await pairOf(/Terracotta/)
  const made = await app.post('trials', { pairId: pair.id, plan: tower })
  expect(made.status).toBe(201)
  expect(made.body).toMatchObject({ number: 1, version: pair.current, adoptedVersion: null })
  expect(made.body.grams).toBeGreaterThan(2)
  const file = await fetch(`http://127.0.0.1:${app.port}/api/trials/${made.body.id}/piece.gcode`)
  expect(file.headers.get('content-disposition')).toContain('temperature-tower-1.gcode')
  const text = await file.text()
  expect(text).toContain(`; Trial 1, ${made.body.id}`)
  const heats = readGcode(Buffer.from(text)).states.map((s) => s.nozzle)
  for (const c of made.body.cells) expect(heats).toContain(c.values.nozzle)
  // half of it first: nothing is lost, nothing pretended
  for (const c of made.body.cells.slice(0, 2))
    await app.put(`trials/${made.body.id}/readings/${c.id}`, { ...none, grades: { strings: 1 } })
  const early = await app.post(`trials/${made.body.id}/adopt`, { base: pair.current, keys: ['nozzle'] })
  expect(early.status).toBe(422)
  expect(early.body.detail).toMatch(/Only 2 bands are graded/)
  for (const c of made.body.cells) {
    const t = c.values.nozzle as number
    const g = (v: number) => Math.max(0, Math.min(4, Math.round(v)))
    await app.put(`trials/${made.body.id}/readings/${c.id}`, {
      ...none,
      grades: { strings: g(4 - (t - 202) / 7), bonding: g(4 - (214 - t) / 6) },
    })
  }
  const done = await app.post(`trials/${made.body.id}/adopt`, { base: pair.current, keys: ['nozzle'] })
  expect(done.status).toBe(200)
  const after = (await app.get(`pairs/${pair.id}`)).body
  expect(done.body.adoptedVersion).toBe(after.current)
  const kept = after.version.values.nozzle
  expect(kept.source).toBe('measured')
  expect(kept.plusMinus).toBeGreaterThan(0)
  expect(say(kept.reason)).toMatch(/^Trial 1, temperature tower: The best value is/)
  expect(kept.value).toBeGreaterThan(200)
  expect(kept.value).toBeLessThan(216)
  // what depends on it follows; and the pair's diagnosis knows
  expect(after.version.values.nozzleFirst.value).toBe(kept.value)
  const said = await app.post('diagnosis', { pairId: pair.id, signs: { 'strings-thin': 'present' } })
  const hot = said.body.suspects.find((s: { id: string }) => s.id === 'nozzle-too-hot')
  expect(JSON.stringify(hot.weights)).toMatch(/Temperature tower: it is not so/)
  // an old base is a conflict that shows what stands
  expect(
    (await app.post(`trials/${made.body.id}/adopt`, { base: pair.current, keys: ['nozzle'] })).status,
  ).toBe(409)
})

test('trials are counted per pair, listed, put away and brought back', async () => {
  const pair = await pairOf(/Slate/)
  const id = '22222222-2222-4222-8222-222222222222'
  const body = {
    id,
    pairId: pair.id,
    plan: { piece: 'string-posts', steps: { key: 'span', from: 40, to: 40, count: 1 } },
  }
  await app.post('trials', body)
  expect((await app.post('trials', body)).body.number).toBe(1) // the same request again
  expect((await app.post('trials', { ...body, id: undefined })).body.number).toBe(2)
  await app.remove(`trials/${id}`)
  expect((await app.get(`trials?pairId=${pair.id}`)).body).toHaveLength(1)
  await app.post(`trials/${id}/restore`)
  expect((await app.get(`trials?pairId=${pair.id}`)).body).toHaveLength(2)
})

test.each([
  ['too hot for the machine', { ...tower, steps: { ...tower.steps, from: 400 } }, /out of bounds/],
  ['forty bands', { ...tower, steps: { ...tower.steps, count: 19 } }, /3 to 9 steps/],
  ['both ends alike', { ...tower, steps: { ...tower.steps, to: 225 } }, /nothing would change/],
  ['no such piece', { ...tower, piece: 'castle' }, /no such test piece/],
  ['no number', { ...tower, steps: { ...tower.steps, from: 'hot' } }, /The first step is a number/],
])('a plan that is %s gets a sentence', async (_, plan, sentence) => {
  const pair = await pairOf(/Slate/)
  const bad = await app.post('trials', { pairId: pair.id, plan })
  expect(bad.status).toBe(422)
  expect(bad.body.detail).toMatch(sentence)
})

test.each([
  ['text', { ...none, grades: {}, measures: ['wide'] }, /Enter a number/],
  ['negative', { ...none, grades: {}, measures: [-1] }, /above 0/],
  ['a grade of 9', { ...none, grades: { strings: 9 } }, /from 0 to 4/],
])('a reading that is %s is refused, and what stood there stays', async (_, reading, sentence) => {
  const pair = await pairOf(/Slate/)
  const [trial] = (await app.get(`trials?pairId=${pair.id}`)).body
  await app.put(`trials/${trial.id}/readings/gap`, { ...none, grades: { strings: 2 } })
  const bad = await app.put(`trials/${trial.id}/readings/gap`, reading)
  expect(bad.status).toBe(422)
  expect(bad.body.detail).toMatch(sentence)
  expect((await app.get(`trials/${trial.id}`)).body.readings.gap.grades).toEqual({ strings: 2 })
  expect((await app.put(`trials/${trial.id}/readings/roof`, { ...none, grades: {} })).status).toBe(404)
})

test('fused joints: the ladder gives a contour offset, a read plate holes and scale, both kept as measured', async () => {
  const pair = await pairOf(/Fern/)
  const ladder = (
    await app.post('trials', {
      pairId: pair.id,
      plan: { piece: 'joint-ladder', steps: { key: 'gap', from: 0.1, to: 0.6, count: 6 } },
    })
  ).body
  for (const c of ladder.cells as { id: string; values: { gap: number } }[])
    await app.put(`trials/${ladder.id}/readings/${c.id}`, {
      ...none,
      grades: { free: c.values.gap > 0.25 ? 4 : 0 },
    })
  const freed = await app.post(`trials/${ladder.id}/adopt`, { base: pair.current, keys: ['contourOffset'] })
  expect(freed.status).toBe(200)
  const now = (await app.get(`pairs/${pair.id}`)).body
  expect(now.version.values.contourOffset).toMatchObject({ value: -0.05, source: 'measured' })

  const plate = (
    await app.post('trials', {
      pairId: pair.id,
      plan: { piece: 'size-plate', steps: { key: 'length', from: 10, to: 60, count: 4 } },
    })
  ).body
  const cells = plate.cells as {
    id: string
    nominal: number
    measure: string
    axis: string
    base?: boolean
  }[]
  expect(cells.some((c) => c.axis === 'd1') && cells.some((c) => c.base)).toBe(true)
  for (const [i, c] of cells.entries())
    await app.put(`trials/${plate.id}/readings/${c.id}`, {
      ...none,
      grades: {},
      measures: [
        Number(
          (
            c.nominal * (c.axis === 'z' ? 1 : 0.994) -
            (c.measure === 'inside' ? 0.2 : 0) +
            (i % 2 ? 0.01 : -0.01)
          ).toFixed(2),
        ),
      ],
    })
  const sized = await app.post(`trials/${plate.id}/adopt`, {
    base: now.current,
    keys: ['holeOffset', 'scaleX', 'scaleY'],
  })
  expect(sized.status).toBe(200)
  const { values } = (await app.get(`pairs/${pair.id}`)).body.version
  expect(values.holeOffset.value).toBeCloseTo(0.1, 1)
  expect(values.scaleX.value).toBeCloseTo(100.6, 1)
})

test('a length that is found where nothing is pulled back turns retraction on, so that it takes effect', async () => {
  const pair = await pairOf(/Slate/)
  await app.post(`pairs/${pair.id}/versions`, {
    base: pair.current,
    set: { retract: false },
    reason: 'without',
  })
  const off = (await app.get(`pairs/${pair.id}`)).body
  expect(off.version.values.retract.value).toBe(false)
  const plan = {
    piece: 'retraction-tower',
    steps: { key: 'retractLength', from: 0.4, to: 2, count: 9 },
  }
  const made = await app.post('trials', { pairId: pair.id, plan })
  for (const c of made.body.cells)
    await app.put(`trials/${made.body.id}/readings/${c.id}`, {
      ...none,
      grades: { strings: c.values.retractLength < 0.9 ? 1 : 4 },
    })
  const done = await app.post(`trials/${made.body.id}/adopt`, { base: off.current, keys: ['retractLength'] })
  expect(done.status).toBe(200)
  const { values } = (await app.get(`pairs/${pair.id}`)).body.version
  expect(values.retract.value).toBe(true)
  expect(values.retractLength.value).toBeCloseTo(1, 1)
  expect(values.retractLength.source).toBe('measured')
})
