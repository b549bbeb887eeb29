import { openFiles } from '../src/work/openFiles'
import { openParts } from '../src/parts/openParts'
import { jobs } from '../src/work/jobs'
import type { Opened } from '../src/workers/readInWorker'

/** A worker that answers nothing of its own accord. */
class SilentWorker {
  static all: SilentWorker[] = []
  onmessage: ((event: { data: unknown }) => void) | null = null
  onerror: ((event: unknown) => void) | null = null
  ended = false
  last: { id: number } | null = null
  constructor() {
    SilentWorker.all.push(this)
  }
  postMessage(asked: { id: number }) {
    this.last = asked
  }
  terminate() {
    this.ended = true
  }
  answers(answer: unknown) {
    this.onmessage?.({ data: { id: this.last!.id, answer } })
  }
}
beforeEach(() => {
  SilentWorker.all = []
  Object.assign(globalThis, { Worker: SilentWorker })
  jest.useFakeTimers()
})
afterEach(() => {
  jest.runOnlyPendingTimers()
  jest.useRealTimers()
})

describe('files that stay open when their screen is left', () => {
  const opened = (name: string) => ({ name, close: jest.fn() }) as unknown as Opened & { close: jest.Mock }
  afterEach(() => openFiles.close())

  test('two are held; the third closes the one that was opened first, and a new one of a slot closes the old one', () => {
    const [one, two, three, another] = ['one', 'two', 'three', 'another'].map(opened)
    openFiles.put('a', one)
    openFiles.put('b', two)
    expect([one, two].map((f) => f.close.mock.calls.length)).toEqual([0, 0])
    openFiles.put('c', three)
    expect([one, two, three].map((f) => f.close.mock.calls.length)).toEqual([1, 0, 0])
    expect(['a', 'b', 'c'].map((slot) => openFiles.of(slot)?.name ?? null)).toEqual([null, 'two', 'three'])
    // opened anew it is the newest
    openFiles.put('b', another)
    expect(two.close).toHaveBeenCalledTimes(1)
    openFiles.put('a', one)
    expect(openFiles.of('c')).toBeNull()
    expect(openFiles.of('b')).toBe(another)
  })

  test('whoever listens hears of each change, and not any more when they have left', () => {
    const heard = jest.fn()
    const leave = openFiles.subscribe(heard)
    openFiles.put('a', opened('one'))
    openFiles.close('a')
    expect(heard).toHaveBeenCalledTimes(2)
    leave()
    openFiles.close()
    expect(heard).toHaveBeenCalledTimes(2)
  })
})

describe('parts that stay open in their workers', () => {
  const ask = { bytes: 1 } as never

  test('left and come back to, a part is the one that was open; after two minutes it is put away', () => {
    const leave = openParts.use('p1', 'Latch', '/parts/p1')
    const work = openParts.of('p1')
    void work.open(ask).catch(() => undefined)
    SilentWorker.all[0].answers({})
    leave()
    jest.advanceTimersByTime(100_000)
    expect(openParts.of('p1')).toBe(work)
    const again = openParts.use('p1', 'Latch', '/parts/p1')
    jest.advanceTimersByTime(200_000)
    // somebody looks at it: it stays however long that is
    expect(SilentWorker.all[0].ended).toBe(false)
    again()
    jest.advanceTimersByTime(121_000)
    expect(SilentWorker.all[0].ended).toBe(true)
    expect(openParts.of('p1')).not.toBe(work)
  })

  test('what is being planned goes on as a job when the screen is left, and ends from the tray with its worker', async () => {
    const leave = openParts.use('p2', 'Gasket', '/parts/p2')
    const work = openParts.of('p2')
    const planning = work.open(ask).catch((error: Error) => error.name)
    leave()
    await Promise.resolve()
    expect(jobs.all().map((j) => [j.kind, j.name, j.to])).toContainEqual(['planning', 'Gasket', '/parts/p2'])
    jobs.cancel('part p2')
    await jest.advanceTimersByTimeAsync(500)
    expect(SilentWorker.all[0].ended).toBe(true)
    expect(jobs.all()).toEqual([])
    // whoever still waited is told
    expect(await planning).toBe('AbortError')
  })

  test('of several that were left only the last stays; what a screen shows is never put away', () => {
    const shown = openParts.use('p3', 'Shown', '/parts/p3')
    const first = openParts.use('p4', 'First', '/parts/p4')
    const second = openParts.use('p5', 'Second', '/parts/p5')
    const works = ['p3', 'p4', 'p5'].map((key) => openParts.of(key))
    first()
    second()
    expect(openParts.of('p3')).toBe(works[0])
    expect(openParts.of('p5')).toBe(works[2])
    expect(openParts.of('p4')).not.toBe(works[1])
    shown()
  })
})
