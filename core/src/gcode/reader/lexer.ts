import { GcodeError } from '../program'
import { TEXT_CODES, type Interpreter } from './interpreter'
import { bit, E, F, G, M, N, T, X, Y, Z, type Words } from './words'

const AXES = bit(X) | bit(Y) | bit(Z) | bit(E)

/** The words of a plain move. */
const PLAIN = bit(X) | bit(Y) | bit(Z) | bit(E) | bit(F)
/** Stands for the letter before a word that is an exponent or a word of its own. */
const UNCLEAR = -2
/** Powers of ten that a double holds exactly. */
const TENS = Float64Array.from({ length: 18 }, (_, i) => 10 ** i)

/**
 * Cuts bytes into words, line by line, and hands each line to the interpreter. Words, number format and comments
 * follow NIST RS274/NGC (Kramer, Proctor, Messina 2000). Comments are never used; words without a number are counted
 * as faults.
 *
 * RS274 has no exponents, but programs that print numbers carelessly write them, and E is the letter of the filament. An E
 * with a sign and a whole number, right behind another number, is an exponent where it can be nothing else: behind an E
 * word, with a leading nought (`1.2e-05`), in another case than the word's letter (`X1e-9`), or where the line has its E
 * word elsewhere. Where it could be either, the line is left out.
 */
export class Lexer {
  /** Nothing of the next line has been read yet. */
  private fresh = true
  lineNumber = 1
  goodLines = 0
  badLines = 0

  // --- the word being read
  private letter = -1
  private digits = 0
  private mantissa = 0
  private decimals = 0
  private negative = false
  private afterPoint = false
  private signed = false
  /** The letter of the word follows a digit without a blank. */
  private glued = false
  /** Case of the word's letter, and of the letter before it. */
  private small = false
  private lastSmall = false
  private lastByte = 0

  // --- the line being read
  private mode: 'code' | 'comment' | 'bracket' | 'skip' = 'code'
  private lettersOnLine = 0
  private wordsOnLine = 0
  private name = ''
  private naming = false
  private wordFaults = 0
  /** Exponents that were read as such. */
  private exponents = 0
  /** Words that are an exponent or an E word: told by the rest of the line. */
  private readonly unclear: { letter: number; power: number; digits: number }[] = []
  /** The word before the one being read. */
  private lastLetter = -1
  /** An axis stands twice. */
  private twice = false
  private afterReturn = false

  /** @param wordsOnly reads the words and lets them go: to measure what the reading of words alone costs */
  constructor(
    private readonly words: Words,
    private readonly interpreter: Interpreter,
    private readonly wordsOnly: boolean,
  ) {}

