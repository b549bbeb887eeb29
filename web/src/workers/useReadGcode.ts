import type { ReadingContext } from '@verimend/core/toolpath'
import { startTransition, useCallback, useEffect, useId, useRef, useState } from 'react'
import { jobs, useJob, wasEnded } from '../work/jobs'
import { readInWorker, type Opened, type PathSource } from './readInWorker'

type State =
  | { kind: 'idle' }
  | { kind: 'reading'; name: string; share: number }
  | { kind: 'failed'; name: string; message: string }

/** Where reading goes on when its screen is left, and which screen that is. */
export interface ReadingSlot {
  slot: string
  to: string
}
interface Options {
  /** The worker keeps the moves, so that layers can be looked at, until another file is read or the screen is left. */
  keepOpen?: boolean
  /** Reading goes on when the screen is left; whoever asks for that closes what was kept open. Without it, it ends with the screen. */
  lasting?: ReadingSlot
}

/** Reads a G-code file in a worker, with progress and cancel. What is read last in a screen counts. */
export function useReadGcode(onRead: (file: Opened) => void, { keepOpen = false, lasting }: Options = {}) {
  const own = useId()
  const slot = lasting?.slot ?? own
  const to = lasting?.to ?? ''
  const job = useJob(slot)
  const [failed, setFailed] = useState<{ name: string; message: string } | null>(null)
  const open = useRef<Opened | null>(null)
  useEffect(
    () => () => {
      open.current?.close()
      if (slot === own) jobs.cancel(slot)
    },
    [slot, own],
  )
  const stop = useCallback(() => {
    jobs.cancel(slot)
    setFailed(null)
  }, [slot])
  const read = useCallback(
    (source: PathSource, context: ReadingContext) => {
      const { name } = source
      setFailed(null)
      jobs
        .run({ slot, kind: 'reading', name, to }, (onShare, signal) =>
          readInWorker(source, context, onShare, signal),
        )
        .then(
          (opened) => {
            if (keepOpen && slot === own) {
              open.current?.close()
              open.current = opened
            } else if (!keepOpen) opened.close()
            // a long reading is drawn in slices, so that the page goes on answering
            startTransition(() => onRead(opened))
          },
          (error: unknown) => {
            if (!wasEnded(error)) setFailed({ name, message: (error as Error).message })
          },
        )
    },
    [onRead, keepOpen, slot, own, to],
  )
  const state: State = job
    ? { kind: 'reading', name: job.name, share: job.share }
    : failed
      ? { kind: 'failed', ...failed }
      : { kind: 'idle' }
  return { state, read, stop, clear: () => setFailed(null) }
}
