import type { PartRecord, PartVersion } from '@verimend/contract'
import { useEffect, useRef, useState, useSyncExternalStore } from 'react'
import { api } from '../api/client'
import type { OpenedMesh, PartTask, PartTasks, PlanAsk } from '../workers/part.worker'
import { wasEnded } from '../work/jobs'
import { openParts } from './openParts'
import type { PartWork } from './partWork'

/** A part that is open in its worker. */
export interface OpenPart {
  work: PartWork
  opened: OpenedMesh | null
  error: unknown
}

/**
 * Opens a version of a part in a worker of its own; whoever uses it is made anew for another. What it is at goes on when its screen
 * is left.
 */
export function usePartWork(
  { sha256, fileName, unit }: PartVersion,
  part: Pick<PartRecord, 'id' | 'name'>,
): OpenPart {
  const key = `${part.id} ${sha256} ${unit}`
  const work = openParts.of(key)
  const [state, setState] = useState<Omit<OpenPart, 'work'>>({ opened: null, error: null })
  const { id, name } = part
  useEffect(() => openParts.use(key, name, `/parts/${id}`), [key, id, name])
  useEffect(() => {
    work.open({ source: api.blobs.href(sha256), name: fileName, unit }).then(
      (opened) => setState({ opened, error: null }),
      (error: unknown) => {
        if (!wasEnded(error)) setState({ opened: null, error })
      },
    )
  }, [work, sha256, fileName, unit])
  return { work, ...state }
}

/** The newest answer of a task, and how the next one comes on. */
export interface Asked<T> {
  data: T | null
  pending: boolean
  share: number
  error: unknown
  /** It was ended by hand, and is not asked again by itself. */
  ended: boolean
  /** Ends what is under way; the last answer stays. */
  cancel: () => void
  /** Asks again after it failed or was ended. */
  again: () => void
}

/** How long changes rest before they are worked out, ms. */
const REST = 180

interface Known<T> {
  data: T | null
  error: unknown
  /** The question that was answered or failed last. */
  settled: string | null
  /** What was ended by hand. */
  ended: string | null
  share: { of: string; share: number } | null
}

/**
 * Keeps the answer of a task on a part. A newer question ends an older one that is still worked on.
 * @param ask null asks nothing
 */
export function useAsked<T extends PartTask>(
  work: PartWork,
  task: T,
  ask: PartTasks[T]['ask'] | null,
): Asked<PartTasks[T]['answer']> {
  const generation = useSyncExternalStore(work.subscribe, () => work.generation)
  const [tries, setTries] = useState(0)
  const [known, setKnown] = useState<Known<PartTasks[T]['answer']>>({
    data: null,
    error: null,
    settled: null,
    ended: null,
    share: null,
  })
  const ending = useRef<AbortController | null>(null)
  const key = ask ? JSON.stringify(ask) : null
  const stamp = key === null ? null : `${tries} ${key}`
  // a worker that begins anew does again what was not ended by hand
  const ended = stamp !== null && known.ended === stamp
  const question = stamp === null || ended ? null : `${generation} ${stamp}`
  // what is under way when the screen is left goes on; what is asked anew ends what was asked before
  const leaving = useRef(false)
  useEffect(() => {
    leaving.current = false
    return () => void (leaving.current = true)
  }, [])
  useEffect(() => {
    if (question === null || key === null) return
    const controller = new AbortController()
    ending.current = controller
    const wait = setTimeout(() => {
      work
        .run(
          task,
          JSON.parse(key) as PartTasks[T]['ask'],
          (share) => setKnown((k) => ({ ...k, share: { of: question, share } })),
          controller.signal,
        )
        .then(
          (data) => {
            if (!controller.signal.aborted)
              setKnown((k) => ({ ...k, data, error: null, settled: question, share: null }))
          },
          (error: unknown) => {
            if (!wasEnded(error)) setKnown((k) => ({ ...k, error, settled: question }))
          },
        )
    }, REST)
    return () => {
      clearTimeout(wait)
      if (!leaving.current) controller.abort()
    }
  }, [work, task, key, question])
  const pending = question !== null && known.settled !== question
  return {
    data: known.data,
    pending,
    share: known.share?.of === question ? known.share.share : 0,
    error: pending || question === null ? null : known.error,
    ended,
    cancel: () => {
      ending.current?.abort()
      setKnown((k) => ({ ...k, error: null, ended: stamp }))
    },
    again: () => setTries((n) => n + 1),
  }
}

/** A task that is asked for by hand, because it costs many plans. */
export interface LookedFor<T> {
  asked: Asked<T>
  /** The question that is answered, or worked on; null before anybody asked. */
  of: PlanAsk | null
  /** The part or its recipe changed since it was answered. */
  older: boolean
  look: () => void
}

/**
 * A task that begins when somebody asks for it. What changes before there is an answer is asked instead; a later change keeps the
 * answer until it is asked for again.
 * @param atOnce it was asked for before the part was opened
 */
export function useLookedFor<T extends 'faster' | 'worth'>(
  work: PartWork,
  task: T,
  ask: PlanAsk,
  atOnce = false,
): LookedFor<PartTasks[T]['answer']> {
  const [of, setOf] = useState<PlanAsk | null>(atOnce ? ask : null)
  const asked = useAsked(work, task, of)
  const other = of !== null && JSON.stringify(of) !== JSON.stringify(ask)
  if (other && !asked.data) setOf(ask)
  return { asked, of, older: other && !!asked.data, look: () => setOf(ask) }
}
