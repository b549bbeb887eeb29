import type { Reason } from '@verimend/core/quantity'
import type { FromPartWorker, PartTask, PartTasks, ToPartWorker } from '../workers/part.worker'

/** What came of a task that could not be done: a sentence to act on. */
export class PartFault extends Error {
  constructor(
    message: string,
    readonly reason: Reason | null,
  ) {
    super(message)
  }
}

interface Waiting {
  task: PartTask
  ask: unknown
  id: number
  onShare?: (share: number) => void
  resolve: (answer: never) => void
  reject: (error: unknown) => void
}

/** Tasks whose last answer is worth keeping while the part is open; opening one is told by its place alone. */
const LASTING: readonly PartTask[] = ['open', 'placings', 'plan', 'worth', 'faster']
/** How long a task that nobody waits for any more may go on before its worker is ended, ms. */
const GRACE = 120

/**
 * A part at work in a worker of its own: one task after another. What is cancelled or superseded ends with its worker; the
 * next one opens the part again.
 */
export class PartWork {
  private worker: Worker | null = null
  private asked = 0
  private queue: Waiting[] = []
  private running: Waiting | null = null
  private toOpen: PartTasks['open']['ask'] | null = null
  private ended = false
  private readonly listeners = new Set<() => void>()
  private readonly answers = new Map<string, { asked: string; answer: unknown }>()
  private share = 0
  /** Grows when the worker had to begin anew: what it had planned is gone. */
  generation = 0

  readonly subscribe = (listener: () => void) => {
    this.listeners.add(listener)
    return () => void this.listeners.delete(listener)
  }

  /** Reads a mesh file and makes it solid; later tasks are of this part. */
  open(ask: PartTasks['open']['ask'], onShare?: (share: number) => void, signal?: AbortSignal) {
    this.ended = false
    this.toOpen = ask
    return this.run('open', ask, onShare, signal)
  }

  /** Does a task; the last answer of each kind is given again at once where the same is asked. */
  async run<T extends PartTask>(
    task: T,
    ask: PartTasks[T]['ask'],
    onShare?: (share: number) => void,
    signal?: AbortSignal,
  ): Promise<PartTasks[T]['answer']> {
    if (!LASTING.includes(task)) return this.queued(task, ask, onShare, signal)
    const kind = 'side' in ask ? `${task} ${ask.side}` : task
    // a file is named by its place; what is asked is plain data
    const asked = JSON.stringify(ask)
    const known = this.answers.get(kind)
    if (known?.asked === asked && !this.ended) return known.answer as PartTasks[T]['answer']
    const answer = await this.queued(task, ask, onShare, signal)
    this.answers.set(kind, { asked, answer })
    return answer
  }

  private queued<T extends PartTask>(
    task: T,
    ask: PartTasks[T]['ask'],
    onShare?: (share: number) => void,
    signal?: AbortSignal,
  ): Promise<PartTasks[T]['answer']> {
    return new Promise((resolve, reject) => {
      if (signal?.aborted || this.ended) return reject(new DOMException('ended', 'AbortError'))
      const waiting: Waiting = { task, ask, id: ++this.asked, onShare, resolve: resolve as never, reject }
      this.queue.push(waiting)
      signal?.addEventListener('abort', () => this.drop(waiting), { once: true })
      this.next()
    })
  }

  private drop(waiting: Waiting): void {
    const aborted = new DOMException('ended', 'AbortError')
    const at = this.queue.indexOf(waiting)
    if (at >= 0) {
      this.queue.splice(at, 1)
      waiting.reject(aborted)
    } else if (this.running === waiting) {
      waiting.reject(aborted)
      setTimeout(() => {
        if (this.running === waiting) this.restart()
      }, GRACE)
    }
  }

  /** Ends the worker with all it is at; what still waits is done by the next one, after opening the part again. */
  private restart(): void {
    this.worker?.terminate()
    this.worker = null
    const wasOpening = this.running?.task === 'open'
    this.running = null
    this.generation++
    this.answers.clear()
    if (this.toOpen && !wasOpening && !this.ended)
      this.queue.unshift({
        task: 'open',
        ask: this.toOpen,
        id: ++this.asked,
        resolve: () => undefined,
        reject: () => undefined,
      })
    for (const listener of this.listeners) listener()
    this.next()
  }

  private next(): void {
    if (this.running || !this.queue.length || this.ended) return
    const waiting = this.queue.shift()!
    this.running = waiting
    this.worker ??= this.started()
    this.worker.postMessage({ task: waiting.task, id: waiting.id, ask: waiting.ask } as ToPartWorker)
  }

  private started(): Worker {
    const worker = new Worker(new URL('../workers/part.worker.ts', import.meta.url), { type: 'module' })
    const finish = (end: (waiting: Waiting) => void) => {
      const waiting = this.running
      this.running = null
      if (waiting) end(waiting)
      this.next()
    }
    worker.onmessage = ({ data }: MessageEvent<FromPartWorker>) => {
      if (this.running?.id !== data.id) return
      if ('share' in data) {
        this.share = data.share
        this.running.onShare?.(data.share)
      } else if ('fault' in data) finish((w) => w.reject(new PartFault(data.fault, data.reason)))
      else finish((w) => w.resolve(data.answer as never))
    }
    worker.onerror = (event) => {
      event.preventDefault()
      if (this.worker !== worker) return
      this.running?.reject(new PartFault('The part could not be worked out: its worker ended.', null))
      this.restart()
    }
    return worker
  }

  /** Ends the worker; whoever still waits for something is told. */
  end(): void {
    this.ended = true
    this.worker?.terminate()
    this.worker = null
    const waiting = this.running ? [this.running, ...this.queue] : this.queue
    this.running = null
    this.queue = []
    this.answers.clear()
    for (const { reject } of waiting) reject(new DOMException('ended', 'AbortError'))
  }

  /** Something is being worked out or waits for it. */
  get busy(): boolean {
    return this.running !== null || this.queue.length > 0
  }
  /** Resolves when nothing is worked out any more. @param onShare how far the task is that is under way */
  async idle(onShare: (share: number) => void, signal: AbortSignal): Promise<void> {
    while (this.busy && !this.ended) {
      signal.throwIfAborted()
      onShare(this.share)
      await new Promise((r) => setTimeout(r, 150))
    }
  }
}
