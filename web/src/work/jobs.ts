import { useEffect, useSyncExternalStore } from 'react'
import { awake } from './awake'

/** What goes on in the background of a screen. */
export type JobKind = 'reading' | 'keeping' | 'sending' | 'planning' | 'changing'

/** Long work that goes on whichever screen is shown. */
export interface Job {
  /** One job at a time in each: a later one ends the one before. */
  slot: string
  kind: JobKind
  name: string
  /** The screen it belongs to. */
  to: string
  /** Share done, 0 to 1. */
  share: number
  /** Its own screen is open and shows it. */
  watched: boolean
}
/** How a job ended whose screen was not open. */
export interface Ended {
  job: Job
  /** What went wrong; null where it came to its end. */
  fault: unknown
}
type About = Pick<Job, 'slot' | 'kind' | 'name' | 'to'>
type Work<R> = (onShare: (share: number) => void, signal: AbortSignal) => Promise<R>

/** Long work of all screens: it outlives the screen that began it, and can be ended from anywhere. */
export class Jobs {
  private readonly running = new Map<string, { about: About; share: number; ending: AbortController }>()
  private readonly watchers = new Map<string, number>()
  private readonly listeners = new Set<() => void>()
  private readonly endListeners = new Set<(ended: Ended) => void>()
  private list: readonly Job[] = []

  readonly subscribe = (listener: () => void) => {
    this.listeners.add(listener)
    return () => void this.listeners.delete(listener)
  }
  readonly all = (): readonly Job[] => this.list
  /** Tells of jobs that end while nobody watches them. */
  onEnd(listener: (ended: Ended) => void): () => void {
    this.endListeners.add(listener)
    return () => void this.endListeners.delete(listener)
  }

  /** Says that the screen of a slot is open. @returns to be called when it is left */
  watch(slot: string): () => void {
    this.watchers.set(slot, (this.watchers.get(slot) ?? 0) + 1)
    this.changed()
    return () => {
      this.watchers.set(slot, (this.watchers.get(slot) ?? 1) - 1)
      this.changed()
    }
  }

  /**
   * Does long work in a slot.
   * @throws AbortError where it was ended, or what the work throws
   */
  async run<R>(about: About, work: Work<R>): Promise<R> {
    const { slot } = about
    awake.wake()
    this.cancel(slot)
    const own = { about, share: 0, ending: new AbortController() }
    this.running.set(slot, own)
    this.changed()
    const end = (fault: unknown) => {
      const job = this.jobOf(own)
      if (this.running.get(slot) === own) this.running.delete(slot)
      this.changed()
      if (!job.watched && !own.ending.signal.aborted)
        for (const listener of this.endListeners) listener({ job, fault })
    }
    try {
      const result = await work((share) => {
        // a bar needs no finer steps
        if (Math.floor(share * 100) === Math.floor(own.share * 100)) return
        own.share = share
        this.changed()
      }, own.ending.signal)
      own.ending.signal.throwIfAborted()
      end(null)
      return result
    } catch (error) {
      end(error)
      throw error
    }
  }

  /** Ends what goes on in a slot, if anything. */
  cancel(slot: string): void {
    const own = this.running.get(slot)
    if (!own) return
    this.running.delete(slot)
    own.ending.abort()
    this.changed()
  }

  private jobOf({ about, share }: { about: About; share: number }): Job {
    return { ...about, share, watched: (this.watchers.get(about.slot) ?? 0) > 0 }
  }
  private changed(): void {
    this.list = [...this.running.values()].map((own) => this.jobOf(own))
    for (const listener of this.listeners) listener()
  }
}

/** The page's own. */
export const jobs = new Jobs()

/** What goes on in a slot, for the screen that shows it; null where nothing does. */
export function useJob(slot: string): Job | null {
  const list = useSyncExternalStore(jobs.subscribe, jobs.all)
  useEffect(() => jobs.watch(slot), [slot])
  return list.find((j) => j.slot === slot) ?? null
}

/** Whether something was ended by hand or by what came after it. */
export const wasEnded = (error: unknown): boolean =>
  error instanceof DOMException && error.name === 'AbortError'
