import type { PartSummary } from '@verimend/contract'
import { SETTING_KEYS, settingOf, type Changes } from '@verimend/core/recipe'
import { act, renderHook, screen, waitFor, within } from '@testing-library/react'
import fc from 'fast-check'
import { PartFault, PartWork } from '../src/parts/partWork'
import PartsScreen from '../src/parts/PartsScreen'
import { useLookedFor } from '../src/parts/usePartWork'
import type { PlanAsk } from '../src/workers/part.worker'
import { Working } from '../src/parts/Working'
import { changesFrom, changesText, seenOnPart } from '../src/parts/whatIf'
import { wasEnded } from '../src/work/jobs'
import { server, show } from './show'

const part = (over: Partial<PartSummary> = {}): PartSummary => ({
  id: '7b3b7a52-6c1e-4a3f-9d51-0d9f1f7b2c11',
  rev: 1,
  name: 'Vent hinge',
  size: [61, 40, 8.4],
  versions: 2,
  cases: 1,
  plans: 0,
  updatedAt: '2026-01-01T00:00:00.000Z',
  ...over,
})

describe('a change in an address', () => {
  const values = fc.constantFrom(...SETTING_KEYS).chain((key) => {
    const s = settingOf(key)
    const value: fc.Arbitrary<number | boolean | string> =
      s.kind === 'switch'
        ? fc.boolean()
        : s.kind === 'choice'
          ? fc.constantFrom(...s.choices.map((c) => c.value))
          : fc.integer({ min: 0, max: 50 }).map((n) => Math.min(s.max, s.min + n * s.step))
    return value.map((v): [string, number | boolean | string] => [key, v])
  })
  test('goes there and comes back, whatever settings it holds', () => {
    fc.assert(
      fc.property(fc.uniqueArray(values, { selector: ([key]) => key, maxLength: 6 }), (list) => {
        const changes = Object.fromEntries(list) as Changes
        expect(changesFrom(changesText(changes))).toEqual(changes)
        const address = new URL(seenOnPart('x', changes), 'http://a')
        expect(changesFrom(address.searchParams.get('change'))).toEqual(changes)
      }),
      { numRuns: 60, seed: 7 },
    )
  })
  test('what is none is passed over, what is beyond its bounds is brought to them', () => {
    expect(changesFrom(null)).toEqual({})
    expect(changesFrom('nonsense:1,wipe,wipe:,seamPlace:nowhere,fan:NaN')).toEqual({})
    fc.assert(
      fc.property(fc.string(), (text) => {
        for (const [key, value] of Object.entries(changesFrom(text))) {
          const s = settingOf(key as 'fan')
          if (s.kind === 'number') expect(Number(value) >= s.min && Number(value) <= s.max).toBe(true)
        }
      }),
      { numRuns: 100, seed: 7 },
    )
    expect(changesFrom('fan:900').fan).toBe(100)
  })
})

describe('the list of parts', () => {
  test('a part with its size, versions and uses; removed and brought back', async () => {
    let list = [part(), part({ id: '1', name: 'Clip', cases: 0 })]
    const asked = server({
      'GET parts': () => list,
      [`DELETE parts/${part().id}`]: () => {
        list = list.slice(1)
        return part()
      },
      [`POST parts/${part().id}/restore`]: () => {
        list = [part(), ...list]
        return part()
      },
    })
    const { user } = show(<PartsScreen />)
    const row = (await screen.findByText('Vent hinge')).closest('tr')!
    expect(row.textContent).toContain('61 × 40 × 8.4')
    expect(within(row).getByRole('link').getAttribute('href')).toBe(`/parts/${part().id}`)
    await user.click(within(row).getByRole('button', { name: /Remove/ }))
    await waitFor(() => expect(screen.queryByRole('link', { name: 'Vent hinge' })).toBeNull())
    await user.click(await screen.findByRole('button', { name: 'Undo' }))
    expect(await screen.findByRole('link', { name: 'Vent hinge' })).toBeTruthy()
    expect(asked.filter((a) => a.method !== 'GET').map((a) => a.method)).toEqual(['DELETE', 'POST'])
  })
  test('none yet, and none to be had: each says what to do', async () => {
    server({ 'GET parts': [] })
    const empty = show(<PartsScreen />)
    expect(await screen.findByText(/No parts yet/)).toBeTruthy()
    empty.unmount()
    server({ 'GET parts': { status: 500, detail: 'The database is away.', title: '', type: '', code: 'x' } })
    show(<PartsScreen />)
    expect((await screen.findByRole('alert')).textContent).toContain('The database is away')
    expect(screen.getByRole('button', { name: 'Try again' })).toBeTruthy()
  })
})

