import { filamentArea } from '../../extrusion/bead'
import { reasonsOf, type ReasonArguments } from '../../quantity/reason'
import { MoveKind, type LineFaults, type MachineState, type Program, type ReadingFault } from '../program'
import { FIRST_STATE, MoveStore } from '../store'
import { arcChords } from './arcs'
import { bit, D, E, F, I, J, K, L, P, R, S, X, Y, Z, type Words } from './words'

const MAX_FAULTS_KEPT = 20
/** Beyond this a coordinate is no machine's, mm. */
const FAR = 100_000
/** More filament than this in one word is a slip of the pen, mm. */
const MUCH_FILAMENT = 500
const AXES = bit(X) | bit(Y) | bit(Z) | bit(E)

/** M codes whose line goes on as free text. */
export const TEXT_CODES = new Set([16, 23, 28, 30, 32, 33, 36, 70, 117, 118, 928])
/** Known M codes that change nothing this reader keeps. */
const QUIET_CODES = new Set([
  17, 18, 20, 21, 22, 24, 26, 27, 31, 42, 73, 75, 76, 77, 78, 80, 81, 84, 85, 92, 105, 108, 110, 111, 112,
  113, 114, 115, 119, 120, 121, 145, 150, 155, 201, 203, 206, 208, 209, 211, 218, 280, 290, 300, 301, 302,
  303, 304, 355, 400, 401, 402, 403, 404, 405, 406, 407, 412, 413, 420, 421, 425, 486, 500, 501, 502, 503,
  504, 540, 555, 566, 569, 851, 862, 869, 900, 906, 907, 911, 913, 914, 972,
])
const QUIET_G = new Set([
  5, 12, 21, 26, 27, 29, 30, 31, 32, 33, 34, 35, 40, 42, 49, 53, 54, 55, 61, 64, 80, 94, 150,
])
const PAUSE_CODES = new Set([0, 1, 25, 125, 226, 600, 601])

const reason = reasonsOf<LineFaults>()

/** How a line is understood: the modal groups, the position, and the feed so far. */
export interface Modal {
  /** mm in a unit of the file. */
  unit: number
  absolute: boolean
  feedAbsolute: boolean
  centreAbsolute: boolean
  /** G0 to G3; −1 before the first. */
  motion: number
  /** mm/s, without what M220 makes of it. */
  feedRate: number
  speedFactor: number
  /** mm of filament that a mm (or mm³) of the E word feeds. */
  filament: number
  /** mm on the machine. */
  x: number
  y: number
  z: number
  /** The E word that would feed nothing, mm. */
  e: number
  /** mm from the file's nought to the machine's. */
  offsetX: number
  offsetY: number
  offsetZ: number
}
export const newModal = (): Modal => ({
  unit: 1,
  absolute: true,
  feedAbsolute: true,
  centreAbsolute: false,
  motion: -1,
  feedRate: 0,
  speedFactor: 1,
  filament: 1,
  x: 0,
  y: 0,
  z: 0,
  e: 0,
  offsetX: 0,
  offsetY: 0,
  offsetZ: 0,
})

/**
 * Carries out lines: holds the modal groups, the position, the feed and the state of the machine, and records moves.
 *
 * Feed mode: M82 and M83 win once given; before that E follows G90 and G91. Unknown codes are counted, never fatal.
 */
export class Interpreter {
  readonly states: MachineState[] = [{ ...FIRST_STATE }]
  readonly unknown = new Map<string, number>()
  readonly faults: ReadingFault[] = []
  faultCount = 0
  private line = 1

