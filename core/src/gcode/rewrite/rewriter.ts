import { filamentArea } from '../../extrusion/bead'
import { MoveKind, type Program } from '../program'
import { Interpreter, newModal, type Modal } from '../reader/interpreter'
import { Lexer } from '../reader/lexer'
import { E, F, G, I, J, M, N, R, S, Words, X, Y, Z } from '../reader/words'
import { MoveCount } from '../store'
import { CommandWriter } from './commands'
import { RewriteError } from './faults'
import { Spelling, wordsOf, type LineWords, type WordAt } from './line'
import { RewriteOutput, type LineExample, type Patch } from './output'
import type { Inserted, Moves, Overlay } from './overlay'

export interface RewriteOptions {
  /** mm; as the file was read with. */
  filamentDiameter?: number
  /** Whether a place is on the machine, mm. */
  within?: (x: number, y: number, z: number) => boolean
}

/** What was done to a file. */
export interface RewriteSummary {
  changed: number
  inserted: number
  removed: number
  bytes: number
  examples: LineExample[]
}

/** Codes that move the head in ways the reader does not follow. */
const UNFOLLOWED = new Set([5, 6, 38, 60, 61, 73, 76, 81, 82, 83, 84, 85, 86, 87, 88, 89])
/** mm/s and mm under which nothing differs: what the last digit of a file holds. */
const SAME_SPEED = 0.005
/** Bytes that tell how a file prints its words; none is written before. */
const LEARNT_FROM = 65_536
/** Share of an E word that rounding may take. */
const E_SHARE = 0.002
const AXES = [X, Y, Z] as const
const AXIS_NAMES = ['x', 'y', 'z'] as const

/** Where the rewritten file stands, as the machine that prints it would be. */
interface OutState {
  x: number
  y: number
  z: number
  offsetX: number
  offsetY: number
  offsetZ: number
  /** E as written, and as it should be, mm. */
  e: number
  exactE: number
  feedRate: number
}

/**
 * Writes a file again with some of its moves changed, and every other line byte for byte as it was: the file is read a second
 * time beside its program, and a line is only spelt anew where what it does differs. What a changed line would leave behind
 * for the lines after it (a feed rate, an absolute feed, a height) is put right where they begin.
 *
 * The dialect stays: absolute and relative places and feeds, volumes, inches, arcs, G92, line numbers, checksums, case,
 * blanks, digits and line ends are those of the file.
 *
 * @example
 * const rewriter = new FileRewriter(program, { feed: (i, e) => (e > 0 ? e * 1.05 : e) })
 * const parts = [...rewriter.push(bytes), ...rewriter.finish()]
 */
export class FileRewriter {
  private readonly interpreter: Interpreter
  private readonly lexer: Lexer
  private readonly output = new RewriteOutput()
  private readonly spelling = new Spelling()
  private readonly commands: CommandWriter
  private carry: Uint8Array = new Uint8Array(0)
  private buffer: Uint8Array = new Uint8Array(0)
  private before: Modal = newModal()
  private after: Modal = newModal()
  private readonly out: OutState
  /** What is written so far leaves the machine as the old file would. */
  private synced = true
  private began = false
  private lineNumber = 0
  private firmwareTold = false
  /** The line at hand was put in by an earlier change. */
  private marked = false
  /** mm by which the count of a feed in steps differs: it matters once places are counted again. */
  private apart = 0

  /** @param moves the program as it was read from the same bytes */
  constructor(
    private readonly moves: Moves & Pick<Program, 'fanScale' | 'heaterPerTool'>,
    private readonly overlay: Overlay,
    private readonly options: RewriteOptions = {},
  ) {
    const words = new Words()
    this.interpreter = new Interpreter(words, filamentArea(options.filamentDiameter ?? 1.75), new MoveCount())
    this.lexer = new Lexer(words, this.interpreter, false)
    this.commands = new CommandWriter(moves, overlay, this.spelling)
    this.out = { x: 0, y: 0, z: 0, offsetX: 0, offsetY: 0, offsetZ: 0, e: 0, exactE: 0, feedRate: 0 }
    this.interpreter.modalInto(this.before)
  }

