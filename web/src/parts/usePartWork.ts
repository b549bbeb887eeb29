import type { PartVersion } from '@verimend/contract'
import { useEffect, useState, useSyncExternalStore } from 'react'
import { api } from '../api/client'
import type { OpenedMesh, PartTask, PartTasks } from '../workers/part.worker'
import { PartWork, wasEnded } from './partWork'

/** A part that is open in its worker. */
export interface OpenPart {
  work: PartWork
  opened: OpenedMesh | null
  share: number
  error: unknown
}

/** Opens a version of a part in a worker of its own, as long as it is looked at. */
export function usePartWork(version: PartVersion): OpenPart {
  const [state, setState] = useState<OpenPart>(() => ({
    work: new PartWork(),
    opened: null,
    share: 0,
    error: null,
  }))
  const { sha256, fileName, unit } = version
  useEffect(() => {
    const work = new PartWork()
    setState({ work, opened: null, share: 0, error: null })
    work
      .open({ source: api.blobs.href(sha256), name: fileName, unit }, (share) =>
        setState((s) => (s.work === work ? { ...s, share } : s)),
      )
      .then(
        (opened) => setState((s) => (s.work === work ? { ...s, opened } : s)),
        (error: unknown) => {
          if (!wasEnded(error)) setState((s) => (s.work === work ? { ...s, error } : s))
        },
      )
    return () => work.end()
  }, [sha256, fileName, unit])
  return state
}

/** The newest answer of a task, and how the next one comes on. */
export interface Asked<T> {
  data: T | null
  pending: boolean
  share: number
  error: unknown
  /** Ends what is under way; the last answer stays. */
  cancel: () => void
  /** Asks again after it was ended. */
  again: () => void
}

/** How long changes rest before they are worked out, ms. */
const REST = 180

/**
 * Keeps the answer of a task on a part. A newer question ends an older one that is still worked on.
 * @param ask null asks nothing
 */
export function useAsked<T extends PartTask>(
  work: PartWork,
  task: T,
  ask: PartTasks[T]['ask'] | null,
): Asked<PartTasks[T]['answer']> {
  type Answer = PartTasks[T]['answer']
  const generation = useSyncExternalStore(work.subscribe, () => work.generation)
  const [tries, setTries] = useState(0)
  const [state, setState] = useState<{
    data: Answer | null
    pending: boolean
    share: number
    error: unknown
  }>({ data: null, pending: false, share: 0, error: null })
  const [ending, setEnding] = useState<AbortController | null>(null)
  const key = ask ? JSON.stringify(ask) : null
  useEffect(() => {
    if (key === null) {
      setState((s) => (s.pending || s.error ? { ...s, pending: false, error: null } : s))
      return
    }
    const controller = new AbortController()
    setEnding(controller)
    setState((s) => ({ ...s, pending: true, share: 0, error: null }))
    const wait = setTimeout(() => {
      work
        .run(
          task,
          JSON.parse(key) as PartTasks[T]['ask'],
          (share) => setState((s) => ({ ...s, share })),
          controller.signal,
        )
        .then(
          (data) => {
            if (!controller.signal.aborted) setState({ data, pending: false, share: 1, error: null })
          },
          (error: unknown) => {
            if (wasEnded(error)) return
            setState((s) => ({ ...s, pending: false, error }))
          },
        )
    }, REST)
    return () => {
      clearTimeout(wait)
      controller.abort()
    }
  }, [work, task, key, generation, tries])
  return {
    ...state,
    cancel: () => {
      ending?.abort()
      setState((s) => ({ ...s, pending: false }))
    },
    again: () => setTries((n) => n + 1),
  }
}