  private metric = true
  private absolute = true
  private feedAbsolute = true
  private feedExplicit = false
  private plane = 17
  /** Centres of arcs are places, and not steps from the arc's start. */
  private centreAbsolute = false
  private motion = -1
  private feedRate = 0
  private speedFactor = 1
  private flowFactor = 1
  private volumetricArea = 0
  private px = 0
  private py = 0
  private pz = 0
  private logicalE = 0
  private offsetX = 0
  private offsetY = 0
  private offsetZ = 0
  private firmwareRetracted = false
  /** °C each tool's heater was last set to. */
  private readonly heats = new Map<number, number>()
  /** A heater was spoken to by a tool that was not at work. */
  heaterPerTool = false
  private maxFan = 0
  private fanFraction = false
  readonly style: Program['style'] = {
    inches: false,
    arcs: false,
    comments: false,
    relativeFeed: false,
    absoluteFeed: false,
    firmwareRetraction: false,
    firmwareRetractLength: null,
    volumetric: false,
    pauses: 0,
    tools: 1,
  }

  /** @param area cross-section of the filament, mm²; used where the file feeds in mm³ and names no diameter */
  constructor(
    private readonly words: Words,
    private readonly area: number,
    readonly store = new MoveStore(),
  ) {}

  /** Writes down how the next line will be understood. */
  modalInto(modal: Modal): void {
    modal.unit = this.unit
    modal.absolute = this.absolute
    modal.feedAbsolute = this.feedAbsolute
    modal.centreAbsolute = this.centreAbsolute
    modal.motion = this.motion
    modal.feedRate = this.feedRate
    modal.speedFactor = this.speedFactor
    // mm of filament in a unit of the E word
    modal.filament = this.flowFactor * (this.volumetricArea ? this.unit ** -2 / this.volumetricArea : 1)
    modal.x = this.px
    modal.y = this.py
    modal.z = this.pz
    modal.e = this.logicalE
    modal.offsetX = this.offsetX
    modal.offsetY = this.offsetY
    modal.offsetZ = this.offsetZ
  }

  /** What the machine is set to now. The fan in the file's own numbers, as long as the file is read. */
  get state(): Readonly<MachineState> {
    return this.states[this.states.length - 1]
  }

  /** Millimetres in a unit of the file. */
  private get unit(): number {
    return this.metric ? 1 : 25.4
  }

  fault(...given: ReasonArguments<LineFaults>): void {
    this.faultCount++
    if (this.faults.length < MAX_FAULTS_KEPT) this.faults.push({ line: this.line, reason: reason(...given) })
  }

  /** A fault the lexer found in a line. */
  faultIn(line: number, code: 'no-word' | 'exponent' | 'exponent-unclear' | 'axis-twice'): void {
    this.line = line
    this.fault(code)
  }

  /** Counts a code that means nothing to this reader. */
  unknownCode(code: string): void {
    if (this.unknown.size < 500 || this.unknown.has(code))
      this.unknown.set(code, (this.unknown.get(code) ?? 0) + 1)
  }

  /** Carries out a line that is nothing but a straight move. */
  plainMove(motion: number, line: number): void {
    const { words, unit } = this
    this.line = line
    if (words.have & (1 << F)) {
      const f = (words.value[F] * unit) / 60
      if (f > 0 && f < FAR) this.feedRate = f
    }
    this.motion = motion
    if (words.have & AXES) this.move(motion, unit)
  }

