import { request } from 'node:http'
import { DEMO_MACHINES, demoFilaments } from '@verimend/core/demo'
import { said } from '@verimend/core/quantity'
import { sayAll } from '@verimend/core/words'
import { hostOf } from '../src/http/guard'
import { readConfig } from '../src/config'
import type { VersionSummary } from '@verimend/contract'
import { TestApp } from './harness'

const app = new TestApp('api')
beforeAll(() => app.start())
afterAll(() => app.stop())

const roll = demoFilaments('2026-01-01').fern
const machine = DEMO_MACHINES.shed
async function newPair() {
  const m = await app.post('machines', { machine })
  const f = await app.post('filaments', { filament: roll })
  const pair = await app.post('pairs', { machineId: m.body.id, filamentId: f.body.id })
  return { m: m.body, f: f.body, pair: pair.body }
}
async function newCase(signs: Record<string, string>) {
  const { pair } = await newPair()
  const c = await app.post('cases', { pairId: pair.id, part: 'Clip' })
  for (const [s, state] of Object.entries(signs)) await app.put(`cases/${c.body.id}/signs/${s}`, { state })
  return { pair, id: c.body.id as string }
}

describe('shelf and machines', () => {
  test('add, edit, remove, undo', async () => {
    const made = await app.post('filaments', { filament: roll })
    expect(made.status).toBe(201)
    expect(made.body.filament).toEqual(roll)
    const edited = await app.put(`filaments/${made.body.id}`, { rev: 1, filament: { ...roll, name: 'Moss' } })
    expect(edited.body).toMatchObject({ rev: 2, filament: { name: 'Moss' } })
    await app.remove(`filaments/${made.body.id}`)
    expect((await app.get('filaments')).body.map((f: { id: string }) => f.id)).not.toContain(made.body.id)
    await app.post(`filaments/${made.body.id}/restore`)
    expect((await app.get('filaments')).body.map((f: { id: string }) => f.id)).toContain(made.body.id)
  })
  test('the same request twice makes one roll', async () => {
    const id = '11111111-1111-4111-8111-111111111111'
    await app.post('filaments', { id, filament: roll })
    await app.post('filaments', { id, filament: roll })
    expect((await app.get('filaments')).body.filter((f: { id: string }) => f.id === id)).toHaveLength(1)
  })
  test('two windows: the later one gets both sides', async () => {
    const made = await app.post('machines', { machine })
    await app.put(`machines/${made.body.id}`, { rev: 1, machine: { ...machine, name: 'First' } })
    const late = await app.put(`machines/${made.body.id}`, {
      rev: 1,
      machine: { ...machine, name: 'Second' },
    })
    expect(late.status).toBe(409)
    expect(late.headers.get('content-type')).toMatch(/problem\+json/)
    expect(late.body).toMatchObject({ code: 'conflict', current: { machine: { name: 'First' } } })
  })
  test.each([
    ['a name of 10,000 characters', { name: 'x'.repeat(10_000) }, 'name'],
    ['no name', { name: '   ' }, 'name'],
    ['an upside-down range', { label: { ...roll.label, nozzle: { min: 230, max: 200 } } }, 'label.nozzle'],
    ['a family nobody knows', { family: 'cheese' }, 'family'],
    ['a diameter far off', { measured: [{ a: 2.6, b: null }] }, 'measured'],
    ['a day that is none', { openedOn: 'soon' }, 'openedOn'],
    ['more left than there was', { weightLeft: 5000 }, 'weightLeft'],
  ])('%s gets one sentence and the field', async (_, change, field) => {
    const bad = await app.post('filaments', { filament: { ...roll, ...change } })
    expect(bad.status).toBe(422)
    expect(bad.body.detail).toMatch(/^[A-Z].*\.$/)
    expect(bad.body.fields[0].path).toBe(`filament.${field}`)
  })
  test('numbers that JSON cannot hold, broken JSON and huge bodies are refused without harm', async () => {
    const text = JSON.stringify({ filament: roll })
    expect((await app.call('POST', 'filaments', text.replace('1000', '1e999'))).status).toBe(422)
    expect((await app.call('POST', 'filaments', text.replace('1000', 'NaN'))).status).toBe(400)
    const huge = await app.call('POST', 'filaments', `{"filament":"${'x'.repeat(9_000_000)}"}`)
    expect(huge.status).toBe(413)
    expect(huge.body.detail).toMatch(/more than the server takes/)
  })
  test('markup stays text', async () => {
    const name = '<img src=x onerror=alert(1)>'
    expect((await app.post('filaments', { filament: { ...roll, name } })).body.filament.name).toBe(name)
  })
})

