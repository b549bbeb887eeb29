import { QueryClient } from '@tanstack/react-query'
import { api } from '../src/api/client'
import { ahead } from '../src/api/ahead'
import { ApiProblem, call } from '../src/api/http'
import { changed, keys } from '../src/api/keys'
import { query, queryClient } from '../src/api/queries'
import { caseOf, DEMO_PAIRS, demoServer, problem, sent } from './demo'
import { server } from './show'
import { waitFor } from '@testing-library/react'

afterEach(() => queryClient.clear())
const failure = async (asking: Promise<unknown>) => {
  const error = await asking.then(
    () => null,
    (e: unknown) => e,
  )
  expect(error).toBeInstanceOf(ApiProblem)
  return (error as ApiProblem).problem
}

test('a problem of the server comes with its sentence, its status and what stands now', async () => {
  server({ 'PUT machines/1': problem(409, 'Changed meanwhile.', { current: { rev: 4 } }) })
  const found = await failure(call('PUT', 'machines/1', { rev: 3 }))
  expect(found).toMatchObject({ status: 409, detail: 'Changed meanwhile.', current: { rev: 4 } })
})

test('no answer is told apart from a bad one, and both are sentences', async () => {
  server({ 'GET cases': 'away' })
  expect(await failure(api.cases.list({}))).toMatchObject({ status: 0, code: 'away' })
  globalThis.fetch = (() =>
    Promise.resolve({
      ok: false,
      status: 502,
      json: () => Promise.reject(new SyntaxError('not JSON')),
    })) as unknown as typeof fetch
  const found = await failure(api.cases.list({}))
  expect(found.status).toBe(502)
  expect(found.detail).toMatch(/\w+ .*\./)
})

test('what is made anew is given its id here: sent twice it is one', async () => {
  const asked = demoServer({ 'POST cases': caseOf('Vent hinge') })
  await api.cases.create('p', 'Bracket', null, null)
  await api.cases.create('p', 'Bracket', null, null)
  const ids = sent(asked, 'POST').map((a) => (a.body as { id: string }).id)
  expect(ids.every((id) => /^[\da-f]{8}-[\da-f]{4}-4/.test(id))).toBe(true)
  expect(new Set(ids).size).toBe(2)
})

test('answers that come in the other order: the newer revision of a case stays', async () => {
  const kase = caseOf('Vent hinge')
  demoServer({ [`GET cases/${kase.id}`]: { ...kase, rev: 5 } })
  await queryClient.fetchQuery(query.case(kase.id))
  const rev = () => queryClient.getQueryData<typeof kase>(keys.cases.one(kase.id))!.rev
  queryClient.setQueryData(keys.cases.one(kase.id), { ...kase, rev: 7 })
  queryClient.setQueryData(keys.cases.one(kase.id), { ...kase, rev: 6 })
  expect(rev()).toBe(7)
  // nor does a question that was asked before
  await queryClient.fetchQuery({ ...query.case(kase.id), staleTime: 0 })
  expect(rev()).toBe(7)
  // what is shown before its answer is there has the revision it was made on
  queryClient.setQueryData(keys.cases.one(kase.id), { ...kase, rev: 7, part: 'Hinge' })
  expect(queryClient.getQueryData<typeof kase>(keys.cases.one(kase.id))!.part).toBe('Hinge')
})

const retry = (count: number, error: unknown) =>
  (queryClient.getDefaultOptions().queries!.retry as (n: number, e: unknown) => boolean)(count, error)

test.each([
  [0, true],
  [503, true],
  [404, false],
  [409, false],
  [500, false],
])('an answer of %i is asked for again: %s', (status, again) => {
  expect(retry(0, new ApiProblem(problem(status, 'x')))).toBe(again)
  expect(retry(9, new ApiProblem(problem(status, 'x')))).toBe(false)
})

test('after a change, what hangs on it is stale, and what does not is left', async () => {
  const client = new QueryClient()
  const all = {
    machines: keys.machines,
    filaments: keys.filaments,
    pairs: keys.pairs.list,
    pair: keys.pairs.one('p'),
    versions: keys.pairs.versions('p'),
    otherPair: keys.pairs.one('q'),
    readiness: keys.pairs.readiness,
    cases: keys.cases.list,
    case: keys.cases.one('c'),
    lessons: keys.cases.lessonsOf('p'),
    trials: keys.trials.ofPair('p'),
  }
  const after = async (change: Promise<unknown>) => {
    await change
    const stale = Object.entries(all).flatMap(([name, key]) =>
      client.getQueryState(key)!.isInvalidated ? [name] : [],
    )
    for (const key of Object.values(all)) client.setQueryData(key, {})
    return stale
  }
  for (const key of Object.values(all)) client.setQueryData(key, {})
  expect(await after(changed.machine(client))).toEqual(
    expect.arrayContaining(['machines', 'pair', 'otherPair', 'versions', 'readiness']),
  )
  expect(await after(changed.recipe(client, 'p'))).toEqual(['pairs', 'pair', 'versions', 'readiness'])
  expect(await after(changed.case(client, 'p'))).toEqual([
    'pair',
    'versions',
    'readiness',
    'cases',
    'lessons',
  ])
  expect(await after(changed.signs(client))).toEqual(['cases'])
  // what a trial found for a case is its attempt
  expect(await after(changed.trial(client, 'p'))).toEqual([
    'pair',
    'versions',
    'readiness',
    'cases',
    'case',
    'lessons',
    'trials',
  ])
  expect((await after(changed.everything(client))).length).toBe(Object.keys(all).length)
})

test('a screen’s data is asked for ahead, once, and the screen finds it there', async () => {
  localStorage.clear()
  const kase = caseOf('Vent hinge')
  const asked = demoServer()
  ahead.everywhere()
  ahead.case(kase.id)
  await waitFor(() => expect(queryClient.getQueryData(keys.pairs.one(kase.pairId))).toBeTruthy())
  await waitFor(() => expect(queryClient.getQueryData(keys.trials.ofPair(kase.pairId))).toBeTruthy())
  const paths = asked.map((a) => a.path)
  expect(paths.filter((p) => p === `cases/${kase.id}`)).toHaveLength(1)
  expect(paths).toContain(`cases/lessons?pairId=${kase.pairId}`)
  expect(paths).toContain(`pairs/${DEMO_PAIRS[0].id}`)
})

test.each(Object.keys(ahead) as (keyof typeof ahead)[])(
  'asked ahead for %s: a server that is away breaks nothing',
  async (screen) => {
    localStorage.clear()
    globalThis.fetch = (() => Promise.reject(new TypeError('no answer'))) as unknown as typeof fetch
    expect(() => ahead[screen]('some-id')).not.toThrow()
    await new Promise((resolve) => setTimeout(resolve, 10))
  },
)
