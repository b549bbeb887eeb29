import { act, screen, waitFor, within } from '@testing-library/react'
import { api } from '../src/api/client'
import { KeptForLater, outbox, PATIENCE } from '../src/api/outbox'
import { KeptNotes } from '../src/frame/KeptNotes'
import { demoServer, problem, sent } from './demo'
import { server, show } from './show'

const reading = (grade: number) => ({
  grades: { strings: grade },
  measures: [],
  unsure: false,
  skipped: false,
  note: '',
})
const PATH = 'trials/t1/readings/band-3'
const read = (grade: number, was: ReturnType<typeof reading> | null = null) =>
  api.trials.read('t1', 'band-3', reading(grade), was).catch((e: unknown) => e)
const puts = (asked: ReturnType<typeof server>) => sent(asked, 'PUT').map((a) => a.body)

beforeEach(() => {
  for (const n of outbox.notes()) outbox.drop(n.id)
  localStorage.clear()
})

test('with a connection it is sent at once, and nothing is kept', async () => {
  const asked = server({ [`PUT ${PATH}`]: { id: 't1' } })
  expect(await read(2)).toEqual({ id: 't1' })
  expect(puts(asked)).toEqual([reading(2)])
  expect(outbox.notes()).toEqual([])
})

test('without one it is kept, the last word at an address counts, and all goes out in order when it is back', async () => {
  server({
    [`PUT ${PATH}`]: 'away',
    'PUT cases/c1/signs/strings-thin': 'away',
    'POST cases/c1/marks': 'away',
  })
  const before = reading(0)
  expect(await read(1, before)).toBeInstanceOf(KeptForLater)
  expect(await api.cases.sign('c1', 'strings-thin', 'present').catch((e: unknown) => e)).toBeInstanceOf(
    KeptForLater,
  )
  for (const from of [1, 5])
    await api.cases.addMark('c1', 'f1', [{ from, to: from + 1 }], 'outerAsked').catch(() => undefined)
  expect(await read(3, reading(1))).toBeInstanceOf(KeptForLater)
  expect(outbox.notes()).toHaveLength(4)
  // a page that is opened anew finds them
  expect(JSON.parse(localStorage.getItem('verimend.kept')!)).toHaveLength(4)

  const asked = server({ [`PUT ${PATH}`]: { id: 't1' } })
  await outbox.flush()
  expect(outbox.notes()).toEqual([])
  expect(asked.map((a) => a.path)).toEqual([
    'cases/c1/signs/strings-thin',
    'cases/c1/marks',
    'cases/c1/marks',
    PATH,
  ])
  // the last reading, held against what stood there before the first
  expect(puts(asked).at(-1)).toEqual({ ...reading(3), was: before })
})

test('a server that starts anew is waited for; what it refuses stays with its reason, and the person decides', async () => {
  server({ [`PUT ${PATH}`]: 'away', 'POST cases/c1/attempts/2/outcome': 'away' })
  await read(1)
  const outcome = { results: { 'strings-thin': 'gone' as const }, newSigns: [], notThere: [], note: '' }
  await api.cases.record('c1', 2, outcome).catch(() => undefined)
  server({ [`PUT ${PATH}`]: problem(503, 'The database starts.') })
  await outbox.flush()
  expect(outbox.notes().map((n) => n.refused)).toEqual([null, null])

  demoServer({
    [`PUT ${PATH}`]: problem(409, 'Somebody has noted another reading of this place meanwhile.'),
    'POST cases/c1/attempts/2/outcome': problem(422, 'Attempt 2 has been recorded already.'),
  })
  const { user, where } = show(<KeptNotes />)
  await outbox.flush()
  await user.click(await screen.findByRole('button', { name: '2 could not be sent' }))
  const [one, two] = await screen.findAllByTestId('kept-note')
  expect(one.textContent).toContain('A reading of a trial, at band 3')
  expect(one.textContent).toContain('another reading of this place meanwhile')
  expect(two.textContent).toContain('fine strings gone')
  // mine all the same: over what stands there now
  const asked = server({ [`PUT ${PATH}`]: { id: 't1' } })
  await user.click(within(one).getByRole('button', { name: 'Send mine all the same' }))
  await waitFor(() => expect(puts(asked)).toEqual([reading(1)]))
  await user.click(within(two).getByRole('link', { name: 'See what stands there now' }))
  expect(where()).toBe('/cases/c1')
  await user.click(screen.getByRole('button', { name: '1 could not be sent' }))
  await user.click(await screen.findByRole('button', { name: 'Leave mine out' }))
  expect(outbox.notes()).toEqual([])
})

