import { pool, type Pool } from 'workerpool'
import type { TaskInput, TaskName, TaskOutput } from './tasks'
import address from './compute.worker?worker&url'

let workers: Pool | null = null
const theWorkers = (): Pool =>
  (workers ??= pool(address, {
    workerOpts: { type: 'module' },
    minWorkers: 1,
    maxWorkers: 2,
    // what was superseded is ended at once, whatever it is at
    workerTerminateTimeout: 0,
  }))

/** Starts a worker, so that the first task need not wait for it. */
export const warmUp = (): void => void theWorkers()

/**
 * Runs a task in a worker.
 * @param signal ends it: its answer is not wanted any more
 * @throws AbortError when it was ended
 */
export async function compute<Name extends TaskName>(
  name: Name,
  input: TaskInput<Name>,
  signal?: AbortSignal,
): Promise<TaskOutput<Name>> {
  signal?.throwIfAborted()
  const task = theWorkers().exec(name as string, [input])
  const end = () => void task.cancel()
  signal?.addEventListener('abort', end, { once: true })
  try {
    return (await task) as TaskOutput<Name>
  } catch (error) {
    signal?.throwIfAborted()
    throw error
  } finally {
    signal?.removeEventListener('abort', end)
  }
}