describe('recipes', () => {
  test('a pair gets its first recipe, once', async () => {
    const { m, f, pair } = await newPair()
    expect(pair).toMatchObject({ current: 1, nozzle: 0.4 })
    expect(pair.version.values.nozzle).toMatchObject({ value: 213, source: 'label' })
    const again = await app.post('pairs', { machineId: m.id, filamentId: f.id })
    expect(again.body.id).toBe(pair.id)
  })
  test('every change is a new version; the old one stays; an older base is a conflict with both sides', async () => {
    const { pair } = await newPair()
    const v2 = await app.post(`pairs/${pair.id}/versions`, {
      base: 1,
      set: { nozzle: 205 },
      reason: 'Cleaner.',
    })
    expect(v2.body).toMatchObject({ number: 2, parent: 1, reason: said('Cleaner.') })
    expect(v2.body.changes).toContainEqual({ key: 'nozzle', from: 213, to: 205, was: 'label' })
    expect(v2.body.values.nozzleFirst.value).toBe(205) // follows
    const late = await app.post(`pairs/${pair.id}/versions`, { base: 1, set: { nozzle: 220 }, reason: '' })
    expect(late.status).toBe(409)
    expect(late.body.current.number).toBe(2)
    expect((await app.get(`pairs/${pair.id}/versions/1`)).body.values.nozzle.value).toBe(213)
    const back = await app.post(`pairs/${pair.id}/restore`, { base: 2, number: 1 })
    expect(back.body).toMatchObject({ number: 3, values: { nozzle: { value: 213 } } })
  })
  test('ten windows at once: one wins, nine hear of it, no number is used twice', async () => {
    const { pair } = await newPair()
    const answers = await Promise.all(
      Array.from({ length: 10 }, (_, i) =>
        app.post(`pairs/${pair.id}/versions`, { base: 1, set: { flow: 90 + i }, reason: '' }),
      ),
    )
    expect(answers.filter((a) => a.status === 201)).toHaveLength(1)
    expect(answers.filter((a) => a.status === 409)).toHaveLength(9)
    expect((await app.get(`pairs/${pair.id}/versions`)).body).toHaveLength(2)
  })
  test('values outside the registry or the machine are refused with their field', async () => {
    const { pair } = await newPair()
    const change = (set: object) => app.post(`pairs/${pair.id}/versions`, { base: 1, set, reason: '' })
    expect((await change({ nozzle: 'hot' })).body.fields[0].path).toBe('set.nozzle')
    expect((await change({ constructor: 1 })).body.fields[0].message).toMatch(/no such setting/)
    expect((await change({ nozzle: 300 })).body.detail).toMatch(/Potting shed goes up to 260/)
  })
})

