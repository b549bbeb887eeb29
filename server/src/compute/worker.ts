import { TASKS, type JobName } from './tasks'

/** A thread's work: the task named, with what it needs. */
export default function work({ name, input }: { name: JobName; input: never }): unknown {
  return TASKS[name](input)
}
