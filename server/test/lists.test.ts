import { randomUUID } from 'node:crypto'
import type { CasePage, CaseStatistics, PairSummary, ReadinessPage } from '@verimend/contract'
import { faultFamilies } from '@verimend/core/casework'
import { FAMILIES_OF_FAULT } from '@verimend/core/knowledge'
import { CasesRepository } from '../src/cases/cases.repository'
import { SumsService, sumsOf } from '../src/cases/sums.service'
import { CaseRow } from '../src/database/models'
import { TestApp } from './harness'

const app = new TestApp('lists', true)
beforeAll(() => app.start())
afterAll(() => app.stop())

const list = async (asked = '') => (await app.get(`cases${asked}`)).body as CasePage
const pairIds = async () => ((await app.get('pairs')).body as PairSummary[]).map((p) => p.id)
const made = async (part: string, pairId: string) =>
  (await app.post('cases', { pairId, part })).body as { id: string }

/** What is kept with each case, beside what hangs on it. */
async function expectSumsTrue(): Promise<void> {
  const cases = app.app.get(CasesRepository)
  const rows = await CaseRow.findAll()
  const [attempts, files] = [await cases.attemptsOf(rows), await cases.fileHeadsOf(rows)]
  for (const row of rows) {
    const sums = sumsOf(row.signs, attempts.get(row.id) ?? [], files.get(row.id) ?? [])
    expect({ part: row.part, sums: row.sums }).toEqual({ part: row.part, sums })
    const families = faultFamilies(sums.seen, sums.causes)
    expect(
      FAMILIES_OF_FAULT.filter((f) => row.families.includes(`,${f.id},`))
        .map((f) => f.id)
        .sort(),
    ).toEqual([...families].sort())
  }
}

test('what lists show of a case is true after each kind of change, and was in the demo', async () => {
  await expectSumsTrue()
  const [pairId] = await pairIds()
  const { id } = await made('Peg', pairId)
  const steps: [string, string, unknown][] = [
    ['PUT', `cases/${id}/signs/strings-thin`, { state: 'present' }],
    ['PUT', `cases/${id}/signs/seam-line`, { state: 'present' }],
    ['PUT', `cases/${id}/signs/seam-line`, { state: null }],
    ['PUT', `cases/${id}`, { was: { part: 'Peg', note: '' }, part: 'Long peg', note: 'Of the tall bed' }],
    ['DELETE', `cases/${id}`, undefined],
    ['POST', `cases/${id}/restore`, {}],
  ]
  for (const [method, path, body] of steps) {
    const { status } = await app.call(method, path, body)
    expect([path, status]).toEqual([path, status < 300 ? status : 'well'])
    await expectSumsTrue()
  }
  const { current } = ((await app.get('pairs')).body as PairSummary[]).find((p) => p.id === pairId)!
  const { body } = await app.post('diagnosis', { caseId: id })
  const proposal = body.mends[0].id as string
  const begun = await app.post(`cases/${id}/attempts`, { base: current, mends: [{ proposal }] })
  if (begun.status >= 300) return
  await expectSumsTrue()
  expect((await list('?search=long')).cases[0]).toMatchObject({ attempts: 1, awaiting: true })
  await app.post(`cases/${id}/attempts/1/outcome`, {
    results: { 'strings-thin': 'gone' },
    newSigns: [],
    notThere: [],
    note: '',
  })
  await expectSumsTrue()
  expect((await list('?search=long')).cases[0]).toMatchObject({ attempts: 1, awaiting: false, seen: [] })
})

