import { GcodeError, type MachineState, type MoveKind, type Program } from './program'

/** Most moves one file may hold. */
export const MAX_MOVES = 12_000_000

/** Growing arrays of moves. */
export class MoveStore {
  count = 0
  private room = 4096
  x = new Float32Array(this.room)
  y = new Float32Array(this.room)
  z = new Float32Array(this.room)
  e = new Float32Array(this.room)
  speed = new Float32Array(this.room)
  kind = new Uint8Array(this.room)
  line = new Uint32Array(this.room)
  state = new Uint32Array(this.room)

  add(
    x: number,
    y: number,
    z: number,
    e: number,
    speed: number,
    kind: MoveKind,
    line: number,
    state: number,
  ): void {
    if (this.count === this.room) this.grow()
    const i = this.count++
    this.x[i] = x
    this.y[i] = y
    this.z[i] = z
    this.e[i] = e
    this.speed[i] = speed
    this.kind[i] = kind
    this.line[i] = line
    this.state[i] = state
  }

  private grow(): void {
    if (this.room >= MAX_MOVES) throw new GcodeError('too-many-moves', { moves: MAX_MOVES })
    this.room = Math.min(MAX_MOVES, Math.ceil(this.room * 1.5))
    const wider = <T extends Float32Array | Uint8Array | Uint32Array>(old: T): T => {
      const next = new (old.constructor as new (n: number) => T)(this.room)
      next.set(old as never)
      return next
    }
    this.x = wider(this.x)
    this.y = wider(this.y)
    this.z = wider(this.z)
    this.e = wider(this.e)
    this.speed = wider(this.speed)
    this.kind = wider(this.kind)
    this.line = wider(this.line)
    this.state = wider(this.state)
  }

  /** State of the move added last. */
  get lastState(): number {
    return this.state[this.count - 1]
  }

  /** The arrays without their spare room; views, not copies. */
  arrays(): Pick<Program, 'count' | 'x' | 'y' | 'z' | 'e' | 'speed' | 'kind' | 'line' | 'state'> {
    const n = this.count
    return {
      count: n,
      x: this.x.subarray(0, n),
      y: this.y.subarray(0, n),
      z: this.z.subarray(0, n),
      e: this.e.subarray(0, n),
      speed: this.speed.subarray(0, n),
      kind: this.kind.subarray(0, n),
      line: this.line.subarray(0, n),
      state: this.state.subarray(0, n),
    }
  }
}

/** Counts moves and lets them go: for whoever follows a program a second time. */
export class MoveCount extends MoveStore {
  private newest = 0

  override add(...[, , , , , , , state]: Parameters<MoveStore['add']>): void {
    this.count++
    this.newest = state
  }

  override get lastState(): number {
    return this.newest
  }
}

/** The state every file starts from. */
export const FIRST_STATE: MachineState = {
  tool: 0,
  nozzle: null,
  bed: null,
  chamber: null,
  fan: 0,
  printAcceleration: null,
  travelAcceleration: null,
  pressure: null,
}