describe('cases', () => {
  test('from a sign to a kept recipe', async () => {
    const { pair, id } = await newCase({ 'strings-thin': 'present', 'popping-or-steam': 'absent' })
    const tried = await app.post(`cases/${id}/attempts`, {
      base: 1,
      mends: [{ proposal: 'retraction-too-short/0', to: 5.6 }],
    })
    expect(tried.body.attempts[0]).toMatchObject({
      number: 1,
      fromVersion: 1,
      toVersion: 2,
      mends: [{ key: 'retractLength', from: 5.1, to: 5.6 }],
    })
    const early = await app.post(`cases/${id}/attempts`, {
      base: 2,
      mends: [{ proposal: 'nozzle-too-hot/0', to: 208 }],
    })
    expect(early.body.detail).toMatch(/Record first what came of attempt 1/)
    const half = await app.post(`cases/${id}/attempts/1/outcome`, { results: {}, newSigns: [], note: '' })
    expect(half.body.fields[0].path).toBe('results.strings-thin')
    const seen = await app.post(`cases/${id}/attempts/1/outcome`, {
      results: { 'strings-thin': 'gone' },
      newSigns: ['seam-gap'],
      note: 'Clean.',
    })
    expect(seen.body.signs).toMatchObject({ 'strings-thin': 'absent', 'seam-gap': 'present' })
    const closed = await app.post(`cases/${id}/close`, { rev: seen.body.rev, keep: 2 })
    expect(closed.body).toMatchObject({ status: 'closed', keptVersion: 2 })
    expect(sayAll(closed.body.learnt)).toMatch(/Retraction length 5\.1.*→.*5\.6/)
    expect((await app.get(`pairs/${pair.id}`)).body.version.values.retractLength).toMatchObject({
      value: 5.6,
      source: 'mend',
    })
    expect((await app.put(`cases/${id}/signs/seam-gap`, { state: null })).body.code).toBe('closed')
    // back on a later part: it goes on, what was noted stays, and what was changed had only made it better
    expect((await app.post(`cases/${id}/reopen`, { back: ['no-such-sign'] })).status).toBe(422)
    const back = (await app.post(`cases/${id}/reopen`, { back: ['strings-thin'] })).body
    expect(back).toMatchObject({ status: 'open', keptVersion: null, learnt: null })
    expect(back.signs).toMatchObject({ 'strings-thin': 'present', 'seam-gap': 'present' })
    expect(back.attempts[0].results).toEqual({ 'strings-thin': 'gone' })
    const left = await app.post(`cases/${id}/close`, { rev: back.rev, keep: 2 })
    expect(sayAll(left.body.learnt)).toMatch(/better/)
    expect(sayAll(closed.body.learnt)).not.toMatch(/better/)
    expect((await app.post(`cases/${id}/reopen`)).body.signs).toEqual(left.body.signs)
  })
  test('a mend changes what it names, whatever machine and roll have become since', async () => {
    const { pair, id } = await newCase({ 'strings-thin': 'present' })
    const { filament, machine } = (await app.get(`pairs/${pair.id}`)).body
    await app.put(`filaments/${filament.id}`, {
      rev: filament.rev,
      filament: {
        ...filament.filament,
        label: { ...filament.filament.label, nozzle: { min: 225, max: 245 } },
      },
    })
    await app.put(`machines/${machine.id}`, {
      rev: machine.rev,
      machine: { ...machine.machine, frame: 'enclosed' },
    })
    await app.post(`cases/${id}/attempts`, {
      base: 1,
      mends: [{ proposal: 'retraction-too-short/0', to: 5.6 }],
    })
    const [last] = (await app.get(`pairs/${pair.id}/versions`)).body as VersionSummary[]
    expect(last.changes).toEqual([{ key: 'retractLength', from: 5.1, to: 5.6, was: 'computed' }])
    // what the bench has changed is a change of its own
    await app.post(`pairs/${pair.id}/versions`, { base: last.number, set: {}, reason: '' })
    const [anew] = (await app.get(`pairs/${pair.id}/versions`)).body as VersionSummary[]
    expect(anew.changes.map((c) => c.key)).toContain('nozzle')
    expect(anew.changes.map((c) => c.key)).not.toContain('retractLength')
  })
  test('a sign marked in another window while an attempt waits does not hold its outcome up, and stays marked', async () => {
    const { id } = await newCase({ 'strings-thin': 'present', 'seam-line': 'present' })
    await app.post(`cases/${id}/attempts`, {
      base: 1,
      mends: [{ proposal: 'retraction-too-short/0', to: 5.6 }],
    })
    await app.put(`cases/${id}/signs/corners-lift`, { state: 'present' })
    await app.put(`cases/${id}/signs/seam-line`, { state: null })
    const { status, body } = await app.post(`cases/${id}/attempts/1/outcome`, {
      results: { 'strings-thin': 'gone', 'seam-line': 'better' },
      newSigns: [],
      note: '',
    })
    expect(status).toBeLessThan(300)
    // what was taken away meanwhile stays away
    expect(body.signs).toEqual({ 'strings-thin': 'absent', 'corners-lift': 'present' })
    expect(body.attempts[0].results).toEqual({ 'strings-thin': 'gone' })
  })
  test('a seam turned away keeps the side it faces; paths prepared anew keep what the new file is to bring back', async () => {
    const { pair, id } = await newCase({ 'seam-line': 'present' })
    const turned = await app.post(`cases/${id}/attempts`, {
      base: 1,
      mends: [{ proposal: 'seam-scattered/0', to: 'turned-away', seamDirection: 210 }],
    })
    expect([turned.status, turned.body.attempts?.[0]?.mends[0].seamDirection]).toEqual([201, 210])
    const { values } = (await app.get(`pairs/${pair.id}`)).body.version
    expect([values.seamPlace.value, values.seamDirection.value]).toEqual(['turned-away', 210])
    await app.remove(`cases/${id}/attempts/1`)
    const around = await app.post(`cases/${id}/attempts`, {
      base: 2,
      mends: [{ proposal: 'seam-scattered/0', to: 'turned-away', seamDirection: 400 }],
    })
    expect(around.status).toBe(422)
    const departs = [{ setting: 'nozzle', file: 228, recipe: 213 }]
    const current = (await app.get(`pairs/${pair.id}`)).body.current
    const anew = await app.post(`cases/${id}/attempts`, {
      base: current,
      mends: [{ proposal: 'nozzle-too-hot/0', asHandling: 'prepare-paths', departs }],
    })
    expect(anew.body.attempts[0].mends[0]).toMatchObject({
      kind: 'handling',
      procedure: 'prepare-paths',
      departs,
    })
    // the recipe has had the value all along: no version is written
    expect(anew.body.attempts[0].toVersion).toBe(current)
    // what is done with the hands brings no file back
    await app.remove(`cases/${id}/attempts/1`)
    const dried = await app.post(`cases/${id}/attempts`, {
      base: current,
      mends: [{ proposal: 'filament-wet/0', asHandling: 'dry-filament', departs }],
    })
    expect(dried.body.attempts[0].mends[0].departs).toBeUndefined()
  })
  test('keeping the version before the case brings it back on top', async () => {
    const { pair, id } = await newCase({ 'strings-thin': 'present' })
    await app.post(`cases/${id}/attempts`, { base: 1, mends: [{ proposal: 'nozzle-too-hot/0', to: 208 }] })
    const after = await app.post(`cases/${id}/attempts/1/outcome`, {
      results: { 'strings-thin': 'worse' },
      newSigns: [],
      note: '',
    })
    const closed = await app.post(`cases/${id}/close`, { rev: after.body.rev, keep: 1 })
    expect(closed.body.keptVersion).toBe(3)
    expect((await app.get(`pairs/${pair.id}`)).body.version.values.nozzle.value).toBe(213)
  })
  test('taking a change back restores the recipe', async () => {
    const { pair, id } = await newCase({ 'strings-thin': 'present' })
    await app.post(`cases/${id}/attempts`, { base: 1, mends: [{ proposal: 'nozzle-too-hot/0', to: 208 }] })
    const back = await app.remove(`cases/${id}/attempts/1`)
    expect(back.body.attempts).toEqual([])
    expect((await app.get(`pairs/${pair.id}`)).body.version.values.nozzle.value).toBe(213)
  })
  test('mends the knowledge does not have, or that change nothing, are refused and leave nothing behind', async () => {
    const { pair, id } = await newCase({ 'strings-thin': 'present' })
    const attempt = (mends: object[]) => app.post(`cases/${id}/attempts`, { base: 1, mends })
    expect((await attempt([{ proposal: 'gremlins/0' }])).body.code).toBe('no-such-mend')
    expect((await attempt([{ proposal: 'constructor/0' }])).body.code).toBe('no-such-mend')
    expect((await attempt([{ proposal: 'retraction-too-short/0', to: 5.1 }])).body.code).toBe('no-change')
    expect(
      (
        await attempt([
          { proposal: 'nozzle-too-hot/0', to: 208 },
          { proposal: 'nozzle-too-cold/0', to: 218 },
        ])
      ).body.code,
    ).toBe('twice')
    expect((await attempt([])).status).toBe(422)
    expect((await app.get(`pairs/${pair.id}/versions`)).body).toHaveLength(1)
    expect((await app.get(`cases/${id}`)).body.attempts).toEqual([])
  })
  test('words changed in two windows: the later one gets both sides', async () => {
    const { id } = await newCase({})
    const was = { part: 'Clip', note: '' }
    await app.put(`cases/${id}`, { was, part: 'Clip', note: 'one' })
    const late = await app.put(`cases/${id}`, { was, part: 'Clip', note: 'two' })
    expect(late.body).toMatchObject({ code: 'conflict', current: { note: 'one' } })
  })
  test('a reading with the wrong shape is refused', async () => {
    const { id } = await newCase({})
    const bad = await app.post(`cases/${id}/files`, {
      name: 'a.gcode',
      bytes: 5,
      sha256: 'f'.repeat(64),
      reading: { bytes: 1 },
    })
    expect(bad.status).toBe(422)
  })
})