  /** Carries out a line. */
  execute(line: number): void {
    const { words } = this
    if (!words.gCodes.length && !words.mCodes.length && words.tool < 0 && !words.have) return
    this.line = line
    let motion = -1
    let axisUser = false // another code on the line owns the axis words
    for (const g of this.words.gCodes) {
      if (g === 20 || g === 21) {
        this.metric = g === 21
        if (g === 20) this.style.inches = true
      } else if (g === 90 || g === 91) {
        this.absolute = g === 90
        if (!this.feedExplicit) this.feedAbsolute = this.absolute
      } else if (g === 90.1 || g === 91.1) this.centreAbsolute = g === 90.1
      else if (g === 17 || g === 18 || g === 19) this.plane = g
    }
    for (const m of this.words.mCodes) this.machineCode(m)
    if (this.words.tool >= 0) this.takeTool(Math.min(99, Math.floor(this.words.tool)))
    for (const g of this.words.gCodes) {
      switch (g) {
        case 0:
        case 1:
        case 2:
        case 3:
          motion = g
          break
        case 4:
          axisUser = true
          this.dwell()
          break
        case 10:
          if (this.words.have & (bit(L) | bit(P))) axisUser = true
          else this.firmwareRetract(true)
          break
        case 11:
          this.firmwareRetract(false)
          break
        case 28:
          axisUser = true
          this.home()
          break
        case 92:
          axisUser = true
          this.setPosition(this.unit)
          break
        case 17:
        case 18:
        case 19:
        case 20:
        case 21:
        case 90:
        case 91:
        case 90.1:
        case 91.1:
          break
        default:
          axisUser = true
          if (!QUIET_G.has(Math.floor(g))) this.unknownCode(`G${g}`)
      }
    }
    if (this.words.have & bit(F) && !this.words.mCodes.length && !axisUser) {
      const f = (this.words.value[F] * this.unit) / 60
      if (f > 0 && f < FAR) this.feedRate = f
    }
    const axes = this.words.have & (bit(X) | bit(Y) | bit(Z) | bit(E))
    if (motion < 0 && axes && !axisUser && !this.words.mCodes.length && this.words.tool < 0)
      motion = this.motion
    if (motion >= 0) this.motion = motion
    if (this.words.bareAxes && motion >= 0) this.fault('axis-without-number')
    if (motion >= 0 && (axes || (motion >= 2 && this.words.have & (bit(I) | bit(J)))))
      this.move(motion, this.unit)
  }

  /** Another tool goes to work: with its own heat where the file speaks to heaters by their tool, else with what there is. */
  private takeTool(tool: number): void {
    const own = this.heaterPerTool ? this.heats.get(tool) : undefined
    this.changeState(own === undefined ? { tool } : { tool, nozzle: own })
  }

  private changeState(part: Partial<MachineState>): void {
    const last = this.states[this.states.length - 1]
    let same = true
    for (const k of Object.keys(part) as (keyof MachineState)[]) if (last[k] !== part[k]) same = false
    if (same) return
    const used = this.store.count > 0 && this.store.lastState === this.states.length - 1
    if (used) this.states.push({ ...last, ...part })
    else Object.assign(last, part)
    if (part.tool) this.style.tools = Math.max(this.style.tools, part.tool + 1)
  }

