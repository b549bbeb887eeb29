import { startTransition, useEffect, useState } from 'react'
import { compute } from './compute'
import type { TaskInput, TaskName, TaskOutput } from './tasks'

export interface Computed<T> {
  /** The newest answer there is, also while the next is on its way. */
  data: T | undefined
  /** The answer to what is asked now is still on its way. */
  pending: boolean
  error: unknown
}

/**
 * Keeps the answer of a task for its input, worked out in a worker. A newer input ends what is still running for an
 * older one.
 * @param input has to be the same object for the same question; null asks nothing
 */
export function useComputed<Name extends TaskName>(
  name: Name,
  input: TaskInput<Name> | null,
): Computed<TaskOutput<Name>> {
  const [answer, setAnswer] = useState<{ of: unknown; data?: TaskOutput<Name>; error?: unknown }>({
    of: null,
  })
  useEffect(() => {
    if (!input) return
    const ending = new AbortController()
    compute(name, input, ending.signal).then(
      // drawn in slices, so that the page goes on answering
      (data) => startTransition(() => setAnswer({ of: input, data })),
      (error: unknown) => {
        if (!ending.signal.aborted) setAnswer((was) => ({ ...was, of: input, error }))
      },
    )
    return () => ending.abort()
  }, [name, input])
  return {
    data: input ? answer.data : undefined,
    pending: input !== null && answer.of !== input,
    error: answer.of === input ? answer.error : undefined,
  }
}