describe('the door', () => {
  const raw = (headers: Record<string, string>) =>
    new Promise<number>((resolve, reject) => {
      const r = request({ host: '127.0.0.1', port: app.port, path: '/api/machines', headers }, (a) => {
        a.resume()
        resolve(a.statusCode ?? 0)
      })
      r.on('error', reject)
      r.end()
    })
  test('other hosts and other origins are kept out', async () => {
    expect(await raw({ host: `127.0.0.1:${app.port}` })).toBe(200)
    expect(await raw({ host: 'printer.example' })).toBe(403)
    expect(await raw({ host: `127.0.0.1:${app.port}`, origin: 'http://evil.example' })).toBe(403)
    expect(hostOf('[::1]:4310')).toBe('::1')
  })
  test('strict headers', async () => {
    const { headers } = await app.get('machines')
    expect(headers.get('content-security-policy')).toMatch(/default-src 'none'.*script-src 'self'/)
    expect(headers.get('x-content-type-options')).toBe('nosniff')
    expect(headers.get('x-powered-by')).toBeNull()
    expect(headers.get('cache-control')).toBe('no-store')
  })
  test('health, and the API described', async () => {
    expect((await app.get('health')).body).toEqual({ status: 'ok', room: expect.any(Number) })
    const doc = (await app.get('openapi.json')).body
    expect(Object.keys(doc.paths)).toEqual(
      expect.arrayContaining(['/api/cases/{id}/attempts', '/api/pairs/{id}/versions']),
    )
  })
  test('an address beyond loopback needs a passphrase', () => {
    const env = {
      VERIMEND_DB_PORT: '1',
      VERIMEND_DB_PASSWORD: 'x',
      VERIMEND_FILES: '/nowhere',
      VERIMEND_HOST: '0.0.0.0',
    }
    expect(() => readConfig(env)).toThrow(/passphrase/)
    expect(readConfig({ ...env, VERIMEND_PASSPHRASE: 'long enough' }).host).toBe('0.0.0.0')
  })
})
