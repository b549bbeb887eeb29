import { Worker } from 'node:worker_threads'
import type * as tasks from './tasks'

type Tasks = typeof tasks
type Result<K extends keyof Tasks> = Awaited<ReturnType<Tasks[K]>>

/** Runs what takes longer than a moment. */
export interface Runner {
  run<K extends keyof Tasks>(task: K, ...args: Parameters<Tasks[K]>): Promise<Result<K>>
}

/** A thread for everything that takes longer than a moment: reading files, printing, drawing. Started anew when it ends. */
export class Work implements Runner {
  private worker: Worker | null = null
  private readonly open = new Map<number, { resolve: (v: never) => void; reject: (e: Error) => void }>()
  private last = 0

  constructor(private readonly program: URL | string) {}

  private thread(): Worker {
    if (this.worker) return this.worker
    const worker = new Worker(this.program)
    worker.on('message', ({ id, result, error }: { id: number; result?: unknown; error?: string }) => {
      const call = this.open.get(id)
      this.open.delete(id)
      if (error === undefined) call?.resolve(result as never)
      else call?.reject(new Error(error))
    })
    const ended = (error?: Error) => {
      if (this.worker !== worker) return
      this.worker = null
      for (const call of this.open.values()) call.reject(error ?? new Error('The thread ended.'))
      this.open.clear()
    }
    worker.on('error', ended)
    worker.on('exit', () => ended())
    this.worker = worker
    return worker
  }

  run<K extends keyof Tasks>(task: K, ...args: Parameters<Tasks[K]>): Promise<Result<K>> {
    return new Promise((resolve, reject) => {
      const id = ++this.last
      this.open.set(id, { resolve: resolve as (v: never) => void, reject })
      this.thread().postMessage({ id, task, args })
    })
  }

  async close(): Promise<void> {
    const { worker } = this
    this.worker = null
    await worker?.terminate()
  }
}
