import { MAX_BLOB_PART, type BlobState } from '@verimend/contract'
import { keepFile } from '../src/workers/keepFile'
import { problem } from './demo'

const SHA = 'a'.repeat(64)
const BYTES = Math.floor(2.5 * MAX_BLOB_PART)
/** A file that is only as large as it says. */
const file = () => {
  const made = new File([], 'part.gcode')
  Object.defineProperty(made, 'size', { value: BYTES })
  Object.defineProperty(made, 'slice', {
    value: (from: number, to: number) => {
      const part = new Blob([])
      Object.defineProperty(part, 'size', { value: Math.min(to, BYTES) - from })
      return part
    },
  })
  return made
}

/**
 * Keeps parts as the server does.
 * @param loses whether the n-th request is lost on its way
 */
function store({ have = 0, loses = () => false }: { have?: number; loses?: (n: number) => boolean } = {}) {
  const state: BlobState = { have, done: false } as BlobState
  const asked: string[] = []
  let n = 0
  globalThis.fetch = ((url: string, init: { method?: string; body?: Blob | string } = {}) => {
    const path = String(url).replace('/api/', '')
    asked.push(`${init.method} ${path}`)
    if (loses(n++)) return Promise.reject(new TypeError('no answer'))
    if (init.method === 'PUT') {
      const from = Number(new URL(url, 'http://x').searchParams.get('from'))
      if (from === state.have) state.have += (init.body as Blob).size
    }
    if (path === 'blobs/finish') state.done = state.have === BYTES
    return Promise.resolve({ ok: true, status: 200, json: () => Promise.resolve({ ...state }) })
  }) as unknown as typeof fetch
  return { state, asked }
}
// waiting between tries is not what is tested
beforeEach(() => {
  jest.spyOn(globalThis, 'setTimeout').mockImplementation(((run: () => void) => {
    queueMicrotask(run)
    return 0
  }) as unknown as typeof setTimeout)
})
afterEach(() => jest.restoreAllMocks())

test('a large file goes in parts, in order, and is finished', async () => {
  const { state, asked } = store()
  const steps: number[] = []
  await keepFile(file(), SHA, (s) => steps.push(s), new AbortController().signal)
  expect(state).toEqual({ have: BYTES, done: true })
  expect(asked.filter((a) => a.startsWith('PUT'))).toEqual(
    [0, 1, 2].map((i) => `PUT blobs/${SHA}?from=${i * MAX_BLOB_PART}`),
  )
  expect(steps).toEqual([...steps].sort((a, b) => a - b))
  expect(steps.at(-1)).toBe(1)
})

test('what an earlier try has brought is not sent again', async () => {
  const { asked } = store({ have: MAX_BLOB_PART })
  await keepFile(file(), SHA, () => undefined, new AbortController().signal)
  expect(asked.filter((a) => a.startsWith('PUT'))[0]).toBe(`PUT blobs/${SHA}?from=${MAX_BLOB_PART}`)
})

test('a file that is there already is not sent at all', async () => {
  const { state, asked } = store({ have: BYTES })
  state.done = true
  await keepFile(file(), SHA, () => undefined, new AbortController().signal)
  expect(asked).toEqual(['POST blobs'])
})

test.each([1, 2, 3, 4])('request %i is lost: it goes on from where the server stands', async (lost) => {
  const { state } = store({ loses: (n) => n === lost })
  await keepFile(file(), SHA, () => undefined, new AbortController().signal)
  expect(state).toEqual({ have: BYTES, done: true })
})

test('a server that stays away is given up on, with its sentence', async () => {
  const { asked } = store({ loses: (n) => n > 0 && n % 2 === 1 })
  await expect(keepFile(file(), SHA, () => undefined, new AbortController().signal)).rejects.toThrow(
    /does not answer/,
  )
  expect(asked.filter((a) => a.startsWith('PUT'))).toHaveLength(5)
})

test('bytes that are not the file’s are told at once, and not sent for ever', async () => {
  const { asked } = store({ have: BYTES })
  const keeping = globalThis.fetch
  globalThis.fetch = ((url: string, init: RequestInit) =>
    String(url).endsWith('finish')
      ? Promise.resolve({
          ok: false,
          status: 400,
          json: () => Promise.resolve(problem(400, 'What arrived is not the file that was sent.')),
        })
      : keeping(url, init)) as typeof fetch
  await expect(keepFile(file(), SHA, () => undefined, new AbortController().signal)).rejects.toThrow(
    /not the file that was sent/,
  )
  expect(asked).toEqual(['POST blobs'])
})

test('called off, it stops between parts and sends nothing more', async () => {
  const { asked, state } = store()
  const stop = new AbortController()
  const sending = keepFile(file(), SHA, () => stop.abort(), stop.signal)
  await expect(sending).rejects.toMatchObject({ name: 'AbortError' })
  expect(asked.filter((a) => a.startsWith('PUT'))).toHaveLength(1)
  expect(state.done).toBe(false)
})
