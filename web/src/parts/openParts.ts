import { jobs } from '../work/jobs'
import { PartWork } from './partWork'

/** How long a part stays open in its worker after its screen was left, ms. */
const STAYS = 120_000

interface Open {
  work: PartWork
  users: number
  closing: ReturnType<typeof setTimeout> | null
}

/** Parts that are open in workers: one that is left goes on with what it is at, and stays open for a while. */
class OpenParts {
  private readonly open = new Map<string, Open>()

  /** The part's worker, whether it is open already or not. */
  of(key: string): PartWork {
    let part = this.open.get(key)
    if (!part) this.open.set(key, (part = { work: new PartWork(), users: 0, closing: null }))
    return part.work
  }

  /** A screen shows it. @returns to be called when the screen is left */
  use(key: string, name: string, to: string): () => void {
    this.of(key)
    const part = this.open.get(key)!
    part.users++
    if (part.closing) clearTimeout(part.closing)
    const slot = `part ${key}`
    const unwatch = jobs.watch(slot)
    return () => {
      unwatch()
      if (--part.users) return
      // only the one that was left last stays open
      for (const [other, { users }] of this.open) if (other !== key && !users) this.close(other)
      part.closing = setTimeout(() => this.close(key), STAYS)
      if (part.work.busy)
        jobs
          .run({ slot, kind: 'planning', name, to }, (onShare, signal) => part.work.idle(onShare, signal))
          // ended in the tray
          .catch(() => this.close(key))
    }
  }

  private close(key: string): void {
    const part = this.open.get(key)
    if (!part || part.users) return
    if (part.closing) clearTimeout(part.closing)
    part.work.end()
    this.open.delete(key)
    jobs.cancel(`part ${key}`)
  }
}
export const openParts = new OpenParts()