test('a measurement waits as it was last typed, held against the revision it was read beside', async () => {
  const path = 'measurements/m1'
  const type = (rev: number, asked: number) =>
    api.measurements
      .update('m1', rev, { kind: 'feed', asked, fed: [], steps: null }, '')
      .catch((e: unknown) => e)
  server({ [`PUT ${path}`]: 'away' })
  expect(await type(3, 100)).toBeInstanceOf(KeptForLater)
  expect(await type(3, 110)).toBeInstanceOf(KeptForLater)
  expect(outbox.notes()).toHaveLength(1)
  const asked = server({ [`PUT ${path}`]: problem(409, 'This measurement was changed in another window.') })
  await outbox.flush()
  expect(puts(asked)).toMatchObject([{ rev: 3, measured: { asked: 110 } }])
  const [{ id, refused, href }] = outbox.notes()
  expect(refused).toContain('another window')
  expect(href).toBe('/measure/m1')
  // all the same: over what stands there now
  const over = server({ [`PUT ${path}`]: { id: 'm1' } })
  await outbox.again(id)
  expect(puts(over)).toEqual([{ measured: { kind: 'feed', asked: 110, fed: [], steps: null }, note: '' }])
  expect(outbox.notes()).toEqual([])
})

test('what is refused with a connection is told at once, as ever', async () => {
  server({ [`PUT ${PATH}`]: problem(422, 'A grade is a whole number from 0 to 4.') })
  const error = (await read(9)) as Error
  expect(error.message).toContain('whole number')
  expect(outbox.notes()).toEqual([])
})

describe('what hangs', () => {
  beforeEach(() => {
    jest.useFakeTimers()
  })
  afterEach(() => {
    jest.useRealTimers()
  })
  /** A server that answers when it is told to; what it was asked, in order. */
  function slowServer() {
    const asked: { body: unknown; answer: (data: unknown, status?: number) => Promise<void> }[] = []
    globalThis.fetch = ((_: string, { method, body }: { method: string; body?: string }) =>
      new Promise((resolve) => {
        const answer = async (data: unknown, status = 200) => {
          resolve({ ok: status < 400, status, json: () => Promise.resolve(data) })
          await jest.advanceTimersByTimeAsync(0)
        }
        // only changes hang
        if (method === 'GET') void answer([])
        else asked.push({ body: JSON.parse(body ?? 'null'), answer })
      })) as unknown as typeof fetch
    return asked
  }

  test('an answer that does not come within three seconds: it is kept, and gone when the answer comes after all', async () => {
    const asked = slowServer()
    const told = read(1)
    await jest.advanceTimersByTimeAsync(PATIENCE - 1)
    expect(outbox.notes()).toEqual([])
    await jest.advanceTimersByTimeAsync(1)
    expect(await told).toBeInstanceOf(KeptForLater)
    expect(outbox.notes()).toHaveLength(1)
    // it is not sent a second time while the first may still arrive
    await jest.advanceTimersByTimeAsync(9000)
    expect(asked).toHaveLength(1)
    await asked[0].answer({ id: 't1' })
    expect(outbox.notes()).toEqual([])
  })

  test('what is noted of the same place meanwhile is held against the one that arrives', async () => {
    const asked = slowServer()
    const first = read(1, reading(0))
    await jest.advanceTimersByTimeAsync(PATIENCE)
    await first
    expect(await read(2, reading(1))).toBeInstanceOf(KeptForLater)
    await asked[0].answer({ id: 't1' })
    void outbox.flush()
    expect(asked[1].body).toEqual({ ...reading(2), was: reading(1) })
    await asked[1].answer({ id: 't1' })
    expect(outbox.notes()).toEqual([])
  })

  test('one that is refused late stays with its reason', async () => {
    const asked = slowServer()
    const told = read(1)
    await jest.advanceTimersByTimeAsync(PATIENCE)
    await told
    await asked[0].answer(problem(422, 'A grade is a whole number from 0 to 4.'), 422)
    expect(outbox.notes()[0].refused).toContain('whole number')
  })

  test('any other change that hangs says so, until it is answered', async () => {
    const asked = slowServer()
    show(<KeptNotes />)
    const put = api.cases.longest('c1', 12)
    await act(() => jest.advanceTimersByTimeAsync(PATIENCE))
    expect(screen.getByText('No answer for 3 s; still waiting.')).toBeTruthy()
    await act(() => asked[0].answer({ id: 'c1' }))
    await put
    expect(screen.queryByText(/still waiting/)).toBeNull()
  })
})

test.each([401, 429, 502, 503, 504])('an answer of %s is one to wait for: it is kept', async (status) => {
  server({ [`PUT ${PATH}`]: problem(status, 'Later.') })
  expect(await read(1)).toBeInstanceOf(KeptForLater)
  expect(outbox.notes()).toMatchObject([{ refused: null }])
  const asked = server({ [`PUT ${PATH}`]: { id: 't1' } })
  await outbox.flush()
  expect(puts(asked)).toEqual([{ ...reading(1), was: null }])
})

test('a device without room: it is held while the page is open, and that is said', async () => {
  const full = jest.spyOn(Storage.prototype, 'setItem').mockImplementation(() => {
    throw new DOMException('full', 'QuotaExceededError')
  })
  server({ [`PUT ${PATH}`]: 'away' })
  expect(((await read(1)) as Error).message).toMatch(/no room left on this device.*leave this page open/)
  show(<KeptNotes />)
  expect(screen.getByTestId('kept-notes').textContent).toMatch(/1 kept here.*leave this page open/)
  full.mockRestore()
  const asked = server({ [`PUT ${PATH}`]: { id: 't1' } })
  await outbox.flush()
  expect(puts(asked)).toEqual([{ ...reading(1), was: null }])
})