  /**
   * Takes the next bytes of the old file.
   * @returns the next bytes of the new one
   * @throws RewriteError where a line cannot be followed, GcodeError where the bytes are none that were read
   */
  push(chunk: Uint8Array): Uint8Array[] {
    if (this.carry.length) {
      const whole = new Uint8Array(this.carry.length + chunk.length)
      whole.set(this.carry)
      whole.set(chunk, this.carry.length)
      return this.lines(whole, false)
    }
    return this.lines(chunk, false)
  }

  /** Ends the file. */
  finish(): { pieces: Uint8Array[]; summary: RewriteSummary } {
    const pieces = this.lines(this.carry, true)
    if (this.interpreter.store.count !== this.moves.count) throw new RewriteError('rewrite-other-file')
    const { changed, inserted, removed, bytes, examples } = this.output
    return { pieces, summary: { changed, inserted, removed, bytes, examples } }
  }

  private lines(buffer: Uint8Array, last: boolean): Uint8Array[] {
    this.buffer = buffer
    this.output.use(buffer)
    let at = 0
    if (!this.began) {
      if (buffer.length < LEARNT_FROM && !last) {
        this.carry = buffer.slice()
        return []
      }
      this.began = true
      // how the file prints its words has to be known before the first is written
      this.learn(buffer)
      if (buffer[0] === 0xef && buffer[1] === 0xbb && buffer[2] === 0xbf) {
        this.output.keep(0, 3, () => wordsOf(buffer, 0, 0))
        at = 3
      }
    }
    let nextReturn = buffer.indexOf(13, at)
    while (at < buffer.length) {
      if (nextReturn >= 0 && nextReturn < at) nextReturn = buffer.indexOf(13, at)
      let textEnd = buffer.indexOf(10, at)
      if (nextReturn >= 0 && (textEnd < 0 || nextReturn < textEnd)) textEnd = nextReturn
      let end: number
      if (textEnd < 0) {
        if (!last) break
        textEnd = end = buffer.length
      } else if (buffer[textEnd] === 13) {
        if (textEnd + 1 >= buffer.length && !last) break
        end = buffer[textEnd + 1] === 10 ? textEnd + 2 : textEnd + 1
      } else end = textEnd + 1
      this.line(at, textEnd, end)
      at = end
    }
    const out = this.output.take()
    this.carry = last ? new Uint8Array(0) : buffer.slice(at)
    return out
  }

  private learn(buffer: Uint8Array): void {
    const most = Math.min(buffer.length, 400_000)
    let at = 0
    for (let i = 0; i <= most; i++) {
      if (i < most && buffer[i] !== 10 && buffer[i] !== 13) continue
      if (i > at && i - at < 200 && buffer[at] !== 59) this.spelling.learn(buffer, wordsOf(buffer, at, i))
      at = i + 1
    }
  }

  private line(from: number, textEnd: number, end: number): void {
    const { interpreter, output, moves } = this
    this.lineNumber++
    const first = interpreter.store.count
    const faults = interpreter.faultCount
    this.lexer.line(this.buffer, from, end)
    if (end === textEnd) this.lexer.endLine()
    const past = interpreter.store.count
    if (past > moves.count) throw new RewriteError('rewrite-other-file')
    interpreter.modalInto(this.after)
    output.learnEnd(textEnd, end)
    let words: LineWords | null = null
    const cut = () => (words ??= wordsOf(this.buffer, from, textEnd))
    this.marked = output.marked(from, textEnd)
    const numbered = this.buffer[from] === 78 || this.buffer[from] === 110
    const patches =
      past > first
        ? this.moveLine(first, past, cut)
        : this.otherLine(past, cut, this.buffer[from], textEnd - from)
    if (numbered && patches !== 'gone') output.noteNumber(cut())
    if (patches === 'gone') output.remove(this.lineNumber, from, end, cut(), this.marked)
    else if (patches.length) output.change(this.lineNumber, from, end, cut(), patches)
    else output.keep(from, end, cut)
    if ((patches === 'gone' || patches.length) && interpreter.faultCount > faults)
      throw new RewriteError('rewrite-line-unclear', { line: this.lineNumber })
    const { before } = this
    this.before = this.after
    this.after = before
  }