  private machineCode(m: number): void {
    const has = (l: number) => (this.words.have & bit(l)) !== 0
    const v = this.words.value
    const temperature = () => (has(S) ? v[S] : has(R) ? v[R] : null)
    const sane = (t: number | null) => (t !== null && t >= 0 && t <= 600 ? t : null)
    switch (m) {
      case 82:
      case 83:
        this.feedAbsolute = m === 82
        this.feedExplicit = true
        return
      case 104:
      case 109: {
        const t = sane(temperature())
        const { tool } = this.words // names the heater: another one than that at work is not this nozzle
        const atWork = this.states[this.states.length - 1].tool
        const other = tool >= 0 && tool !== atWork
        if (other) this.heaterPerTool = true
        if (t !== null) this.heats.set(other ? tool : atWork, t)
        if (t !== null && !other) this.changeState({ nozzle: t })
        this.words.tool = -1
        return
      }
      case 140:
      case 190: {
        const t = sane(temperature())
        if (t !== null) this.changeState({ bed: t })
        return
      }
      case 141:
      case 191: {
        const t = sane(temperature())
        if (t !== null) this.changeState({ chamber: t })
        return
      }
      case 106: {
        if (has(P) && v[P] !== 0) return // another fan
        const s = has(S) ? v[S] : 255
        this.maxFan = Math.max(this.maxFan, s)
        if (s > 0 && s < 1) this.fanFraction = true
        this.changeState({ fan: Math.min(255, Math.max(0, s)) })
        return
      }
      case 107:
        if (has(P) && v[P] !== 0) return
        this.changeState({ fan: 0 })
        return
      case 200:
        if (has(S) && v[S] === 0) this.volumetricArea = 0
        else if (has(D)) this.volumetricArea = v[D] > 0 ? filamentArea(v[D]) : 0
        else this.volumetricArea = this.area
        if (this.volumetricArea) this.style.volumetric = true
        return
      case 204:
        if (has(S)) this.changeState({ printAcceleration: v[S], travelAcceleration: v[S] })
        if (has(P)) this.changeState({ printAcceleration: v[P] })
        if (this.words.tool >= 0) this.changeState({ travelAcceleration: this.words.tool })
        this.words.tool = -1 // the T here is no tool
        return
      case 205:
        return
      case 207:
        if (has(S)) this.style.firmwareRetractLength = v[S] * this.unit
        return
      case 220:
        if (has(S) && v[S] >= 1 && v[S] <= 1000) this.speedFactor = v[S] / 100
        return
      case 221:
        if (has(S) && v[S] >= 1 && v[S] <= 1000) this.flowFactor = v[S] / 100
        return
      case 572:
        if (has(S)) this.changeState({ pressure: v[S] })
        return
      case 900:
        if (has(K)) this.changeState({ pressure: v[K] })
        return
      default:
        if (PAUSE_CODES.has(m)) this.style.pauses++
        else if (m === 2) return
        else if (!TEXT_CODES.has(m) && !QUIET_CODES.has(Math.floor(m))) this.unknownCode(`M${m}`)
        if (this.words.tool >= 0 && this.words.gCodes.length === 0) this.words.tool = -1
    }
  }

  private record(kind: MoveKind, e: number, speed: number): void {
    this.store.add(this.px, this.py, this.pz, e, speed, kind, this.line, this.states.length - 1)
  }

  private dwell(): void {
    const seconds =
      this.words.have & bit(S)
        ? this.words.value[S]
        : this.words.have & bit(P)
          ? this.words.value[P] / 1000
          : 0
    if (seconds > 0 && seconds < 86_400) this.record(MoveKind.Dwell, 0, seconds)
  }

  private firmwareRetract(back: boolean): void {
    this.style.firmwareRetraction = true
    if (back === this.firmwareRetracted) return
    this.firmwareRetracted = back
    const length = this.style.firmwareRetractLength ?? 0
    this.record(back ? MoveKind.Retract : MoveKind.Feed, back ? -length : length, 0)
  }

  private home(): void {
    const named = (this.words.have | this.words.bareAxes) & (bit(X) | bit(Y) | bit(Z))
    const all = named === 0
    if (all || named & bit(X)) this.px = this.offsetX = 0
    if (all || named & bit(Y)) this.py = this.offsetY = 0
    if (all || named & bit(Z)) this.pz = this.offsetZ = 0
    this.record(MoveKind.Jump, 0, 0)
  }

  private setPosition(unit: number): void {
    const v = this.words.value
    const has = (l: number) => (this.words.have & bit(l)) !== 0
    const none = !(this.words.have & (bit(X) | bit(Y) | bit(Z) | bit(E)))
    if (has(X)) this.offsetX = this.px - v[X] * unit
    if (has(Y)) this.offsetY = this.py - v[Y] * unit
    if (has(Z)) this.offsetZ = this.pz - v[Z] * unit
    if (has(E)) this.logicalE = v[E] * unit
    if (none) {
      this.offsetX = this.px
      this.offsetY = this.py
      this.offsetZ = this.pz
      this.logicalE = 0
    }
  }

  private target(letter: number, at: number, offset: number, unit: number): number {
    if (!(this.words.have & bit(letter))) return at
    const v = this.words.value[letter] * unit
    const to = this.absolute ? v + offset : at + v
    if (!(Math.abs(to) < FAR)) {
      this.fault('off-machine', { coordinate: Number(this.words.value[letter].toPrecision(3)) })
      return at
    }
    return to
  }

