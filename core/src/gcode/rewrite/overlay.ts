import type { MachineState, MoveKind } from '../program'

/** What of the machine's state a file's commands are rewritten for. */
export type Commanded = 'nozzle' | 'bed' | 'fan' | 'printAcceleration' | 'travelAcceleration' | 'pressure'

/** A move that stands nowhere in the file and is put in before one that does. */
export interface Inserted {
  /** mm on the machine; left out where it stays. */
  x?: number
  y?: number
  z?: number
  /** mm of filament. */
  e?: number
  /** mm/s */
  speed: number
  /** A command instead, which moves nothing. */
  command?: string
}

/**
 * What a rewritten file does otherwise than the file it comes from, move by move. What it says nothing of stays as it is, byte
 * for byte. Moves are counted as the reader counts them.
 */
export interface Overlay {
  /** mm of filament that move `i` feeds, which fed `e`. */
  feed?: (i: number, e: number) => number
  /** mm/s that move `i` asks for, which asked for `speed`. */
  speed?: (i: number, speed: number) => number
  /** How far the end of move `i` lies from where it lay, mm. */
  shift?: { x?: (i: number) => number; y?: (i: number) => number; z?: (i: number) => number }
  /** Move `i` is taken out: the head stays where it is. What is put in before it takes its place. */
  drops?: (i: number) => boolean
  /** What the machine is to be set to while move `i` runs, which was set to `have`; undefined: as it comes. */
  states?: { [K in Commanded]?: (i: number, have: number | null) => number | undefined }
  /** Moves put in before move `i`. */
  before?: (i: number) => readonly Inserted[] | undefined
  /** mm the firmware pulls back (M207). */
  firmwareLength?: number
  /** Lines written where a command has to be put in. */
  spell?: Spell
}

/** How commands are spelt that the file itself does not have. */
export interface Spell {
  pressure: 'k' | 's'
}

export type Moves = {
  count: number
  kind: ArrayLike<MoveKind | number>
  e: ArrayLike<number>
  speed: ArrayLike<number>
  state: ArrayLike<number>
  states: readonly MachineState[]
}

/** Two overlays as one: what the first changes is changed further by the second. */
export function joinOverlays(a: Overlay, b: Overlay): Overlay {
  const chain = <F extends (i: number, v: never) => unknown>(
    p: F | undefined,
    q: F | undefined,
  ): F | undefined => (p && q ? (((i: number, v: never) => q(i, p(i, v) as never)) as F) : (p ?? q))
  const sum = (p?: (i: number) => number, q?: (i: number) => number) =>
    p && q ? (i: number) => p(i) + q(i) : (p ?? q)
  const states: Overlay['states'] = { ...a.states }
  for (const key of Object.keys(b.states ?? {}) as Commanded[]) {
    const [p, q] = [a.states?.[key], b.states![key]!]
    states[key] = p
      ? (i, have) => {
          const first = p(i, have)
          return q(i, first ?? have) ?? first
        }
      : q
  }
  return {
    feed: chain(a.feed, b.feed),
    speed: chain(a.speed, b.speed),
    shift:
      a.shift || b.shift
        ? {
            x: sum(a.shift?.x, b.shift?.x),
            y: sum(a.shift?.y, b.shift?.y),
            z: sum(a.shift?.z, b.shift?.z),
          }
        : undefined,
    drops: a.drops && b.drops ? (i) => a.drops!(i) || b.drops!(i) : (a.drops ?? b.drops),
    states: Object.keys(states).length ? states : undefined,
    before:
      a.before && b.before
        ? (i) => {
            const [p, q] = [a.before!(i), b.before!(i)]
            return p && q ? [...p, ...q] : (p ?? q)
          }
        : (a.before ?? b.before),
    firmwareLength: b.firmwareLength ?? a.firmwareLength,
    spell: a.spell ?? b.spell,
  }
}
