import type { SignResults } from '@verimend/core/casework'
import type { SignId } from '@verimend/core/knowledge'
import type { MeasuredKind } from '@verimend/core/measurement'
import type { HeightRange } from '@verimend/core/toolpath'
import { ApiProblem, call } from './http'
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

/** What was noted is kept on this device, and sent as soon as the server answers again. */
export class KeptForLater extends Error {
  constructor() {
    super('There is no connection. It is kept on this device and sent as soon as there is one.')
    this.name = 'KeptForLater'
  }
}

const KEY = 'verimend.kept'
/** How often it is tried again, ms. */
const AGAIN = 4000

function stored(): KeptNote[] {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? '[]') as KeptNote[]
  } catch {
    return []
  }
}
let notes: readonly KeptNote[] = stored()
const listeners = new Set<() => void>()
function put(next: readonly KeptNote[]): void {
  notes = next
  localStorage.setItem(KEY, JSON.stringify(next))
  listeners.forEach((tell) => tell())
}
const isAway = (error: unknown) => error instanceof ApiProblem && error.problem.status === 0
/** The server is there but starts anew, or asks for a sign-in: it only has to be waited for. */
const isLater = (error: unknown) =>
  isAway(error) || (error instanceof ApiProblem && [401, 429, 502, 503].includes(error.problem.status))

/** A note that takes the place of one at the same address; what stood there when the first was noted stays known. */
function keep(note: NewNote): void {
  const before = note.replaces ? notes.find((n) => n.path === note.path && !n.refused) : undefined
  const was = (before?.body as { was?: unknown } | undefined)?.was
  const body = before && was !== undefined ? { ...(note.body as object), was } : note.body
  const made: KeptNote = { ...note, body, id: newId(), at: new Date().toISOString(), refused: null }
  put([...notes.filter((n) => n !== before), made])
  later()
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

  /** Sends what is left of before, and tells whenever something of it has arrived. */
  begin(arrived: () => void) {
    sent = arrived
    window.addEventListener('online', () => void outbox.flush())
    // another tab may have kept or sent something
    window.addEventListener('storage', (e) => {
      if (e.key !== KEY) return
      notes = stored()
      listeners.forEach((tell) => tell())
    })
    if (notes.length) void outbox.flush()
  },

  /**
   * Sends a note, or keeps it where the server cannot be reached.
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
    try {
      return await call<T>(note.method, note.path, now)
    } catch (error) {
      if (!isAway(error)) throw error
      keep(note)
      throw new KeptForLater()
    }
  },

  /** Sends what waits, in order. What the server refuses stays, with its reason, for the person to decide. */
  async flush(): Promise<void> {
    if (flushing) return
    flushing = true
    try {
      for (;;) {
        const next = notes.find((n) => !n.refused)
        if (!next) return
        try {
          await call(next.method, next.path, next.body)
          put(notes.filter((n) => n.id !== next.id))
          sent()
        } catch (error) {
          if (isLater(error)) return void later()
          const refused = error instanceof Error ? error.message : 'It could not be sent.'
          put(notes.map((n) => (n.id === next.id ? { ...n, refused } : n)))
          // what stands there instead is to be seen
          sent()
        }
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