  /** The new file's machine begins to differ from the old one's. */
  private part(): void {
    if (!this.synced) return
    const { before: b, out } = this
    out.x = b.x
    out.y = b.y
    out.z = b.z
    out.offsetX = b.offsetX
    out.offsetY = b.offsetY
    out.offsetZ = b.offsetZ
    out.e = out.exactE = b.e + this.apart
    out.feedRate = b.feedRate
    this.synced = false
  }

  /** Whether nothing is left that differs, now that the line is written. */
  private meet(): void {
    if (this.synced) return
    const { after: a, out } = this
    const place = (letter: number) => 0.6 * this.spelling.digit(letter, 2) * a.unit
    if (Math.abs(out.exactE - a.e) < 1e-6) out.exactE = a.e
    this.apart = out.e - a.e
    if (Math.abs(this.apart) < 1e-6) this.apart = 0
    this.synced =
      Math.abs(out.x - a.x) < place(X) &&
      Math.abs(out.y - a.y) < place(Y) &&
      Math.abs(out.z - a.z) < place(Z) &&
      Math.abs(out.offsetX - a.offsetX) < 1e-6 &&
      Math.abs(out.offsetY - a.offsetY) < 1e-6 &&
      Math.abs(out.offsetZ - a.offsetZ) < 1e-6 &&
      (!a.feedAbsolute || (this.apart === 0 && Math.abs(out.exactE - a.e) < 1e-6)) &&
      Math.abs(out.feedRate - a.feedRate) < SAME_SPEED
  }

  private put(code: string): void {
    this.output.insert(this.lineNumber, this.spelling.like(code))
  }

  // --- lines that move

  private moveLine(first: number, past: number, cut: () => LineWords): Patch[] | 'gone' {
    const { moves, overlay, before } = this
    const kind = moves.kind[first]
    if (kind === MoveKind.Jump) return this.homeLine(cut)
    if (!this.commands.idle) for (const command of this.commands.before(first)) this.put(command)
    if (overlay.firmwareLength !== undefined && !this.firmwareTold && kind === MoveKind.Retract) {
      if (cut().words.some((w) => w.letter === G && w.value === 10)) this.tellFirmware()
    }
    if (kind === MoveKind.Dwell) {
      if (!this.synced) this.meet()
      return []
    }
    const steps = overlay.before?.(first)
    const dropped = overlay.drops?.(first) ?? false
    let fed = 0
    if (overlay.feed) for (let i = first; i < past; i++) fed += overlay.feed(i, moves.e[i]) - moves.e[i]
    const asked = moves.speed[first]
    const speed = overlay.speed ? overlay.speed(first, asked) : asked
    const last = past - 1
    const dx = overlay.shift?.x?.(last) ?? 0
    const dy = overlay.shift?.y?.(last) ?? 0
    const dz = overlay.shift?.z?.(last) ?? 0
    if (this.synced && !steps && !dropped && fed === 0 && speed === asked && !dx && !dy && !dz) return []
    const line = cut()
    if (line.words.some((w) => w.letter === G && (w.value === 10 || w.value === 11))) return []
    this.part()
    for (const step of steps ?? []) this.step(step)
    if (steps?.length && before.motion >= 2 && !line.words.some((w) => w.letter === G))
      throw new RewriteError('rewrite-line-unclear', { line: this.lineNumber })
    if (dropped) {
      this.meet()
      return this.without(line)
    }
    return this.spell(line, { fed, asked, speed, shift: [dx, dy, dz] })
  }

