import { filamentArea } from '../extrusion/bead'
import { bytes as bytesText } from '../units/format'
import { GcodeError, MoveKind, type MachineState, type Program, type ReadingFault } from './program'
import { FIRST_STATE, MoveStore } from './store'

export interface ReaderOptions {
  /** mm; only used where the file feeds in mm³ (M200). */
  filamentDiameter?: number
  /** Largest file in bytes. */
  maxBytes?: number
  /** Reads the words and lets them go: to measure what the reading of words alone costs. */
  wordsOnly?: boolean
}

/** Largest file the app reads, bytes. */
export const MAX_GCODE_BYTES = 250_000_000
const MAX_FAULTS_KEPT = 20
/** Beyond this a coordinate is no machine's. */
const FAR = 100_000
/** More filament than this in one word is a slip of the pen, mm. */
const MUCH_FILAMENT = 500

/** M codes whose line goes on as free text. */
const TEXT_CODES = new Set([16, 23, 28, 30, 32, 33, 36, 70, 117, 118, 928])
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

const letterIndex = (c: string) => c.charCodeAt(0) - 65
const [D, E, F, G, I, J, K, L, M, N, P, R, S, T, X, Y, Z] = [...'DEFGIJKLMNPRSTXYZ'].map(letterIndex)
const bit = (letter: number) => 1 << letter
const F_BIT = bit(F)
/** The words of a plain move. */
const PLAIN = bit(X) | bit(Y) | bit(Z) | bit(E) | bit(F)
const AXES = bit(X) | bit(Y) | bit(Z) | bit(E)
/** Powers of ten that a double holds exactly. */
const TENS = Float64Array.from({ length: 18 }, (_, i) => 10 ** i)

/**
 * Reads extrusion G-code as a stream of bytes into moves. Words, modal groups, number format, comments and
 * arcs follow NIST RS274/NGC (Kramer, Proctor, Messina 2000); the feed axis E, the temperatures, fans and
 * the rest of the M codes are those that extrusion machines share. Comments are never used.
 *
 * Feed mode: M82 and M83 win once given; before that E follows G90 and G91.
 * Unknown codes are counted, never fatal; words without a number are counted as faults.
 *
 * @example
 * const reader = new GcodeReader()
 * for (const chunk of chunks) reader.push(chunk)
 * const program = reader.finish()
 */
export class GcodeReader {
  private readonly store = new MoveStore()
  private readonly states: MachineState[] = [{ ...FIRST_STATE }]
  private readonly unknown = new Map<string, number>()
  private readonly faults: ReadingFault[] = []
  private faultCount = 0
  private readonly maxBytes: number
  private readonly wordsOnly: boolean
  private readonly area: number
  private total = 0
  /** Nothing of the next line has been read yet. */
  private fresh = true
  private lineNumber = 1

  // --- the line being read
  private readonly value = new Float64Array(26)
  private have = 0
  private readonly gCodes: number[] = []
  private readonly mCodes: number[] = []
  private tool = -1
  private letter = -1
  private digits = 0
  private mantissa = 0
  private decimals = 0
  private negative = false
  private afterPoint = false
  private mode: 'code' | 'comment' | 'bracket' | 'skip' = 'code'
  private lettersOnLine = 0
  private wordsOnLine = 0
  private name = ''
  private naming = false
  private wordFaults = 0
  private afterReturn = false
  private bareAxes = 0
  private goodLines = 0
  private badLines = 0