test('pages follow one another without a gap, open cases first; every filter counts', async () => {
  const [one, two] = await pairIds()
  for (let i = 0; i < 7; i++) await made(`Marker ${i} of the bed`, i % 2 ? one : two)
  const all = await list('?limit=200')
  const paged: string[] = []
  for (let skip = 0; skip < all.total; skip += 3) {
    const page = await list(`?skip=${skip}&limit=3`)
    expect(page.total).toBe(all.total)
    paged.push(...page.cases.map((c) => c.id))
  }
  expect(paged).toEqual(all.cases.map((c) => c.id))
  const states = all.cases.map((c) => c.status)
  expect(states).toEqual([...states].sort().reverse())

  const closed = await list('?status=closed')
  expect(closed.cases.map((c) => c.part)).toEqual(['Hose coupling'])
  expect((await list(`?search=marker%20bed&pairId=${one}`)).cases.map((c) => c.part).sort()).toEqual([
    'Marker 1 of the bed',
    'Marker 3 of the bed',
    'Marker 5 of the bed',
  ])
  // neither a sign of the database's own search, nor a quote, is more than a letter
  for (const odd of ['%25', '_', "'", '%5C', '%22%20OR%201=1', '%25%27%20--'])
    expect([odd, (await list(`?search=${odd}`)).total]).toEqual([odd, 0])
  await made('100% full_bore', two)
  for (const odd of ['100%25', '%25', '_', 'full_bore'])
    expect([odd, (await list(`?search=${odd}`)).total]).toEqual([odd, 1])
  all.cases = (await list('?limit=200')).cases
  expect((await list('?withPart=1')).cases.every((c) => c.partId)).toBe(true)
  for (const f of FAMILIES_OF_FAULT)
    expect((await list(`?family=${f.id}&limit=200`)).cases.map((c) => c.id).sort()).toEqual(
      all.cases
        .filter((c) => faultFamilies(c.seen, c.causes).includes(f.id))
        .map((c) => c.id)
        .sort(),
    )
})

test('bad questions are told in a sentence', async () => {
  for (const [asked, path] of [
    ['limit=0', 'limit'],
    ['limit=1000', 'limit'],
    ['skip=-1', 'skip'],
    ['limit=many', 'limit'],
    ['family=none', 'family'],
    ['status=half', 'status'],
    [`search=${'x'.repeat(101)}`, 'search'],
  ]) {
    const { status, body } = await app.get(`cases?${asked}`)
    expect([asked, status, body.fields?.[0]?.path]).toEqual([asked, 422, path])
    expect(body.detail).toMatch(/^[A-Z].*\.$/)
  }
  expect((await app.get('trials')).status).toBe(422)
})

test('statistics are those of the closed cases', async () => {
  const statistics = (await app.get('cases/statistics')).body as CaseStatistics
  const { cases } = await list('?status=closed')
  const families = new Set(cases.flatMap((c) => faultFamilies(c.seen, c.causes)))
  expect(new Set(statistics.map((s) => s.family))).toEqual(families)
  for (const s of statistics) {
    const own = cases.filter((c) => faultFamilies(c.seen, c.causes).includes(s.family))
    expect([s.closed, s.attempts]).toEqual([own.length, own.reduce((n, c) => n + c.attempts, 0) / own.length])
  }
})

test('cases of before there were sums get theirs at the start, and keep their place', async () => {
  const before = await list('?limit=200')
  await CaseRow.update({ sums: null, families: '', sumsSchema: 0 }, { where: {}, silent: true })
  expect((await list()).cases.every((c) => c.attempts === 0)).toBe(true)
  expect(await app.app.get(SumsService).fill()).toBe(await CaseRow.count())
  expect(await list('?limit=200')).toEqual(before)
  expect(await app.app.get(SumsService).fill()).toBe(0)
})

test('readiness comes in pages, or of one pair', async () => {
  const all = (await app.get('pairs/readiness?limit=200')).body as ReadinessPage
  expect(all.total).toBe((await pairIds()).length)
  const second = (await app.get('pairs/readiness?skip=1&limit=1')).body as ReadinessPage
  expect(second).toEqual({ pairs: [all.pairs[1]], total: all.total })
  const { pairId } = all.pairs[2]
  expect((await app.get(`pairs/readiness?pairId=${pairId}`)).body).toEqual({
    pairs: [all.pairs[2]],
    total: 1,
  })
  expect((await app.get(`pairs/readiness?pairId=${randomUUID()}`)).body).toEqual({ pairs: [], total: 0 })
})
