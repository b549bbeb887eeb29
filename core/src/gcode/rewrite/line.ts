/** A word of a line with where it stands in the file's bytes. */
export interface WordAt {
  /** Place of the letter in the alphabet, 0 for A. */
  letter: number
  /** Where its letter stands. */
  at: number
  /** The number's text, from and up to; equal where the letter stands alone. */
  from: number
  to: number
  value: number
  decimals: number
}

/** One line of a file, cut into words. */
export interface LineWords {
  words: WordAt[]
  /** Where the code ends and a comment, a checksum or the line's end begins, blanks before it left out. */
  codeEnd: number
  /** Where the checksum's star stands; −1 where there is none. */
  star: number
  /** A comment stands on the line. */
  comment: boolean
  /** Words are set apart by blanks. */
  spaced: boolean
  lowerCase: boolean
}

const POWERS = [1, 10, 100, 1e3, 1e4, 1e5, 1e6]
const TENTHS = POWERS.map((p) => 1 / p)

const isDigit = (c: number) => c >= 48 && c <= 57
/** A second letter at the line's beginning: a named command. */
const isName = (c: number) => (c >= 65 && c <= 90) || (c >= 97 && c <= 122) || c === 95
const isBlank = (c: number) => c === 32 || c === 9

/**
 * Cuts a line into words as the reader does (NIST RS274/NGC: blanks anywhere, comments in brackets and after a semicolon), and
 * says where each stands, so that one can be changed and all else left alone.
 * @param to where the line's text ends, its line end left out
 */
export function wordsOf(bytes: Uint8Array, from: number, to: number): LineWords {
  const words: WordAt[] = []
  let star = -1
  let comment = false
  let codeEnd = from
  let spaced = false
  let lowerCase = false
  let bracket = false
  let i = from
  while (i < to) {
    const c = bytes[i]
    if (bracket) {
      if (c === 41) bracket = false
      i++
      continue
    }
    if (c === 59) {
      comment = true
      break
    }
    if (c === 42) {
      star = i
      break
    }
    if (c === 40) {
      comment = bracket = true
      i++
      continue
    }
    const upper = c >= 97 && c <= 122 ? c - 32 : c
    if (upper < 65 || upper > 90) {
      i++
      continue
    }
    if (!words.length && isName(bytes[i + 1])) return { words, codeEnd: to, star, comment, spaced, lowerCase }
    if (c !== upper) lowerCase = true
    if (words.length && isBlank(bytes[i - 1])) spaced = true
    const at = i
    let numberFrom = -1
    let end = ++i
    let mantissa = 0
    let decimals = 0
    let afterPoint = false
    let negative = false
    while (i < to) {
      const d = bytes[i]
      if (isDigit(d)) {
        mantissa = mantissa * 10 + (d - 48)
        if (afterPoint) decimals++
      } else if (d === 46) afterPoint = true
      else if (d === 45) negative = true
      else if (d !== 43) {
        if (!isBlank(d)) break
        i++
        continue
      }
      if (numberFrom < 0) numberFrom = i
      end = ++i
    }
    const word: WordAt =
      numberFrom < 0
        ? { letter: upper - 65, at, from: at + 1, to: at + 1, value: 0, decimals: 0 }
        : {
            letter: upper - 65,
            at,
            from: numberFrom,
            to: end,
            value: (negative ? -mantissa : mantissa) / (decimals < 7 ? POWERS[decimals] : 10 ** decimals),
            decimals,
          }
    words.push(word)
    codeEnd = end
  }
  return { words, codeEnd, star, comment, spaced, lowerCase }
}

/** How numbers behind a letter are printed in a file. */
interface Printed {
  /** Most and fewest decimals; the same where noughts are kept at the end. */
  decimals: number
  fewest: number
  /** `.5` and not `0.5`. */
  pointFirst: boolean
}

/** How a file prints its words; learnt from its own lines. */
export class Spelling {
  private readonly byLetter: (Printed | undefined)[] = new Array<undefined>(26).fill(undefined)
  /** F stands before the axes. */
  feedRateFirst = false
  private lowerCase = false
  private tight = false
  /** Letters that are said again where nothing about them has changed. */
  private readonly repeated = new Set<number>()
  private readonly last = new Map<number, number>()

  /** Takes note of a line. */
  learn(bytes: Uint8Array, line: LineWords): void {
    let axis = false
    if (line.words.length > 1) {
      this.lowerCase = line.lowerCase
      this.tight = !line.spaced
    }
    for (const w of line.words) {
      if (w.letter === 23 || w.letter === 24 || w.letter === 4) axis = true
      else if (w.letter === 5 && line.words.length > 2) this.feedRateFirst = !axis
      if (w.from === w.to) continue
      if (this.last.get(w.letter) === w.value) this.repeated.add(w.letter)
      this.last.set(w.letter, w.value)
      const known = this.byLetter[w.letter] ?? { decimals: 0, fewest: Infinity, pointFirst: false }
      known.decimals = Math.max(known.decimals, w.decimals)
      known.fewest = Math.min(known.fewest, w.decimals)
      const first = bytes[w.from] === 45 ? w.from + 1 : w.from
      if (bytes[first] === 46) known.pointFirst = true
      this.byLetter[w.letter] = known
    }
  }

  /** A command in the file's own case and spacing. */
  like(code: string): string {
    const spaced = this.tight ? code.replace(/ /g, '') : code
    return this.lowerCase ? spaced.toLowerCase() : spaced
  }

  /** Whether a word is said here even where it changes nothing. */
  repeats(letter: number): boolean {
    return this.repeated.has(letter)
  }

  /** What the last decimal of a letter's words tells, in the file's units. */
  digit(letter: number, least = 0): number {
    return TENTHS[Math.min(6, this.decimals(letter, least))]
  }

  /** Decimals that words of a letter have in this file. */
  decimals(letter: number, least = 0): number {
    return Math.max(least, this.byLetter[letter]?.decimals ?? 0)
  }

  /**
   * A number as this file would print it.
   * @param share the least share of the value that a decimal must still tell; more decimals than usual are taken for small values
   */
  print(letter: number, value: number, least = 0, share = 0): string {
    const known = this.byLetter[letter]
    const own = this.decimals(letter, least)
    let digits = Math.min(6, own)
    if (share > 0 && value !== 0) {
      const fine = Math.min(6, Math.ceil(-Math.log10(share * Math.abs(value))))
      if (fine > digits && Math.abs(Number(value.toFixed(digits)) - value) > 1e-7) digits = fine
    }
    const padded =
      known !== undefined &&
      known.decimals > 0 &&
      known.fewest === known.decimals &&
      digits === known.decimals
    const text = printed(value, digits, padded)
    return known?.pointFirst ? text.replace(/^(-?)0\./, '$1.') : text
  }
}

/** A number with so many decimals at the most; noughts at the end only where they are kept. */
function printed(value: number, digits: number, padded: boolean): string {
  const scaled = Math.round(Math.abs(value) * POWERS[digits])
  if (!Number.isSafeInteger(scaled)) return value.toFixed(digits)
  const whole = Math.floor(scaled / POWERS[digits])
  let rest = scaled - whole * POWERS[digits]
  let width = digits
  if (!padded)
    while (width > 0 && rest % 10 === 0) {
      rest /= 10
      width--
    }
  const sign = value < 0 && scaled > 0 ? '-' : ''
  return width > 0 ? `${sign}${whole}.${String(rest).padStart(width, '0')}` : `${sign}${whole}`
}