  /**
   * Takes the next bytes of the file, from `from` on.
   * @throws GcodeError when the bytes cannot be G-code
   */
  push(chunk: Uint8Array, from: number): void {
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

  /** Takes one whole line with its end, from `from` up to `end`. Nothing of another line may have been begun. */
  line(b: Uint8Array, from: number, end: number): void {
    if (b[end - 1] === 10 && this.plainLine(b, from) > 0) return
    for (let i = from; i < end; i++) this.byte(b[i])
    this.fresh = true
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
    const v = this.words.value
    let have = 0
    for (;;) {
      while (c === 32) c = b[++i]
      if (c === 10 || c === 13 || c === 59) break
      const letter = c - 65
      if (letter < 0 || letter > 25) return 0
      const mask = 1 << letter
      if ((PLAIN & mask) === 0 || have & mask) return 0
      // a feed glued to a number, with a sign: it may be an exponent
      if (letter === E && b[i + 1] === 45 && b[i - 1] >= 46 && b[i - 1] <= 57) return 0
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
      this.interpreter.style.comments = true
      do c = b[++i]
      while (c !== 10 && c !== 0 && c !== 13)
      if (c === 0) return 0
    }
    if (c === 13 && b[++i] !== 10) return 0
    this.goodLines++
    if (!this.wordsOnly) {
      this.words.have = have
      this.interpreter.plainMove(motion, this.lineNumber)
      this.words.have = 0
    }
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
    const before = this.lastByte
    this.lastByte = c
    if (c === 0) throw new GcodeError('binary')
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
        if (this.decimals < 17 && (this.digits <= 15 || this.mantissa < 1e14)) {
          this.mantissa = this.mantissa * 10 + (c - 48)
          this.decimals++
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
      this.signed = true
      return
    }
    if (c === 32 || c === 9) {
      return // RS274: blanks may stand anywhere, even inside numbers
    }
    if (c === 59) {
      this.interpreter.style.comments = true
      this.mode = 'comment'
      return
    }
    if (c === 40) {
      this.interpreter.style.comments = true
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
      this.lastSmall = this.small
      this.small = c !== upper
      this.glued = (before >= 48 && before <= 57) || before === 46
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
      throw new GcodeError('binary')
    }
    this.wordFaults++
  }

  private endWord(): void {
    const letter = this.letter
    if (letter < 0) return
    const number = (this.negative ? -this.mantissa : this.mantissa) / TENS[this.decimals]
    const bare = this.digits === 0
    const { digits } = this
    const whole = this.signed && !this.afterPoint
    const last = this.lastLetter
    this.signed = false
    this.letter = -1
    this.digits = 0
    this.mantissa = 0
    this.decimals = 0
    this.negative = false
    this.afterPoint = false
    if (bare) {
      // flags such as the X in "G28 X" stand without a number
      if (letter === X || letter === Y || letter === Z || letter === E) this.words.bareAxes |= bit(letter)
      return
    }
    if (letter === E && this.glued && whole) {
      if (last === UNCLEAR) {
        // an exponent has no exponent: what was unclear is the filament's own number
        this.words.value[E] = this.unclear.pop()!.power * 10 ** number
        this.words.have |= bit(E)
        this.lastLetter = -1
        this.exponents++
        return
      }
      if (this.words.has(last) && !this.exponent(last, number, digits)) return
    }
    this.wordsOnLine++
    this.lastLetter = letter
    if (letter === G) this.words.gCodes.push(number)
    else if (letter === M) {
      this.words.mCodes.push(number)
      if (TEXT_CODES.has(number)) this.mode = 'skip'
    } else if (letter === T) this.words.tool = number
    else if (letter === N)
      return // line number
    else {
      if (AXES & this.words.have & bit(letter)) this.twice = true
      this.words.value[letter] = number
      this.words.have |= bit(letter)
    }
  }

  /**
   * Takes an E with a whole number behind the word `last` as that word's exponent, now or at the line's end.
   * @returns whether it is a word of its own
   */
  private exponent(last: number, power: number, digits: number): boolean {
    const { words } = this
    const padded = digits > 1 && Math.abs(power) < 10 ** (digits - 1)
    if (last !== E && !padded && Math.abs(words.value[last]) >= 10) return true
    this.lastLetter = -1
    if (last === E || padded || this.small !== this.lastSmall) {
      words.value[last] *= 10 ** power
      this.exponents++
    } else {
      this.unclear.push({ letter: last, power, digits })
      this.lastLetter = UNCLEAR
    }
    return false
  }

  /**
   * Decides what was unclear, now that the whole line is known.
   * @returns whether each is one or the other
   */
  private settle(): boolean {
    const { unclear, words } = this
    if (!unclear.length) return true
    if (words.has(E)) {
      for (const u of unclear) words.value[u.letter] *= 10 ** u.power
      this.exponents += unclear.length
    } else {
      if (unclear.length > 1 || unclear[0].digits > 1) return false
      words.value[E] = unclear[0].power
      words.have |= bit(E)
    }
    return true
  }

  /** Ends the line, the last one too where no line end closes it. */
  endLine(): void {
    if (this.naming || this.name) {
      this.interpreter.unknownCode(this.name.toUpperCase())
    } else if (this.mode !== 'skip') this.endWord()
    if (this.wordsOnLine) {
      if (this.wordFaults) this.badLines++
      else this.goodLines++
      const clear = this.settle()
      if (!clear) this.interpreter.faultIn(this.lineNumber, 'exponent-unclear')
      else if (this.twice) this.interpreter.faultIn(this.lineNumber, 'axis-twice')
      else if (!this.wordsOnly) this.interpreter.execute(this.lineNumber)
      if (clear && this.exponents) this.interpreter.faultIn(this.lineNumber, 'exponent')
    } else if (this.wordFaults || this.name) this.badLines++
    if (this.wordFaults) this.interpreter.faultIn(this.lineNumber, 'no-word')
    if (this.badLines > 200 && this.badLines > 4 * this.goodLines) throw new GcodeError('not-gcode')
    this.words.clear()
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
    this.exponents = 0
    this.unclear.length = 0
    this.lastLetter = -1
    this.twice = false
    this.signed = false
    this.name = ''
    this.naming = false
    this.lineNumber++
  }
}
