import { FORMULA } from '../src/recipes/recipes.controller'
import { TestApp } from './harness'

const app = new TestApp('recipes', true)
beforeAll(() => app.start())
afterAll(() => app.stop())

interface Pair {
  id: string
  filamentId: string
  machineId: string
  current: number
}
const pairOf = async (name: string): Promise<Pair> => {
  const rolls = (await app.get('filaments')).body as { id: string; filament: { name: string } }[]
  const roll = rolls.find((r) => r.filament.name === name)!
  return ((await app.get('pairs')).body as Pair[]).find((p) => p.filamentId === roll.id)!
}
const raw = async (path: string) => {
  const r = await fetch(`http://127.0.0.1:${app.port}/api/${path}`)
  return {
    status: r.status,
    type: r.headers.get('content-type')!,
    name: r.headers.get('content-disposition'),
    bytes: Buffer.from(await r.arrayBuffer()),
  }
}

test('variants take only what follows the layer height, and versions keep them', async () => {
  const pair = await pairOf('Morning dew')
  const bad = await app.post(`pairs/${pair.id}/versions`, {
    base: pair.current,
    set: {},
    fine: { nozzle: 210 },
    reason: '',
  })
  expect(bad.status).toBe(422)
  expect(bad.body.detail).toMatch(/Nozzle does not change with the layer height/)
  const made = await app.post(`pairs/${pair.id}/versions`, {
    base: pair.current,
    set: { nozzle: 214 },
    coarse: { innerSpeed: 33 },
    measured: { nozzle: 2 },
    reason: 'Tower.',
  })
  expect(made.status).toBe(201)
  expect(made.body.values.nozzle).toMatchObject({ value: 214, source: 'measured', plusMinus: 2 })
  expect(made.body.variants.coarse.pins.innerSpeed.value).toBe(33)
  expect(made.body.changes).toContainEqual({
    key: 'innerSpeed',
    from: 40,
    to: 33,
    was: 'card',
    grade: 'coarse',
  })
  const next = await app.post(`pairs/${pair.id}/versions`, {
    base: made.body.number,
    set: { fan: 35 },
    reason: '',
  })
  expect(next.body.variants.coarse.pins.innerSpeed.value).toBe(33)
  const back = await app.post(`pairs/${pair.id}/restore`, { base: next.body.number, number: 1 })
  expect(back.body.variants.coarse.pins).toEqual({})
})

test('a new roll starts from the nearest tested recipe, marked as unproven; another or none can be chosen', async () => {
  const terracotta = await pairOf('Terracotta')
  const detail = (await app.get(`pairs/${terracotta.id}`)).body
  expect(detail.version.values.flow).toMatchObject({ value: 97.5, source: 'relative' })
  const list = (
    await app.get(`pairs/relatives?machineId=${terracotta.machineId}&filamentId=${terracotta.filamentId}`)
  ).body
  expect(list[0]).toMatchObject({ name: 'Fern green' })
  const none = await app.post(`pairs/${terracotta.id}/versions`, {
    base: detail.current,
    set: {},
    relative: null,
    reason: '',
  })
  expect(none.body.values.flow).toMatchObject({ value: 100, source: 'card' })
  const again = await app.post(`pairs/${terracotta.id}/versions`, {
    base: none.body.number,
    set: {},
    relative: list[0].pairId,
    reason: '',
  })
  expect(again.body.values.flow).toMatchObject({ value: 97.5, source: 'relative' })
  const wrong = await app.post(`pairs/${terracotta.id}/versions`, {
    base: again.body.number,
    set: {},
    relative: (await pairOf('Pond blue')).id,
    reason: '',
  })
  expect(wrong.status).toBe(422)
})

test('an acknowledged warning is kept with the pair and can be taken back', async () => {
  const pair = await pairOf('Fern green')
  const path = `pairs/${pair.id}/acknowledged`
  const fingerprint = 'retraction-short:x'
  expect((await app.post(path, { fingerprint, acknowledged: true })).body.acknowledged).toEqual([fingerprint])
  expect((await app.post(path, { fingerprint, acknowledged: false })).body.acknowledged).toEqual([])
})

