import { TASKS, type TaskInput, type TaskName, type TaskOutput } from '../src/workers/tasks'

/** Tasks that were asked for, in order. */
export const computed: TaskName[] = []

/** Stands in for the workers: what is asked is copied as it would be on its way there, and worked out here. */
export async function compute<Name extends TaskName>(
  name: Name,
  input: TaskInput<Name>,
  signal?: AbortSignal,
): Promise<TaskOutput<Name>> {
  await Promise.resolve()
  signal?.throwIfAborted()
  computed.push(name)
  return TASKS[name](structuredClone(input) as never) as TaskOutput<Name>
}
export const warmUp = () => undefined
