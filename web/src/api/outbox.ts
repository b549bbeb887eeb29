import type { SignResults } from '@verimend/core/casework'
import type { SignId } from '@verimend/core/knowledge'
import type { MeasuredKind } from '@verimend/core/measurement'
import type { HeightRange } from '@verimend/core/toolpath'
import { call, mayArriveLater } from './http'
import { newId } from './ids'

/** What was noted. */
export type Noted =
  | { of: 'reading'; cell: string }
  | { of: 'sign'; sign: SignId; state: 'present' | 'absent' | null }
  | { of: 'outcome'; attempt: number; results: SignResults }
  | { of: 'heights'; ranges: readonly HeightRange[] }
  | { of: 'measurement'; kind: MeasuredKind }

/** Something a person noted while the server could not be reached. */
export interface KeptNote {
  id: string
  /** ISO time it was noted. */
  at: string
  /** What it is; its words are made where it is shown. */
  what: Noted
  /** Where it is seen in the application. */
  href: string
  method: 'PUT' | 'POST'
  path: string
  body: unknown
  /** Whether a later one at the same address takes its place. */
  replaces: boolean
  /** Why it cannot be sent as it is; null while it only waits. */
  refused: string | null
}
type NewNote = Pick<KeptNote, 'what' | 'href' | 'method' | 'path' | 'body' | 'replaces'>

/** What was noted is kept on this device, and sent as soon as the server takes it. */
export class KeptForLater extends Error {
  constructor() {
    super(
      stored.fits
        ? 'It could not be sent yet. It is kept on this device and sent as soon as it can be.'
        : 'It could not be sent yet, and there is no room left on this device to keep it: leave this page open until it is sent.',
    )
    this.name = 'KeptForLater'
  }
}

const KEY = 'verimend.kept'
/** How often it is tried again, ms. */
const AGAIN = 4000
/** ms after which what has no answer is told to be kept, and after which it is no longer waited for. */
export const PATIENCE = 3000
const GIVEN_UP = 20_000

function read(): KeptNote[] {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? '[]') as KeptNote[]
  } catch {
    return []
  }
}
/** Whether all that waits has room on this device. */
const stored = { fits: true }
let notes: readonly KeptNote[] = read()
/** Notes that are being sent. */
const underWay = new Set<string>()
const listeners = new Set<() => void>()
function put(next: readonly KeptNote[]): void {
  notes = next
  try {
    localStorage.setItem(KEY, JSON.stringify(next))
    stored.fits = true
  } catch {
    // no room, or none is given to this page: it is held as long as the page is open
    stored.fits = false
  }
  listeners.forEach((tell) => tell())
}
const ask = <T>({ method, path }: Pick<KeptNote, 'method' | 'path'>, body: unknown) =>
  call<T>(method, path, body, AbortSignal.timeout(GIVEN_UP))

/** A note that takes the place of one at the same address; what stood there when the first was noted stays known. */
function keep(note: NewNote): KeptNote {
  const before = note.replaces ? notes.find((n) => n.path === note.path && !n.refused) : undefined
  const was = (before?.body as { was?: unknown } | undefined)?.was
  const body = before && was !== undefined ? { ...(note.body as object), was } : note.body
  const made: KeptNote = { ...note, body, id: newId(), at: new Date().toISOString(), refused: null }
  // one that is being sent may arrive: the newer one is told then what stands there
  if (before && underWay.has(before.id)) follows.set(before.id, made.id)
  put([...notes.filter((n) => n !== before), made])
  later()
  return made
}
/** Notes that are being sent, and the newer one at the same address. */
const follows = new Map<string, string>()

/** A note held against what an earlier one, which has arrived, left there. */
function beside(body: unknown, earlier: unknown, arrived: unknown): unknown {
  const { was: _was, ...stands } = earlier as { was?: unknown }
  const { rev } = (arrived ?? {}) as { rev?: number }
  return {
    ...(body as object),
    ...('was' in (body as object) && { was: stands }),
    ...('rev' in (body as object) && rev !== undefined && { rev }),
  }
}

/** What became of a note that was sent. @returns whether the next one can go */
async function settled(note: KeptNote, answer: Promise<unknown>): Promise<boolean> {
  underWay.add(note.id)
  try {
    const arrived = await answer
    const newer = follows.get(note.id)
    put(
      notes
        .filter((n) => n.id !== note.id)
        .map((n) => (n.id === newer ? { ...n, body: beside(n.body, note.body, arrived) } : n)),
    )
    return true
  } catch (error) {
    if (mayArriveLater(error)) {
      later()
      return false
    }
    const refused = error instanceof Error ? error.message : 'It could not be sent.'
    put(notes.map((n) => (n.id === note.id ? { ...n, refused } : n)))
    return true
  } finally {
    underWay.delete(note.id)
    follows.delete(note.id)
  }
}

let timer: ReturnType<typeof setTimeout> | null = null
const later = () => (timer ??= setTimeout(() => ((timer = null), void outbox.flush()), AGAIN))
let sent: () => void = () => undefined
let flushing = false

export const outbox = {
  subscribe(listener: () => void) {
    listeners.add(listener)
    return () => void listeners.delete(listener)
  },
  notes: () => notes,
  /** Whether what waits would outlive this page. */
  fits: () => stored.fits,

  /** Sends what is left of before, and tells whenever something of it has arrived. */
  begin(arrived: () => void) {
    sent = arrived
    window.addEventListener('online', () => void outbox.flush())
    // another tab may have kept or sent something
    window.addEventListener('storage', (e) => {
      if (e.key !== KEY) return
      notes = read()
      listeners.forEach((tell) => tell())
    })
    if (notes.length) void outbox.flush()
  },

  /**
   * Sends a note, or keeps it where the server does not take it now. One that has no answer within three seconds is kept
   * as well, while its answer is still waited for: a server that gets it twice takes it once.
   * @throws KeptForLater when it was kept; ApiProblem when the server refuses it
   */
  async send<T>(note: NewNote): Promise<T> {
    // in order: what was noted of this before goes first
    if (notes.some((n) => n.path === note.path && !n.refused)) {
      keep(note)
      throw new KeptForLater()
    }
    // what stood there is only of use to a note that comes late
    const { was: _was, ...now } = note.body as { was?: unknown }
    const answer = ask<T>(note, now)
    const soon = await Promise.race([
      answer.then(
        (data) => ({ data }),
        (error: unknown) => ({ error }),
      ),
      new Promise<null>((r) => setTimeout(r, PATIENCE, null)),
    ])
    if (soon && 'data' in soon) return soon.data
    if (soon && !mayArriveLater(soon.error)) throw soon.error
    const kept = keep(note)
    if (!soon) void settled(kept, answer).then(sent)
    throw new KeptForLater()
  },

  /** Sends what waits, in order. What the server refuses stays, with its reason, for the person to decide. */
  async flush(): Promise<void> {
    if (flushing) return
    flushing = true
    try {
      for (;;) {
        const next = notes.find((n) => !n.refused)
        if (!next) return
        if (underWay.has(next.id)) return void later()
        if (!(await settled(next, ask(next, next.body)))) return
        // what stands there now is to be seen
        sent()
      }
    } finally {
      flushing = false
    }
  },

  /** Sends a refused note once more; over what stands there now where the person says so. */
  again(id: string) {
    put(
      notes.map((n) => {
        if (n.id !== id) return n
        const { was: _was, rev: _rev, ...body } = n.body as { was?: unknown; rev?: number }
        return { ...n, body, refused: null }
      }),
    )
    return outbox.flush()
  },
  drop(id: string) {
    put(notes.filter((n) => n.id !== id))
  },
}