  // --- modal state
  private metric = true
  private absolute = true
  private feedAbsolute = true
  private feedExplicit = false
  private plane = 17
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
  private maxFan = 0
  private fanFraction = false
  private readonly style: Program['style'] = {
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

  constructor(options: ReaderOptions = {}) {
    this.maxBytes = options.maxBytes ?? MAX_GCODE_BYTES
    this.wordsOnly = options.wordsOnly ?? false
    this.area = filamentArea(options.filamentDiameter ?? 1.75)
  }

  /**
   * Takes the next bytes of the file.
   * @throws GcodeError when the bytes cannot be G-code or the file is too large
   */
  push(chunk: Uint8Array): void {
    let from = 0
    if (this.total === 0) {
      if (chunk.length >= 2 && chunk[0] === 0x50 && chunk[1] === 0x4b)
        throw new GcodeError(
          'packed',
          'This is a packed file (zip or 3MF). Unpack it and drop the G-code inside.',
        )
      if (chunk[0] === 0xef && chunk[1] === 0xbb && chunk[2] === 0xbf) from = 3
    }
    this.total += chunk.length
    if (this.total > this.maxBytes)
      throw new GcodeError(
        'too-large',
        `This file is larger than ${bytesText(this.maxBytes)}, the most Verimend reads.`,
      )
    const end = chunk.length
    // up to the last line end no quick read can run over the end of the chunk
    const whole = chunk.lastIndexOf(10)
    let i = from
    while (i < end) {
      if (this.fresh && i < whole) {
        const next = this.plainLine(chunk, i)
        if (next > 0) {
          i = next
          continue
        }
      }
      // anything but a plain move, or a line cut by the end of the chunk: byte by byte to the line's end
      while (i < end) {
        const c = chunk[i++]
        this.byte(c)
        if (c === 10) {
          this.fresh = true
          break
        }
        this.fresh = false
      }
    }
  }

  /**
   * Reads a line that is nothing but `G0` or `G1` with X, Y, Z, E and F words, in one go: nine of ten lines are.
   * A line end must lie at or after `from`.
   * @returns where the next line begins; 0 when the line is of another kind, and nothing was read
   */
  private plainLine(b: Uint8Array, from: number): number {
    let i = from
    let c = b[i]
    if (c !== 71) return 0
    c = b[++i]
    if (c !== 48 && c !== 49) return 0
    const motion = c - 48
    c = b[++i]
    if (c >= 46 && c <= 57) return 0 // G10, G1.5
    const v = this.value
    let have = 0
    for (;;) {
      while (c === 32) c = b[++i]
      if (c === 10 || c === 13 || c === 59) break
      const letter = c - 65
      if (letter < 0 || letter > 25) return 0
      const mask = 1 << letter
      if ((PLAIN & mask) === 0 || have & mask) return 0
      c = b[++i]
      let negative = false
      if (c === 45) {
        negative = true
        c = b[++i]
      }
      // whole part and fraction as 32-bit integers: quicker than one long mantissa, and as exact
      const start = i
      let whole = 0
      let digit = c - 48
      while (digit >= 0 && digit <= 9) {
        whole = (whole * 10 + digit) | 0
        digit = (c = b[++i]) - 48
      }
      const wholes = i - start
      if (wholes > 9) return 0
      let number = whole
      if (c === 46) {
        let fraction = 0
        const point = ++i
        digit = (c = b[i]) - 48
        while (digit >= 0 && digit <= 9) {
          fraction = (fraction * 10 + digit) | 0
          digit = (c = b[++i]) - 48
        }
        const decimals = i - point
        if (decimals > 9 || wholes + decimals > 15 || wholes + decimals === 0) return 0
        if (decimals > 0) number = (whole * TENS[decimals] + fraction) / TENS[decimals]
      } else if (wholes === 0) return 0
      v[letter] = negative ? -number : number
      have |= mask
    }
    if (c === 59) {
      this.style.comments = true
      do c = b[++i]
      while (c !== 10 && c !== 0 && c !== 13)
      if (c === 0) return 0
    }
    if (c === 13 && b[++i] !== 10) return 0
    this.have = have
    this.goodLines++
    const unit = this.metric ? 1 : 25.4
    if (have & F_BIT) {
      const f = (v[F] * unit) / 60
      if (f > 0 && f < FAR) this.feedRate = f
    }
    this.motion = motion
    if (have & AXES && !this.wordsOnly) this.move(motion, unit)
    this.have = 0
    this.lineNumber++
    return i + 1
  }

  private byte(c: number): void {
    if (c === 10 || c === 13) {
      const second = c === 10 && this.afterReturn // CRLF is one line end
      this.afterReturn = c === 13
      if (!second) this.endLine()
      return
    }
    this.afterReturn = false
    if (c === 0) throw new GcodeError('binary', 'This is a binary file. Verimend reads plain-text G-code.')
    if (this.mode === 'comment' || this.mode === 'skip') return
    if (this.mode === 'bracket') {
      if (c === 41) this.mode = 'code'
      return
    }
    if (this.naming) {
      const wordy = (c >= 65 && c <= 90) || (c >= 97 && c <= 122) || c === 95 || (c >= 48 && c <= 57)
      if (wordy && this.name.length < 24) {
        this.name += String.fromCharCode(c)
        return
      }
      this.naming = false
      this.mode = c === 59 ? 'comment' : 'skip'
      return
    }
    if (c >= 48 && c <= 57) {
      if (this.letter < 0) {
        this.wordFaults++
        return
      }
      this.digits++
      // digits past the fifteenth are beyond a double; before the point they still weigh
      if (this.afterPoint) {
        if (this.digits <= 15 || this.mantissa < 1e14) {
          this.mantissa = this.mantissa * 10 + (c - 48)
          if (this.decimals < 17) this.decimals++
        }
      } else this.mantissa = this.mantissa * 10 + (c - 48)
      return
    }
    if (c === 46) {
      if (this.afterPoint || this.letter < 0) this.wordFaults++
      this.afterPoint = true
      return
    }
    if (c === 45 || c === 43) {
      if (this.letter < 0 || this.digits > 0) this.wordFaults++
      this.negative = c === 45
      return
    }
    if (c === 32 || c === 9) {
      return // RS274: blanks may stand anywhere, even inside numbers
    }
    if (c === 59) {
      this.style.comments = true
      this.mode = 'comment'
      return
    }
    if (c === 40) {
      this.style.comments = true
      this.mode = 'bracket'
      return
    }
    if (c === 42) {
      this.endWord() // the rest is a checksum
      this.mode = 'skip'
      return
    }
    const upper = c >= 97 && c <= 122 ? c - 32 : c
    if (upper >= 65 && upper <= 90) {
      if (this.letter >= 0 && this.digits === 0 && this.lettersOnLine === 1) {
        // a line that begins with two letters is a named command, not words
        this.name = String.fromCharCode(this.letter + 65) + String.fromCharCode(c)
        this.naming = true
        this.letter = -1
        return
      }
      this.endWord()
      if (this.mode !== 'code') return
      this.letter = upper - 65
      this.lettersOnLine++
      return
    }
    if (c === 95 && this.letter >= 0 && this.digits === 0 && this.lettersOnLine === 1) {
      this.name = String.fromCharCode(this.letter + 65) + '_'
      this.naming = true
      this.letter = -1
      return
    }
    if (c === 37 || c === 47) return // program mark, block delete
    if (c < 32 || c === 127) {
      throw new GcodeError('binary', 'This is a binary file. Verimend reads plain-text G-code.')
    }
    this.wordFaults++
  }

  private endWord(): void {
    const letter = this.letter
    if (letter < 0) return
    const number = (this.negative ? -this.mantissa : this.mantissa) / TENS[this.decimals]
    const bare = this.digits === 0
    this.letter = -1
    this.digits = 0
    this.mantissa = 0
    this.decimals = 0
    this.negative = false
    this.afterPoint = false
    if (bare) {
      // flags such as the X in "G28 X" stand without a number
      if (letter === X || letter === Y || letter === Z || letter === E) this.bareAxes |= bit(letter)
      return
    }
    this.wordsOnLine++
    if (letter === G) this.gCodes.push(number)
    else if (letter === M) {
      this.mCodes.push(number)
      if (TEXT_CODES.has(number)) this.mode = 'skip'
    } else if (letter === T) this.tool = number
    else if (letter === N)
      return // line number
    else {
      this.value[letter] = number
      this.have |= bit(letter)
    }
  }

  private fault(text: string): void {
    this.faultCount++
    if (this.faults.length < MAX_FAULTS_KEPT) this.faults.push({ line: this.lineNumber, text })
  }

  private note(code: string): void {
    if (this.unknown.size < 500 || this.unknown.has(code))
      this.unknown.set(code, (this.unknown.get(code) ?? 0) + 1)
  }

  private endLine(): void {
    if (this.naming || this.name) {
      this.note(this.name.toUpperCase())
    } else if (this.mode !== 'skip') this.endWord()
    if (this.wordsOnLine) {
      if (this.wordFaults) this.badLines++
      else this.goodLines++
      this.execute()
    } else if (this.wordFaults || this.name) this.badLines++
    if (this.wordFaults) this.fault('Something here is neither a word nor a number.')
    if (this.badLines > 200 && this.badLines > 4 * this.goodLines)
      throw new GcodeError(
        'not-gcode',
        'This file does not read as G-code: most of its lines are something else.',
      )
    this.have = 0
    this.gCodes.length = 0
    this.mCodes.length = 0
    this.tool = -1
    this.letter = -1
    this.digits = 0
    this.mantissa = 0
    this.decimals = 0
    this.negative = false
    this.afterPoint = false
    this.mode = 'code'
    this.lettersOnLine = 0
    this.wordsOnLine = 0
    this.wordFaults = 0
    this.bareAxes = 0
    this.name = ''
    this.naming = false
    this.lineNumber++
  }

  private execute(): void {
    if (this.wordsOnly || (!this.gCodes.length && !this.mCodes.length && this.tool < 0 && !this.have)) return
    const unit = () => (this.metric ? 1 : 25.4)
    let motion = -1
    let axisUser = false // another code on the line owns the axis words
    for (const g of this.gCodes) {
      if (g === 20 || g === 21) {
        this.metric = g === 21
        if (g === 20) this.style.inches = true
      } else if (g === 90 || g === 91) {
        this.absolute = g === 90
        if (!this.feedExplicit) this.feedAbsolute = this.absolute
      } else if (g === 17 || g === 18 || g === 19) this.plane = g
    }
    for (const m of this.mCodes) this.machineCode(m)
    if (this.tool >= 0) this.changeState({ tool: Math.min(99, Math.floor(this.tool)) })
    for (const g of this.gCodes) {
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
          if (this.have & (bit(L) | bit(P))) axisUser = true
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
          this.setPosition(unit())
          break
        case 17:
        case 18:
        case 19:
        case 20:
        case 21:
        case 90:
        case 91:
          break
        default:
          axisUser = true
          if (!QUIET_G.has(Math.floor(g))) this.note(`G${g}`)
      }
    }
    if (this.have & bit(F) && !this.mCodes.length && !axisUser) {
      const f = (this.value[F] * unit()) / 60
      if (f > 0 && f < FAR) this.feedRate = f
    }
    const axes = this.have & (bit(X) | bit(Y) | bit(Z) | bit(E))
    if (motion < 0 && axes && !axisUser && !this.mCodes.length && this.tool < 0) motion = this.motion
    if (motion >= 0) this.motion = motion
    if (this.bareAxes && motion >= 0) this.fault('An axis stands without a number.')
    if (motion >= 0 && (axes || (motion >= 2 && this.have & (bit(I) | bit(J))))) this.move(motion, unit())
  }