  private fed(unit: number): number {
    if (!(this.words.have & bit(E))) return 0
    const v = this.words.value[E] * unit
    let fed: number
    if (this.feedAbsolute) {
      this.style.absoluteFeed = true
      fed = v - this.logicalE
      if (Number.isFinite(v)) this.logicalE = v
    } else {
      this.style.relativeFeed = true
      fed = v
      // what is fed in steps counts for absolute feeds that come after
      if (Number.isFinite(v)) this.logicalE += v
    }
    if (this.volumetricArea) fed = fed / (unit * unit) / this.volumetricArea
    if (!(Math.abs(fed) < MUCH_FILAMENT)) {
      this.fault('much-filament', { length: Number(fed.toPrecision(3)) })
      return 0
    }
    return fed * this.flowFactor
  }

  private move(motion: number, unit: number): void {
    const x = this.target(X, this.px, this.offsetX, unit)
    const y = this.target(Y, this.py, this.offsetY, unit)
    const z = this.target(Z, this.pz, this.offsetZ, unit)
    const e = this.fed(unit)
    const speed = this.feedRate * this.speedFactor
    if (motion >= 2) {
      this.style.arcs = true
      if (this.arc(motion === 2, x, y, z, e, speed)) return
    }
    this.straight(x, y, z, e, speed)
  }

  private straight(x: number, y: number, z: number, e: number, speed: number): void {
    const moved = x !== this.px || y !== this.py || z !== this.pz
    this.px = x
    this.py = y
    this.pz = z
    if (!moved) {
      if (e !== 0) this.record(e < 0 ? MoveKind.Retract : MoveKind.Feed, e, speed)
      return
    }
    this.record(e > 0 ? MoveKind.Extrude : e < 0 ? MoveKind.RetractMoving : MoveKind.Travel, e, speed)
  }

  /** Lays an arc as chords. Returns false when it has to be taken as a straight line. */
  private arc(clockwise: boolean, x: number, y: number, z: number, e: number, speed: number): boolean {
    const { words, unit, px, py, pz } = this
    if (this.plane !== 17) {
      this.fault('arc-plane')
      return false
    }
    if (!words.has(R) && !words.has(I) && !words.has(J)) {
      this.fault('arc-without-centre')
      return false
    }
    const along = (letter: number) => (words.has(letter) ? words.value[letter] * unit : 0)
    const centre = (letter: number, at: number, offset: number) =>
      this.centreAbsolute && words.has(letter) ? along(letter) + offset - at : along(letter)
    const arc = arcChords(
      px,
      py,
      x,
      y,
      clockwise,
      words.has(R)
        ? { radius: along(R) }
        : { i: centre(I, px, this.offsetX), j: centre(J, py, this.offsetY) },
    )
    if (typeof arc === 'string') this.fault(arc as 'arc-radius-small')
    if (arc === null || typeof arc === 'string') return false
    const { cx, cy, radius, from, sweep, pieces } = arc
    for (let i = 1; i <= pieces; i++) {
      const t = i / pieces
      const a = from + sweep * t
      const last = i === pieces
      this.straight(
        last ? x : cx + radius * Math.cos(a),
        last ? y : cy + radius * Math.sin(a),
        pz + (z - pz) * t,
        e / pieces,
        speed,
      )
    }
    return true
  }

  /** What was read, once the file has ended. */
  program(lines: number, bytes: number): Program {
    // Fans are 0–255 nearly everywhere; a file that only ever says fractions means 0–1.
    const full = this.maxFan <= 1 && (this.fanFraction || this.maxFan === 1) ? 1 : 255
    for (const s of this.states) s.fan /= full
    return {
      ...this.store.arrays(),
      states: this.states,
      fanScale: full,
      heaterPerTool: this.heaterPerTool,
      lines,
      bytes,
      unknown: this.unknown,
      faultCount: this.faultCount,
      faults: this.faults,
      style: this.style,
    }
  }
}