  /** Spells a line with axis words, so that the new file does there what the old one did, or what it is to do instead. */
  private spell(
    line: LineWords,
    { fed, asked, speed, shift }: { fed: number; asked: number; speed: number; shift: readonly number[] },
  ): Patch[] | 'gone' {
    const { before, after, out } = this
    /** Nothing but a move. */
    let pure = true
    for (const { letter, value } of line.words) {
      if (letter === G) {
        if (value > 3 && value !== 90 && value !== 91 && value !== 21 && value !== 20)
          throw new RewriteError('rewrite-line-unclear', { line: this.lineNumber })
        if (value > 1) pure = false
      } else if (letter !== E && letter !== F && letter !== N && letter < X) pure = false
    }
    const patches: Patch[] = []
    const find = (letter: number) => {
      for (const w of line.words) if (w.letter === letter) return w
      return undefined
    }
    const arc = find(I) ?? find(J) ?? find(R)
    if (
      arc &&
      (Math.abs(out.x - before.x - shift[0]) > 0.002 || Math.abs(out.y - before.y - shift[1]) > 0.002)
    )
      throw new RewriteError('rewrite-arc', { line: this.lineNumber })
    // where the old head stood still, the new one does, wherever it is; the next line that moves goes where it is to go
    const still =
      !arc &&
      before.x === after.x &&
      before.y === after.y &&
      before.z === after.z &&
      !shift[0] &&
      !shift[1] &&
      !shift[2]
    const adds: { letter: number; text: string }[] = []
    let moved = false
    for (let k = 0; k < 3; k++) {
      const name = AXIS_NAMES[k]
      const want = still ? out[name] : after[name] + shift[k]
      if (this.axis(AXES[k], name, want, find(AXES[k]), line, patches, adds)) moved = true
    }
    if (arc && after.centreAbsolute && !find(R))
      [I, J].forEach((letter, k) => {
        const w = find(letter)
        if (w && shift[k]) patches.push(this.number(w, w.value + shift[k] / after.unit))
      })
    // a full turn ends where it began
    if (arc) moved = true
    if (moved && this.options.within && shift.some((d) => d !== 0)) this.checkPlace()
    const feeds = this.feedWord(fed, find(E), line, patches, adds)
    const rate = speed === asked ? after.feedRate : speed / (before.speedFactor || 1)
    if (!moved && !feeds && pure) {
      this.meet()
      // what it set for later lines is set by them
      return 'gone'
    }
    this.rateWord(rate, find(F), line, patches, adds)
    this.append(line, adds, patches)
    this.meet()
    return patches
  }

  /**
   * Writes an axis word where its place differs.
   * @returns whether the head moves along this axis
   */
  private axis(
    letter: number,
    name: 'x' | 'y' | 'z',
    want: number,
    word: WordAt | undefined,
    line: LineWords,
    patches: Patch[],
    adds: { letter: number; text: string }[],
  ): boolean {
    const { out, after } = this
    const offsetName = (name === 'x' ? 'offsetX' : name === 'y' ? 'offsetY' : 'offsetZ') as 'offsetX'
    const offset = out[offsetName]
    const had = out[name]
    const inFile = (place: number) => (after.absolute ? place - offset : place - had) / after.unit
    const reached = (value: number) =>
      after.absolute ? value * after.unit + offset : had + value * after.unit
    const half = 0.5 * this.spelling.digit(letter, 2) * after.unit
    if (word && word.from < word.to) {
      const stays = Math.abs(reached(word.value) - want) <= half * 1.001
      if (stays) out[name] = reached(word.value)
      else {
        const text = this.spelling.print(letter, inFile(want), 2)
        if (Math.abs(reached(Number(text)) - had) < 1e-7 && !this.spelling.repeats(letter))
          patches.push(this.removal(word, line))
        else patches.push({ from: word.from, to: word.to, text })
        out[name] = reached(Number(text))
      }
    } else if (Math.abs(want - had) > half * 1.2) {
      const text = this.spelling.print(letter, inFile(want), 2)
      adds.push({ letter, text })
      out[name] = reached(Number(text))
    }
    return Math.abs(out[name] - had) > 1e-7
  }