test('readiness names every pair, what was measured, and what is worth doing next', async () => {
  const pond = await pairOf('Pond blue')
  const list = (await app.get('pairs/readiness')).body.pairs as {
    pairId: string
    aspects: { id: string; state: string }[]
    next: { by: string; reason: { code: string } }
  }[]
  const own = list.find((r) => r.pairId === pond.id)!
  expect(own.aspects.find((a) => a.id === 'flow')!.state).toBe('measured')
  expect(own.next.by).toBeTruthy()
  expect(own.next.reason.code).toBe('aspect-chance')
})

test('ways out: JSON, table, Markdown, G-code and a one-page PDF', async () => {
  const pond = await pairOf('Pond blue')
  const out = (form: string, grade = '') =>
    raw(`pairs/${pond.id}/versions/${pond.current}/recipe.${form}${grade}`)
  const json = await out('json')
  expect(JSON.parse(json.bytes.toString())).toMatchObject({ format: 'verimend-recipe', version: 2 })
  expect(json.name).toContain(`pond-blue-greenhouse-v${pond.current}.json`)
  const csv = (await out('csv', '?grade=fine')).bytes.toString()
  expect(csv.split('\r\n').length).toBeGreaterThan(85)
  expect((await out('md')).bytes.toString()).toContain('# Pond blue on Greenhouse')
  expect((await out('gcode')).bytes.toString()).toContain('M109 S')
  const pdf = await out('pdf')
  expect(pdf.bytes.subarray(0, 5).toString()).toBe('%PDF-')
  expect(pdf.bytes.toString('latin1').match(/\/Type \/Page\b/g)).toHaveLength(1)
  expect((await out('exe')).status).toBe(404)
  expect((await out('csv', '?grade=huge')).status).toBe(422)
  expect((await app.get('schema/recipe-2.json')).body.title).toContain('recipe')
})

test('no cell of a table is a formula, whatever sign it begins with; a number with its sign stays one', () => {
  for (const cell of ['=1+1', '+1+cmd', '-2*3', '@x', '\t=1', '＝1', '＋1', '－1', '＠x', ' =1', '-cmd'])
    expect([cell, FORMULA.test(cell)]).toEqual([cell, true])
  for (const cell of ['-0.05', '+3', '12', 'PLA', '0.2 mm', '−3', '', '-1,5'])
    expect([cell, FORMULA.test(cell)]).toEqual([cell, false])
})

test('written out, roll removed, taken in again: the roll is back and every value as it was; nothing is overwritten', async () => {
  const pond = await pairOf('Pond blue')
  const text = (await raw(`pairs/${pond.id}/versions/${pond.current}/recipe.json`)).bytes.toString()
  const before = (await app.get(`pairs/${pond.id}`)).body.version
  await app.remove(`filaments/${pond.filamentId}`)
  const preview = (await app.post('recipes/read', { text })).body
  expect(preview).toMatchObject({
    filament: { id: pond.filamentId, removed: true },
    differences: [],
    missing: [],
    ignored: [],
  })
  const taken = await app.post('recipes/import', {
    text,
    machineId: preview.machine.id,
    filamentId: preview.filament.id,
    base: preview.pair.current,
  })
  expect(taken.body).toMatchObject({ pairId: pond.id, shelved: true, before: null })
  expect((await app.get(`pairs/${pond.id}`)).body.version.values).toEqual(before.values)

  // changed meanwhile: the file's values come as a further version, single ones where asked for
  await app.post(`pairs/${pond.id}/versions`, {
    base: pond.current,
    set: { flow: 104, fan: 55 },
    reason: 'Trying.',
  })
  const later = (await app.post('recipes/read', { text })).body
  expect(later.differences.map((d: { key: string }) => d.key)).toEqual(
    expect.arrayContaining(['flow', 'fan']),
  )
  const stale = await app.post('recipes/import', {
    text,
    machineId: preview.machine.id,
    filamentId: pond.filamentId,
    base: pond.current,
  })
  expect(stale.status).toBe(409)
  const one = await app.post('recipes/import', {
    text,
    machineId: preview.machine.id,
    filamentId: pond.filamentId,
    base: later.pair.current,
    take: [{ key: 'flow', grade: 'standard' }],
  })
  const now = (await app.get(`pairs/${pond.id}`)).body.version
  expect(one.body.before).toBe(later.pair.current)
  expect(now.values.flow).toMatchObject({ value: 98, source: 'measured' })
  expect(now.values.fan.value).toBe(55)
})

