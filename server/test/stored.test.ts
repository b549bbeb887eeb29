import { readFileSync, readdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { gunzipSync } from 'node:zlib'
import { SETTING_KEYS } from '@verimend/core/recipe'
import { say, sayAll } from '@verimend/core/words'
import { QueryTypes } from 'sequelize'
import { Database } from '../src/database/database.module'
import { dumpDatabase, restoreDatabase } from '../src/database/dump'
import { MIGRATIONS } from '../src/database/migrations'
import { VersionRow } from '../src/database/models'
import { TestApp } from './harness'

const FIXTURE = join(__dirname, 'fixtures', 'stored-rows-1.sql.gz')

/** An application on rows as they were stored before reasons had codes and rows had schema numbers. */
async function onStoredRows(name: string): Promise<TestApp> {
  const app = new TestApp(name)
  await app.createDatabase()
  await restoreDatabase(app.access, FIXTURE, [])
  return app
}
/** An answer of any kind: its status, and its body where it is text. */
async function ask(app: TestApp, path: string, body?: unknown): Promise<{ status: number; text: string }> {
  const response = await fetch(`http://127.0.0.1:${app.port}/api/${path}`, {
    method: body === undefined ? 'GET' : 'POST',
    headers: { 'content-type': 'application/json' },
    body: body === undefined ? undefined : JSON.stringify(body),
  })
  return { status: response.status, text: await response.text() }
}
const FORMS = ['json', 'csv', 'md', 'gcode', 'pdf']

describe('rows as they were stored before', () => {
  let app: TestApp
  beforeAll(async () => {
    app = await onStoredRows('stored')
    await app.start()
  })
  afterAll(() => app.stop())

  test('every list, record, version, export and report opens', async () => {
    const faults: string[] = []
    let asked = 0
    const get = async (path: string) => {
      const { status, text } = await ask(app, path)
      asked++
      if (status !== 200) faults.push(`${path}: ${status} ${text.slice(0, 200)}`)
      return /json|^cases|^pairs|^trials|^machines|^filaments/.test(path) && /^[[{]/.test(text)
        ? JSON.parse(text)
        : null
    }
    const ids = (list: { id: string }[] | null) => (list ?? []).map((x) => x.id)
    for (const noun of ['machines', 'filaments'])
      for (const id of ids(await get(noun))) await get(`${noun}/${id}`)
    await get('pairs/readiness')
    for (const pair of (await get('pairs')) as { id: string; machineId: string; filamentId: string }[]) {
      const { id } = pair
      await get(`pairs/${id}`)
      await get(`pairs/relatives?machineId=${pair.machineId}&filamentId=${pair.filamentId}`)
      await get(`cases/lessons?pairId=${id}`)
      for (const { number } of (await get(`pairs/${id}/versions`)) as { number: number }[]) {
        await get(`pairs/${id}/versions/${number}`)
        for (const form of FORMS) await get(`pairs/${id}/versions/${number}/recipe.${form}?grade=fine`)
      }
    }
    for (const id of ids((await get('cases')).cases)) {
      await get(`cases/${id}`)
      await get(`cases/${id}/summary.md`)
      const said = await ask(app, 'diagnosis', { caseId: id })
      if (said.status !== 200) faults.push(`diagnosis of ${id}: ${said.text.slice(0, 200)}`)
    }
    for (const pair of ids(await get('pairs')))
      for (const id of ids(await get(`trials?pairId=${pair}`))) {
        await get(`trials/${id}`)
        await get(`trials/${id}/piece.gcode`)
        await get(`trials/${id}/photos`)
      }
    expect(faults).toEqual([])
    expect(asked).toBeGreaterThan(150)
  })

  test('what was written in words is still said in the same words', async () => {
    const cases = (await app.get('cases')).body.cases as {
      id: string
      part: string
      status: string
      grams: number
    }[]
    const closed = (await app.get(`cases/${cases.find((c) => c.part === 'Hose coupling')!.id}`)).body
    expect(sayAll(closed.learnt)).toMatch(/First layer overfed: Flow, first layer 120/)
    expect(closed.attempts[0].mends[0].why).toBeUndefined()
    const hinge = (await app.get(`cases/${cases.find((c) => c.part === 'Vent hinge')!.id}`)).body
    expect(hinge.marks[0].heightRanges.length).toBeGreaterThan(0)
    expect(say(hinge.marks[0].reason)).toMatch(/^[A-Z].*\.$/)
    expect(hinge.files[0].reading.seam.objects[0].resultantLength).toBeGreaterThan(0)
    // sums that lists show were worked out for files that were there already
    expect(cases.find((c) => c.part === 'Vent hinge')!.grams).toBeGreaterThan(1)
    const pairs = (await app.get('pairs')).body as { id: string }[]
    const details = await Promise.all(pairs.map((p) => app.get(`pairs/${p.id}`)))
    expect(details.some((d) => d.body.acknowledged.length > 0)).toBe(true)
    for (const { body } of details) {
      expect(say(body.version.reason).length).toBeGreaterThan(5)
      for (const key of SETTING_KEYS) expect(say(body.version.values[key].reason).length).toBeGreaterThan(5)
    }
  })

  test('and they go on: a sign, an attempt, a version, a trial', async () => {
    const cases = (await app.get('cases')).body.cases as { id: string; part: string }[]
    const { id } = cases.find((c) => c.part === 'Tap gasket')!
    const { pairId } = (await app.put(`cases/${id}/signs/strings-thick`, { state: 'present' })).body
    const base = (await app.get(`pairs/${pairId}`)).body.current as number
    const tried = await app.post(`cases/${id}/attempts`, {
      base,
      mends: [{ proposal: 'nozzle-too-hot/0', to: 219 }],
    })
    expect(tried.status).toBe(201)
    expect((await app.get(`pairs/${pairId}`)).body.version.number).toBe(base + 1)
    const plan = { piece: 'string-posts', steps: { key: 'span', from: 40, to: 40, count: 1 } }
    expect((await app.post('trials', { pairId, plan })).status).toBe(201)
  })
})

test('any setting missing from a stored version is filled in and marked so, and everything works', async () => {
  const app = new TestApp('missing', true)
  await app.start()
  const [pair] = (await app.get('pairs')).body as { id: string; current: number }[]
  const kase = ((await app.get('cases')).body.cases as { id: string; pairId: string }[]).find(
    (c) => c.pairId === pair.id,
  )
  const row = (await VersionRow.findOne({ where: { pairId: pair.id, number: pair.current } }))!
  const whole = row.values
  const plan = { piece: 'string-posts', steps: { key: 'span', from: 40, to: 40, count: 1 } }
  const faults: string[] = []
  const forms = ['json', 'csv', 'gcode', 'md']
  for (const [i, key] of SETTING_KEYS.entries()) {
    const { [key]: _, ...rest } = whole
    await row.update({ values: rest })
    const must = async (path: string, body?: unknown) => {
      const { status, text } = await ask(app, path, body)
      if (status >= 300) faults.push(`${key}: ${path}: ${status} ${text.slice(0, 120)}`)
      return text
    }
    const detail = JSON.parse(await must(`pairs/${pair.id}`))
    const filled = detail.version.values[key]
    if (!filled?.filledIn) faults.push(`${key}: not marked as filled in`)
    await must(`pairs/${pair.id}/versions/${pair.current}/recipe.${forms[i % 4]}?grade=coarse`)
    // all of them read it in the same way: they take turns
    if (i % 4) continue
    const { total } = JSON.parse(await must('pairs/readiness')) as { total: number }
    if (total < 5) faults.push(`${key}: only ${total} pairs are told of`)
    await must('diagnosis', { pairId: pair.id, signs: { 'strings-thin': 'present' } })
    if (kase) await must('diagnosis', { caseId: kase.id })
    await must('trials', { pairId: pair.id, plan })
  }
  // the sheet is drawn once: it is the same reader
  expect((await ask(app, `pairs/${pair.id}/versions/${pair.current}/recipe.pdf`)).status).toBe(200)
  // what was filled in becomes whole with the next change
  const next = await app.post(`pairs/${pair.id}/versions`, {
    base: pair.current,
    set: { fan: 41 },
    reason: '',
  })
  expect(next.status).toBe(201)
  const last = SETTING_KEYS[SETTING_KEYS.length - 1]
  expect(next.body.values[last].filledIn).toBeUndefined()
  expect(faults).toEqual([])
  await app.stop()
})

describe('bringing the tables up to date', () => {
  /** All that the database holds, but for what a dump writes of itself. */
  async function contents(app: TestApp): Promise<string> {
    const file = await dumpDatabase(app.access, join(app.files, 'look'), 'look')
    return gunzipSync(readFileSync(file))
      .toString()
      .replace(/^.*AUTO_INCREMENT.*$/gm, (line) => line.replace(/AUTO_INCREMENT=\d+ /, ''))
  }

  test('a step that fails half-way leaves the database as it was, and says so', async () => {
    const app = await onStoredRows('half_way')
    const database = new Database(app.config)
    const before = await contents(app)
    const failing = {
      name: '0099-breaks',
      up: async () => {
        await database.sequelize.query('CREATE TABLE half_made (id INT NOT NULL PRIMARY KEY)')
        await database.sequelize.query('ALTER TABLE cases DROP COLUMN note')
        await database.sequelize.query('ALTER TABLE nobody_knows_it ADD COLUMN x INT')
      },
    }
    await expect(database.migrate([...MIGRATIONS, failing])).rejects.toThrow(/It is as it was before/)
    expect(await contents(app)).toBe(before)
    // and without the step at fault it goes well, after a dump
    await database.migrate()
    expect(readdirSync(join(app.files, '..', 'dumps')).length).toBeGreaterThan(0)
    expect(await contents(app)).not.toBe(before)
    await database.onApplicationShutdown()
    await app.stop()
  })

  test('one that was killed in the midst is put back first, and nothing is missing', async () => {
    const app = await onStoredRows('cut_short')
    const whole = await onStoredRows('cut_short_not')
    const [database, other] = [new Database(app.config), new Database(whole.config)]
    await other.migrate()
    // as a kill leaves it: the copy, the mark, and some of the steps of one change
    const dump = await dumpDatabase(app.access, join(app.files, '..', 'dumps'), 'before-a-kill')
    writeFileSync(join(app.files, '..', 'dumps', 'unfinished.json'), JSON.stringify({ dump }))
    await database.sequelize.query('ALTER TABLE cases DROP COLUMN note')
    await database.sequelize.query('CREATE TABLE half_made (id INT NOT NULL PRIMARY KEY)')
    await database.migrate()
    const mine = (text: string) => text.replaceAll('cut_short_not', 'cut_short')
    expect(mine(await contents(app))).toBe(mine(await contents(whole)))
    await database.onApplicationShutdown()
    await other.onApplicationShutdown()
    await app.stop()
    await whole.stop()
  })

  test('two that start at once on one database bring it up to date once', async () => {
    const app = await onStoredRows('at_once')
    const [one, two] = [new Database(app.config), new Database(app.config)]
    await Promise.all([one.migrate(), two.migrate()])
    const names = await one.sequelize.query<{ name: string }>('SELECT name FROM migrations', {
      type: QueryTypes.SELECT,
    })
    expect(names.map((n) => n.name).sort()).toEqual(MIGRATIONS.map((m) => m.name).sort())
    await one.onApplicationShutdown()
    await two.onApplicationShutdown()
    await app.stop()
  })

  test('nothing is changed where no copy can be made first', async () => {
    const app = await onStoredRows('no_copy')
    const database = new Database(app.config)
    const before = await contents(app)
    const path = process.env.PATH
    process.env.PATH = '/nowhere'
    try {
      await expect(database.migrate()).rejects.toThrow(/Nothing was changed. Install mariadb-client/)
    } finally {
      process.env.PATH = path
    }
    expect(await contents(app)).toBe(before)
    await database.onApplicationShutdown()
    await app.stop()
  })
})