  /**
   * Writes the E word.
   * @param fed mm of filament by which the line feeds more than it did
   * @returns whether the line feeds
   */
  private feedWord(
    fed: number,
    word: WordAt | undefined,
    line: LineWords,
    patches: Patch[],
    adds: { letter: number; text: string }[],
  ): boolean {
    const { out, before, after, spelling } = this
    const { unit, feedAbsolute } = after
    const { filament } = before
    const there = word && word.from < word.to
    const old = there ? (feedAbsolute ? word.value * unit - before.e : word.value * unit) : 0
    const step = fed === 0 ? old : old + fed / filament
    const half = 0.5 * spelling.digit(E, 2) * unit
    if (Math.abs(step) < 1e-6 && Math.abs(old) > 1e-6) {
      if (there) patches.push(this.removal(word, line))
      return false
    }
    if (!there && Math.abs(step) < 1e-6) return false
    out.exactE += step
    if (feedAbsolute) {
      if (there && fed === 0 && Math.abs(out.exactE - word.value * unit) > this.countSlack()) {
        // this line is to stay: the count is brought to where it was
        this.put(`G92 E${spelling.print(E, before.e / before.unit, 2)}`)
        out.exactE = word.value * unit
      }
      const value = out.exactE / unit
      if (there && (fed === 0 || Math.abs(value - word.value) * unit <= half)) {
        out.e = word.value * unit
        if (fed === 0) out.exactE = out.e
      } else {
        const text = spelling.print(E, value, 2)
        if (there) patches.push({ from: word.from, to: word.to, text })
        else adds.push({ letter: E, text })
        out.e = Number(text) * unit
      }
      return true
    }
    if (there && fed === 0) {
      out.e += old
      return true
    }
    const text = spelling.print(E, step / unit, 2, E_SHARE)
    if (there) {
      if (Number(text) !== word.value) patches.push({ from: word.from, to: word.to, text })
    } else adds.push({ letter: E, text })
    out.e += Number(text) * unit
    // in steps nothing adds up: each is rounded for itself, so that the old value gives the old step
    out.exactE = out.e
    return true
  }

  /** What a count of the feed may be off before it is counted anew, mm: a few of the file's last digits, which do not add up. */
  private countSlack(): number {
    return Math.min(6e-4, 2.5 * this.spelling.digit(E, 2) * this.before.unit)
  }

  /** Writes the F word. */
  private rateWord(
    rate: number,
    word: WordAt | undefined,
    line: LineWords,
    patches: Patch[],
    adds: { letter: number; text: string }[],
  ): void {
    const { out, before, after } = this
    const value = (rate * 60) / after.unit
    const close = (a: number, b: number) => Math.abs(a - b) < SAME_SPEED
    if (word && word.from < word.to) {
      const own = (word.value * after.unit) / 60
      // said anew for this line alone, and it holds already
      if (close(out.feedRate, rate) && !close(before.feedRate, after.feedRate) && !this.spelling.repeats(F))
        patches.push(this.removal(word, line))
      else if (!close(rate, own)) {
        const text = this.spelling.print(F, value)
        patches.push({ from: word.from, to: word.to, text })
        out.feedRate = (Number(text) * after.unit) / 60
      } else out.feedRate = own
    } else if (!close(out.feedRate, rate) && rate > 0) {
      const text = this.spelling.print(F, value)
      adds.push({ letter: F, text })
      out.feedRate = (Number(text) * after.unit) / 60
    }
  }

  private number(w: WordAt, value: number): Patch {
    return { from: w.from, to: w.to, text: this.spelling.print(w.letter, value, 2) }
  }

  /** Takes a word out with the blanks before it. */
  private removal(w: WordAt, line: LineWords): Patch {
    let from = w.at
    const first = line.words[0].at
    while (from > first && (this.buffer[from - 1] === 32 || this.buffer[from - 1] === 9)) from--
    return { from, to: w.to, text: '' }
  }

  /** Puts words in at the end of a line's code, a feed rate before the axes where the file has it there. */
  private append(line: LineWords, adds: readonly { letter: number; text: string }[], patches: Patch[]): void {
    for (const { letter, text } of adds) {
      const name = String.fromCharCode((line.lowerCase ? 97 : 65) + letter)
      const word = `${line.spaced || line.words.length < 2 ? ' ' : ''}${name}${text}`
      const axis = line.words.find((w) => w.letter === X || w.letter === Y || w.letter === Z)
      let at = line.codeEnd
      if (letter === F && this.spelling.feedRateFirst && axis) {
        at = axis.at
        while (this.buffer[at - 1] === 32 || this.buffer[at - 1] === 9) at--
      } else if (letter !== F && letter !== E) {
        // axes before what is fed
        const later = line.words.find((w) => w.letter === E || w.letter === F)
        if (later && line.words.indexOf(later) > 0) {
          at = later.at
          while (this.buffer[at - 1] === 32 || this.buffer[at - 1] === 9) at--
        }
      }
      patches.push({ from: at, to: at, text: word })
    }
  }