test('a file goes to any pair: to another roll of its family with its values, to another plastic with only the machine’s', async () => {
  const fern = await pairOf('Fern green')
  const text = (await raw(`pairs/${fern.id}/versions/${fern.current}/recipe.json`)).bytes.toString()
  const rolls = (await app.get('filaments')).body as { id: string; filament: { name: string } }[]
  const roll = (name: string) => rolls.find((r) => r.filament.name === name)!.id
  const alike = (await app.post('recipes/read', { text, filamentId: roll('Terracotta') })).body
  expect(alike.filament).toMatchObject({ name: 'Terracotta', sameFamily: true })
  const flow = alike.differences.find((d: { key: string }) => d.key === 'flow')
  expect(flow === undefined || flow.to === 97.5).toBe(true)
  const other = (await app.post('recipes/read', { text, filamentId: roll('Pond blue') })).body
  expect(other.filament.sameFamily).toBe(false)
  // heats and feed stay the other plastic’s own
  for (const d of other.differences as { key: string }[])
    expect(['nozzle', 'bed', 'flow', 'retractLength', 'fan']).not.toContain(d.key)
  const taken = (
    await app.post('recipes/import', {
      text,
      machineId: alike.machine.id,
      filamentId: roll('Terracotta'),
      base: alike.pair?.current ?? null,
    })
  ).body
  const detail = (await app.get(`pairs/${taken.pairId}`)).body
  expect(detail.version.values.flow.value).toBe(97.5)
})

test('taken in on an empty shelf: machine and roll are made from the file, value for value', async () => {
  const pond = await pairOf('Pond blue')
  const file = JSON.parse((await raw(`pairs/${pond.id}/versions/4/recipe.json`)).bytes.toString())
  file.filament.name = 'River blue'
  file.machine.name = 'Cold frame'
  file.machine.nozzle.diameter = 0.6
  const text = JSON.stringify(file)
  const preview = (await app.post('recipes/read', { text })).body
  expect(preview).toMatchObject({ machine: { id: null }, filament: { id: null }, pair: null })
  const taken = (await app.post('recipes/import', { text, machineId: null, filamentId: null, base: null }))
    .body
  const made = (await app.get(`pairs/${taken.pairId}`)).body
  expect(made.filament.filament.name).toBe('River blue')
  const bare = (v: Record<string, { value: unknown; reason: unknown }>) =>
    Object.fromEntries(Object.entries(v).map(([k, r]) => [k, [r.value, r.reason]]))
  expect(bare(made.version.values)).toEqual(bare(file.settings))
})

test.each([
  ['{"a": 1', /no readable JSON/],
  ['{"format":"verimend-recipe","version":7,"reader":7}', /needs a newer Verimend/],
  ['x'.repeat(1_000_001), /larger than a recipe/],
])('a file that cannot be used changes nothing', async (text, sentence) => {
  const before = (await app.get('filaments')).body.length
  for (const path of ['recipes/read', 'recipes/import']) {
    const said = await app.post(path, { text, machineId: null, filamentId: null, base: null })
    expect(said.status).toBe(422)
    expect(said.body.detail).toMatch(sentence)
  }
  expect((await app.get('filaments')).body.length).toBe(before)
})
