import { parentPort } from 'node:worker_threads'
import * as tasks from './tasks'

interface Call {
  id: number
  task: keyof typeof tasks
  args: unknown[]
}

parentPort!.on('message', (call: Call) => {
  const work = tasks[call.task] as (...args: unknown[]) => unknown
  Promise.resolve()
    .then(() => work(...call.args))
    .then(
      (result) => parentPort!.postMessage({ id: call.id, result }),
      (error: unknown) =>
        parentPort!.postMessage({
          id: call.id,
          error: error instanceof Error ? error.message : String(error),
        }),
    )
})