  /** A line whose move is left out: its words go; what else it says stays. */
  private without(line: LineWords): Patch[] | 'gone' {
    if (line.words.every((w) => [N, G, X, Y, Z, E, F, I, J, R].includes(w.letter))) return 'gone'
    throw new RewriteError('rewrite-line-unclear', { line: this.lineNumber })
  }

  private checkPlace(): void {
    const { out } = this
    if (!this.options.within!(out.x, out.y, out.z))
      throw new RewriteError('rewrite-outside', { line: this.lineNumber })
  }

  /** Writes a move of our own in the file's way. */
  private step(step: Inserted): void {
    if (step.command) return this.put(step.command)
    const { out, before, spelling } = this
    const words: string[] = []
    let moves = false
    AXIS_NAMES.forEach((name, k) => {
      const want = step[name]
      if (want === undefined) return
      const offset = out[(['offsetX', 'offsetY', 'offsetZ'] as const)[k]]
      const had = out[name]
      const text = spelling.print(AXES[k], (before.absolute ? want - offset : want - had) / before.unit, 3)
      const reached = before.absolute ? Number(text) * before.unit + offset : had + Number(text) * before.unit
      if (Math.abs(reached - had) < 1e-7) return
      words.push(`${'XYZ'[k]}${text}`)
      out[name] = reached
      moves = true
    })
    if (moves && this.options.within) this.checkPlace()
    if (step.e) {
      const e = step.e / before.filament
      out.exactE += e
      // as many decimals as a short line needs, however far the feed is counted
      const decimals = Math.min(6, Math.ceil(-Math.log10((E_SHARE * Math.abs(e)) / before.unit)))
      const text = spelling.print(
        E,
        (before.feedAbsolute ? out.exactE : e) / before.unit,
        Math.max(2, decimals),
      )
      words.push(`E${text}`)
      if (before.feedAbsolute) out.e = Number(text) * before.unit
      else {
        out.e += Number(text) * before.unit
        out.exactE = out.e
      }
    }
    if (!words.length) return
    const rate = step.speed / (before.speedFactor || 1)
    if (Math.abs(out.feedRate - rate) >= SAME_SPEED) {
      const text = spelling.print(F, (rate * 60) / before.unit)
      words.push(`F${text}`)
      out.feedRate = (Number(text) * before.unit) / 60
    }
    this.put(`G1 ${words.join(' ')}`)
  }

  private homeLine(cut: () => LineWords): Patch[] {
    if (this.synced) return []
    const { out, after } = this
    const named = cut().words.map((w) => w.letter)
    const all = !AXES.some((l) => named.includes(l))
    if (all || named.includes(X)) [out.x, out.offsetX] = [after.x, after.offsetX]
    if (all || named.includes(Y)) [out.y, out.offsetY] = [after.y, after.offsetY]
    if (all || named.includes(Z)) [out.z, out.offsetZ] = [after.z, after.offsetZ]
    this.meet()
    return []
  }

  // --- lines that do not move

  private tellFirmware(): void {
    this.firmwareTold = true
    this.put(`M207 S${this.spelling.print(S, this.overlay.firmwareLength! / this.before.unit, 2)}`)
  }