test('work under way shows its share and can be ended; ended it stays so until it is asked on; a fault says what and offers again', async () => {
  const told: string[] = []
  const asked = {
    data: null,
    pending: true,
    share: 0.42,
    error: null,
    ended: false,
    cancel: () => told.push('cancel'),
    again: () => told.push('again'),
  }
  const busy = show(<Working asked={asked} what="Laying the part" />)
  expect(screen.getByRole('status').textContent).toContain('42')
  await busy.user.click(screen.getByRole('button', { name: 'Cancel' }))
  busy.unmount()
  const ended = show(<Working asked={{ ...asked, pending: false, ended: true }} what="Laying the part" />)
  expect(screen.getByRole('status').textContent).toContain('Laying the part was ended')
  await ended.user.click(screen.getByRole('button', { name: 'Go on' }))
  ended.unmount()
  const failed = show(
    <Working asked={{ ...asked, pending: false, error: new Error('It is wider than the bed.') }} what="x" />,
  )
  expect(screen.getByRole('alert').textContent).toContain('wider than the bed')
  await failed.user.click(screen.getByRole('button', { name: 'Try again' }))
  expect(told).toEqual(['cancel', 'again', 'again'])
})

describe('a part at work in its worker', () => {
  class FakeWorker {
    static all: FakeWorker[] = []
    sent: { task: string; id: number }[] = []
    ended = false
    onmessage: ((e: { data: unknown }) => void) | null = null
    onerror: ((e: { preventDefault: () => void }) => void) | null = null
    constructor() {
      FakeWorker.all.push(this)
    }
    postMessage(m: { task: string; id: number }) {
      this.sent.push(m)
    }
    terminate() {
      this.ended = true
    }
    answer(data: object) {
      this.onmessage?.({ data: { id: this.sent.at(-1)!.id, ...data } })
    }
  }
  const source = { source: '/x', name: 'x.stl', unit: null }
  const plan = { side: 'now' as const }
  beforeEach(() => {
    FakeWorker.all = []
    ;(globalThis as unknown as { Worker: unknown }).Worker = FakeWorker
    jest.useFakeTimers()
  })
  afterEach(() => jest.useRealTimers())
  const settled = () => act(async () => void (await Promise.resolve()))

  test('one task after another, each with its own answer or fault', async () => {
    const work = new PartWork()
    const opened = work.open(source)
    const gcode = work.run('gcode', plan)
    const [w] = FakeWorker.all
    expect(w.sent.map((m) => m.task)).toEqual(['open'])
    w.answer({ answer: 'opened' })
    expect(await opened).toBe('opened')
    await settled()
    expect(w.sent.map((m) => m.task)).toEqual(['open', 'gcode'])
    w.answer({ fault: 'Nothing is planned yet.', reason: null })
    await expect(gcode).rejects.toThrow(PartFault)
    work.end()
    expect(w.ended).toBe(true)
    expect(await work.run('gcode', plan).catch(wasEnded)).toBe(true)
  })
  test('what is ended by hand ends with its worker; the next one opens the part again and goes on with what waits', async () => {
    const work = new PartWork()
    let restarts = 0
    work.subscribe(() => restarts++)
    void work.open(source)
    FakeWorker.all[0].answer({ answer: 'opened' })
    await settled()
    const ending = new AbortController()
    const slow = work.run('gcode', plan, undefined, ending.signal)
    const waits = work.run('layer', { side: 'now', layer: 3 })
    ending.abort()
    await expect(slow).rejects.toThrow('ended')
    jest.advanceTimersByTime(200)
    expect([FakeWorker.all[0].ended, restarts, work.generation]).toEqual([true, 1, 1])
    const next = FakeWorker.all[1]
    expect(next.sent.map((m) => m.task)).toEqual(['open'])
    next.answer({ answer: 'opened' })
    await settled()
    expect(next.sent.map((m) => m.task)).toEqual(['open', 'layer'])
    next.answer({ answer: 'third' })
    expect(await waits).toBe('third')
  })
  test('a task that only waits is dropped without a word; one that ends in time keeps its worker', async () => {
    const work = new PartWork()
    void work.open(source)
    const ending = new AbortController()
    const waits = work.run('gcode', plan, undefined, ending.signal)
    ending.abort()
    await expect(waits).rejects.toThrow('ended')
    const [w] = FakeWorker.all
    w.answer({ answer: 'opened' })
    await settled()
    expect(w.sent.map((m) => m.task)).toEqual(['open'])
    const quick = new AbortController()
    const soon = work.run('gcode', plan, undefined, quick.signal)
    quick.abort()
    w.answer({ answer: 'late' })
    await expect(soon).rejects.toThrow('ended')
    jest.advanceTimersByTime(500)
    expect([w.ended, work.generation]).toEqual([false, 0])
  })
  test('a worker that dies tells who was served, and what waits goes to the next one, once', async () => {
    const work = new PartWork()
    void work.open(source)
    FakeWorker.all[0].answer({ answer: 'opened' })
    await settled()
    const served = work.run('gcode', plan)
    const waits = work.run('layer', { side: 'now', layer: 3 })
    const late = work.run('layer', { side: 'now', layer: 4 })
    FakeWorker.all[0].onerror?.({ preventDefault: () => undefined })
    await expect(served).rejects.toThrow(PartFault)
    const next = FakeWorker.all[1]
    next.answer({ answer: 'opened' })
    await settled()
    next.answer({ answer: 'third' })
    expect(await waits).toBe('third')
    next.answer({ answer: 'fourth' })
    expect(await late).toBe('fourth')
    expect(FakeWorker.all.map((w) => w.sent.map((m) => m.task))).toEqual([
      ['open', 'gcode'],
      ['open', 'layer', 'layer'],
    ])
  })
  test('what is asked for by hand follows a change until there is an answer, then keeps it and says that it is older', async () => {
    const work = new PartWork()
    void work.open(source)
    const [w] = FakeWorker.all
    w.answer({ answer: 'opened' })
    const ask = (title: string) => ({ title }) as PlanAsk
    const { result, rerender } = renderHook(({ title }) => useLookedFor(work, 'faster', ask(title), true), {
      initialProps: { title: 'one' },
    })
    // a change before the first question has even gone out, and one while it is worked on
    rerender({ title: 'two' })
    await act(async () => jest.advanceTimersByTime(400))
    rerender({ title: 'three' })
    await act(async () => jest.advanceTimersByTime(400))
    const last = FakeWorker.all.at(-1)!
    if (last !== w) last.answer({ answer: 'opened' })
    await act(async () => jest.advanceTimersByTime(400))
    expect([result.current.of?.title, result.current.asked.pending]).toEqual(['three', true])
    await act(async () => last.answer({ answer: 'ways' }))
    expect([result.current.asked.data, result.current.older]).toEqual(['ways', false])
    rerender({ title: 'four' })
    expect([result.current.asked.data, result.current.of?.title, result.current.older]).toEqual([
      'ways',
      'three',
      true,
    ])
    act(() => result.current.look())
    await act(async () => jest.advanceTimersByTime(400))
    expect(result.current.asked.pending).toBe(true)
    await act(async () => last.answer({ answer: 'other ways' }))
    expect([result.current.asked.data, result.current.older]).toEqual(['other ways', false])
  })
})
