import { join, relative } from 'node:path'
import { fileURLToPath } from 'node:url'

type Handler = (event: { data: unknown }) => void
const page = globalThis as unknown as { onmessage: Handler | null; postMessage: (data: unknown) => void }

const ROOT = join(__dirname, '..', '..')
/** Where the bundle of a module lies, as scripts/lib/testBundle.mjs lays it. */
const bundleOf = (address: URL | string) =>
  join(ROOT, '.cache/tests', relative(ROOT, fileURLToPath(String(address))).replace(/\.ts$/, '.cjs'))

/** Workers that were started, in order. */
export const started: FakeWorker[] = []

/**
 * Stands in for a worker: runs its own module, each in a world of its own, and copies what crosses as it would be
 * copied on its way. One that was ended says nothing any more.
 */
export class FakeWorker {
  onmessage: Handler | null = null
  onerror: ((event: unknown) => void) | null = null
  ended = false
  private readonly handler: Handler

  constructor(address: URL | string) {
    page.onmessage = null
    jest.isolateModules(() => {
      // eslint-disable-next-line @typescript-eslint/no-require-imports
      require(bundleOf(address))
    })
    this.handler = page.onmessage!
    started.push(this)
  }

  postMessage(data: unknown) {
    setTimeout(() => {
      if (this.ended) return
      page.postMessage = (answer) => setTimeout(() => this.ended || this.onmessage?.({ data: answer }))
      this.handler({ data })
    })
  }

  terminate() {
    this.ended = true
  }
}

/** Gives the page workers. */
export function withWorkers() {
  Object.assign(globalThis, { Worker: FakeWorker })
  beforeEach(() => void (started.length = 0))
}