  private otherLine(next: number, cut: () => LineWords, start: number, length: number): Patch[] | 'gone' {
    if (length === 0 || start === 59) return []
    const { commands, overlay, before, after } = this
    // a feed in places begins where one in steps has left another count
    if (this.synced && this.apart !== 0 && after.feedAbsolute) this.part()
    if (
      this.synced &&
      this.apart === 0 &&
      commands.idle &&
      !overlay.speed &&
      overlay.firmwareLength === undefined
    ) {
      this.refuseUnfollowed(cut())
      return []
    }
    const line = cut()
    this.refuseUnfollowed(line)
    const codes = line.words.filter((w) => w.letter === G || w.letter === M)
    const find = (letter: number) => line.words.find((w) => w.letter === letter)
    const has = (letter: number, value: number) => codes.some((w) => w.letter === letter && w.value === value)
    if (has(G, 92)) return this.positionLine(line)
    if (has(M, 207) && overlay.firmwareLength !== undefined && find(S)) {
      this.firmwareTold = true
      const want = overlay.firmwareLength / before.unit
      return Math.abs(find(S)!.value - want) < 1e-6 ? [] : [this.number(find(S)!, want)]
    }
    const rate = find(F)
    if (rate && rate.from < rate.to && line.words.every((w) => [N, G, F].includes(w.letter)))
      return this.rateLine(rate, next)
    const axes = [X, Y, Z, E].some((l) => (find(l)?.to ?? 0) > (find(l)?.from ?? 0))
    if (axes && !this.synced && codes.every((w) => w.letter === G && w.value <= 3)) {
      // it moved nothing where the old file stood; where the new one stands it might
      const i = Math.min(next, this.moves.count - 1)
      const shift = (['x', 'y', 'z'] as const).map((k) => overlay.shift?.[k]?.(i) ?? 0)
      return this.spell(line, { fed: 0, asked: 0, speed: 0, shift })
    }
    if (!commands.idle && codes.some((w) => w.letter === M)) {
      const state = this.interpreter.state
      const patches = commands.rewrite(line, next, state, this.marked)
      if (!this.synced) this.meet()
      return patches
    }
    if (!this.synced) this.meet()
    return []
  }

  private refuseUnfollowed(line: LineWords): void {
    const g = line.words.find((w) => w.letter === G && UNFOLLOWED.has(Math.floor(w.value)))
    if (g && line.words.some((w) => w.letter === X || w.letter === Y || w.letter === Z || w.letter === E))
      throw new RewriteError('rewrite-unknown-move', { line: this.lineNumber, code: `G${g.value}` })
  }

  /** A line that only sets a feed rate: for the moves after it that have none of their own. */
  private rateLine(word: WordAt, next: number): Patch[] {
    const { after, moves, overlay, out } = this
    const meant = after.feedRate * after.speedFactor
    const uses =
      next < moves.count &&
      moves.kind[next] !== MoveKind.Dwell &&
      Math.abs(moves.speed[next] - meant) < 1e-4 * Math.max(1, meant)
    const want = uses && overlay.speed ? overlay.speed(next, moves.speed[next]) : meant
    const changes = uses && !!overlay.speed && want !== moves.speed[next]
    if (this.synced && !changes) return []
    this.part()
    out.feedRate = after.feedRate
    const patches: Patch[] = []
    if (changes) {
      const text = this.spelling.print(F, ((want / (after.speedFactor || 1)) * 60) / after.unit)
      if (Number(text) !== word.value) patches.push({ from: word.from, to: word.to, text })
      out.feedRate = (Number(text) * after.unit) / 60
    }
    this.meet()
    return patches
  }

  /** G92: both files begin to count anew; where that is all it did, and nothing is left to do, it goes. */
  private positionLine(line: LineWords): Patch[] | 'gone' {
    if (this.synced) {
      if (this.apart === 0) return []
      this.part()
    }
    const { out, before } = this
    const word = (letter: number) => line.words.find((w) => w.letter === letter && w.from < w.to)
    const none = ![X, Y, Z, E].some((l) => word(l))
    const unit = before.unit
    if (word(X) || none) out.offsetX = none ? out.x : out.x - word(X)!.value * unit
    if (word(Y) || none) out.offsetY = none ? out.y : out.y - word(Y)!.value * unit
    if (word(Z) || none) out.offsetZ = none ? out.z : out.z - word(Z)!.value * unit
    const e = word(E)
    if (e || none) {
      const value = e ? e.value * unit : 0
      const needless = this.marked && e && before.feedAbsolute && Math.abs(out.e - value) < this.countSlack()
      if (needless) {
        out.exactE = out.e = value
        this.meet()
        return 'gone'
      }
      out.e = out.exactE = value
    }
    this.meet()
    return []
  }
}