  private changeState(part: Partial<MachineState>): void {
    const last = this.states[this.states.length - 1]
    let same = true
    for (const k of Object.keys(part) as (keyof MachineState)[]) if (last[k] !== part[k]) same = false
    if (same) return
    const used = this.store.count > 0 && this.store.state[this.store.count - 1] === this.states.length - 1
    if (used) this.states.push({ ...last, ...part })
    else Object.assign(last, part)
    if (part.tool) this.style.tools = Math.max(this.style.tools, part.tool + 1)
  }

  private machineCode(m: number): void {
    const has = (l: number) => (this.have & bit(l)) !== 0
    const v = this.value
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
        if (t !== null) this.changeState({ nozzle: t })
        this.tool = -1 // the T here names the heater
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
        if (this.tool >= 0) this.changeState({ travelAcceleration: this.tool })
        this.tool = -1 // the T here is no tool
        return
      case 205:
        return
      case 207:
        if (has(S)) this.style.firmwareRetractLength = v[S] * (this.metric ? 1 : 25.4)
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
        else if (!TEXT_CODES.has(m) && !QUIET_CODES.has(Math.floor(m))) this.note(`M${m}`)
        if (this.tool >= 0 && this.gCodes.length === 0) this.tool = -1
    }
  }

  private record(kind: MoveKind, e: number, speed: number): void {
    this.store.add(this.px, this.py, this.pz, e, speed, kind, this.lineNumber, this.states.length - 1)
  }

  private dwell(): void {
    const seconds = this.have & bit(S) ? this.value[S] : this.have & bit(P) ? this.value[P] / 1000 : 0
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
    const named = (this.have | this.bareAxes) & (bit(X) | bit(Y) | bit(Z))
    const all = named === 0
    if (all || named & bit(X)) this.px = this.offsetX = 0
    if (all || named & bit(Y)) this.py = this.offsetY = 0
    if (all || named & bit(Z)) this.pz = this.offsetZ = 0
    this.record(MoveKind.Jump, 0, 0)
  }

  private setPosition(unit: number): void {
    const v = this.value
    const has = (l: number) => (this.have & bit(l)) !== 0
    const none = !(this.have & (bit(X) | bit(Y) | bit(Z) | bit(E)))
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
    if (!(this.have & bit(letter))) return at
    const v = this.value[letter] * unit
    const to = this.absolute ? v + offset : at + v
    if (!(Math.abs(to) < FAR)) {
      this.fault(`A coordinate of ${this.value[letter].toPrecision(3)} is off any machine.`)
      return at
    }
    return to
  }

  private fed(unit: number): number {
    if (!(this.have & bit(E))) return 0
    const v = this.value[E] * unit
    let fed: number
    if (this.feedAbsolute) {
      this.style.absoluteFeed = true
      fed = v - this.logicalE
      if (Number.isFinite(v)) this.logicalE = v
    } else {
      this.style.relativeFeed = true
      fed = v
    }
    if (this.volumetricArea) fed = fed / (unit * unit) / this.volumetricArea
    if (!(Math.abs(fed) < MUCH_FILAMENT)) {
      this.fault(`${fed.toPrecision(3)} mm of filament in one move is a slip; the move is taken without it.`)
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
      if (this.arc(motion === 2, x, y, z, e, speed, unit)) return
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

  /** Lays an arc as chords that stay within 0.005 mm of it. Returns false when the arc cannot be. */
  private arc(
    clockwise: boolean,
    x: number,
    y: number,
    z: number,
    e: number,
    speed: number,
    unit: number,
  ): boolean {
    if (this.plane !== 17) {
      this.fault('An arc outside the XY plane is taken as a straight line.')
      return false
    }
    const { px, py, pz } = this
    let cx: number, cy: number
    if (this.have & bit(R)) {
      const r = this.value[R] * unit
      const dx = x - px
      const dy = y - py
      const chord = Math.hypot(dx, dy)
      if (chord < 1e-9 || chord > 2 * Math.abs(r) * 1.0001) {
        this.fault('An arc’s radius is too small for its ends; it is taken as a straight line.')
        return false
      }
      const side = Math.sqrt(Math.max(0, r * r - (chord / 2) ** 2)) * (clockwise === r > 0 ? 1 : -1)
      cx = px + dx / 2 + (dy / chord) * side
      cy = py + dy / 2 - (dx / chord) * side
    } else {
      if (!(this.have & (bit(I) | bit(J)))) {
        this.fault('An arc has neither a centre nor a radius; it is taken as a straight line.')
        return false
      }
      cx = px + (this.have & bit(I) ? this.value[I] * unit : 0)
      cy = py + (this.have & bit(J) ? this.value[J] * unit : 0)
    }
    const radius = Math.hypot(px - cx, py - cy)
    if (!(radius > 1e-6) || !(radius < FAR)) return false
    const from = Math.atan2(py - cy, px - cx)
    let sweep = Math.atan2(y - cy, x - cx) - from
    if (clockwise && sweep >= -1e-9) sweep -= 2 * Math.PI
    if (!clockwise && sweep <= 1e-9) sweep += 2 * Math.PI
    const sagitta = Math.min(0.005, radius / 2)
    const step = 2 * Math.acos(1 - sagitta / radius)
    const pieces = Math.min(3600, Math.max(1, Math.ceil(Math.abs(sweep) / step)))
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

  /** Largest position of the read so far, for progress. */
  get bytesRead(): number {
    return this.total
  }

  /**
   * Ends the file.
   * @throws GcodeError when it was empty or moved nothing
   */
  finish(): Program {
    this.endLine()
    if (this.total === 0) throw new GcodeError('empty', 'This file is empty.')
    const lines = this.lineNumber - 1
    if (this.store.count === 0) {
      if (this.badLines > this.goodLines)
        throw new GcodeError(
          'not-gcode',
          'This file does not read as G-code: most of its lines are something else.',
        )
      throw new GcodeError(
        'no-movement',
        'This file moves nothing: there is no G0, G1, G2 or G3 with a place to go.',
      )
    }
    // Fans are 0–255 nearly everywhere; a file that only ever says fractions means 0–1.
    const full = this.maxFan <= 1 && (this.fanFraction || this.maxFan === 1) ? 1 : 255
    for (const s of this.states) s.fan /= full
    return {
      ...this.store.arrays(),
      states: this.states,
      lines,
      bytes: this.total,
      unknown: this.unknown,
      faultCount: this.faultCount,
      faults: this.faults,
      style: this.style,
    }
  }
}

/** Reads a whole file that is already in memory. */
export function readGcode(bytes: Uint8Array, options?: ReaderOptions): Program {
  const reader = new GcodeReader(options)
  reader.push(bytes)
  return reader.finish()
}
