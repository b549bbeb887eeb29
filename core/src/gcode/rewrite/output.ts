import type { LineWords } from './line'

const N = 13

/** A change of some bytes of a line: text in place of what stands from and up to; or put in where both are the same. */
export interface Patch {
  from: number
  to: number
  text: string
}

/** What is done to lines. */
export type LineFate = 'kept' | 'changed' | 'inserted' | 'removed'

/** A line that came out otherwise, for the person. */
export interface LineExample {
  /** Line in the old file, from 1. */
  line: number
  before: string | null
  after: string | null
}

/** Stands at the end of each line that was put in, so that a later change can take it out again. */
export const MARK = '; Verimend'

/** Lines shown of a rewriting. */
const MOST_EXAMPLES = 60

/** Bytes of a rewritten file: whole runs of the old one where nothing changes, new lines between them. */
export class RewriteOutput {
  private out = new Uint8Array(1 << 16)
  private length = 0
  private buffer: Uint8Array = new Uint8Array(0)
  private runFrom = 0
  private runTo = 0
  private lineEnd = '\n'
  /** What line numbers are moved by, since lines were put in or taken out. */
  private numberShift = 0
  /** Number of the last numbered line, as written; −1 where lines have none. */
  private lastNumber = -1
  private checksums = false
  changed = 0
  inserted = 0
  removed = 0
  bytes = 0
  readonly examples: LineExample[] = []

  /** Lines are from these bytes from now on; what was kept of earlier ones is written. */
  use(buffer: Uint8Array): void {
    this.flush()
    this.buffer = buffer
    this.runFrom = this.runTo = 0
  }

  /** What has been written since it was last taken. */
  take(): Uint8Array[] {
    this.flush()
    const { length } = this
    this.length = 0
    return length ? [this.out.slice(0, length)] : []
  }

  private flush(): void {
    if (this.runTo > this.runFrom) this.copy(this.runFrom, this.runTo)
    this.runFrom = this.runTo
  }

  private room(more: number): void {
    if (this.length + more <= this.out.length) return
    const wider = new Uint8Array(Math.max(this.length + more, this.out.length * 2))
    wider.set(this.out.subarray(0, this.length))
    this.out = wider
  }

  /** Writes bytes of the old file. */
  private copy(from: number, to: number): void {
    const n = to - from
    this.room(n)
    this.bytes += n
    if (n > 32) this.out.set(this.buffer.subarray(from, to), this.length)
    else for (let i = 0; i < n; i++) this.out[this.length + i] = this.buffer[from + i]
    this.length += n
  }

  /** Writes plain text, a byte for a character. */
  private write(text: string): void {
    this.room(text.length)
    this.bytes += text.length
    for (let i = 0; i < text.length; i++) this.out[this.length + i] = text.charCodeAt(i)
    this.length += text.length
  }

  /** Takes the line's end as that of lines which are put in. */
  learnEnd(from: number, to: number): void {
    if (to > from) this.lineEnd = String.fromCharCode(...this.buffer.subarray(from, to))
  }

  /** Writes a line as it stands; its number anew where lines before it have come or gone. */
  keep(from: number, to: number, words: () => LineWords): void {
    if (this.numberShift !== 0) {
      const line = words()
      if (line.words[0]?.letter === N) {
        this.rewrite(from, to, line, [])
        return
      }
    }
    if (this.runTo === from && this.runTo > this.runFrom) this.runTo = to
    else {
      this.flush()
      this.runFrom = from
      this.runTo = to
    }
  }

  /** Takes note of the numbers of lines. Every numbered line has to come by here. */
  noteNumber(line: LineWords): void {
    const first = line.words[0]
    if (first?.letter !== N) return
    // a command that sets the number begins the count anew
    if (line.words.some((w) => w.letter === 12 && w.value === 110)) this.numberShift = 0
    this.lastNumber = first.value + this.numberShift
    this.checksums = line.star >= 0
  }

  private text(from: number, to: number): string {
    return textOf(this.buffer, from, to)
  }

  /** Writes a line with some of its bytes changed; its checksum is made anew. */
  change(line: number, from: number, to: number, words: LineWords, patches: readonly Patch[]): void {
    this.changed++
    const began = this.rewrite(from, to, words, patches)
    if (this.examples.length < MOST_EXAMPLES)
      this.example(line, this.text(from, to), textOf(this.out, began, this.length))
  }

  private example(line: number, before: string | null, after: string | null): void {
    if (this.examples.length < MOST_EXAMPLES)
      this.examples.push({ line, before: before && before.trimEnd(), after: after && after.trimEnd() })
  }

  private rewrite(from: number, to: number, words: LineWords, patches: readonly Patch[]): number {
    const all = [...patches]
    const first = words.words[0]
    if (first?.letter === N && this.numberShift !== 0)
      all.push({ from: first.from, to: first.to, text: String(this.lastNumber) })
    if (all.length > 1) all.sort((p, q) => p.from - q.from || p.to - q.to)
    this.flush()
    const began = this.length
    let at = from
    for (const p of all) {
      this.copy(at, p.from)
      this.write(p.text)
      at = p.to
    }
    if (words.star < 0) this.copy(at, to)
    else {
      this.copy(at, words.star)
      let sum = 0
      for (let i = began; i < this.length; i++) sum ^= this.out[i]
      let k = words.star + 1
      while (k < to && this.buffer[k] >= 48 && this.buffer[k] <= 57) k++
      this.write(`*${sum}`)
      this.copy(k, to)
    }
    this.runFrom = this.runTo = to
    return began
  }

  /** Puts a line in before the one at hand. */
  insert(line: number, code: string): void {
    this.inserted++
    let text = code
    if (this.lastNumber >= 0) {
      this.numberShift++
      text = `N${++this.lastNumber} ${code}`
      if (this.checksums) text += `*${checksum(text)}`
    }
    this.flush()
    text += ` ${MARK}`
    this.write(text + this.lineEnd)
    this.example(line, null, text)
  }

  /** Whether a line was put in by an earlier change. */
  marked(from: number, textEnd: number): boolean {
    const at = textEnd - MARK.length
    if (at <= from) return false
    for (let k = 0; k < MARK.length; k++) if (this.buffer[at + k] !== MARK.charCodeAt(k)) return false
    return true
  }

  /** Leaves a line out; a comment on it stays, unless it is our own mark. */
  remove(line: number, from: number, to: number, words: LineWords, marked: boolean): void {
    this.removed++
    this.example(line, this.text(from, to), null)
    this.flush()
    if (words.comment && !marked) {
      let at = from
      while (at < to && this.buffer[at] !== 59 && this.buffer[at] !== 40) at++
      this.copy(at, to)
    }
    if (words.words[0]?.letter === N) this.numberShift--
    this.runFrom = this.runTo = to
  }
}

/** The checksum of a line: all its bytes before the star, exclusive or. */
export function checksum(text: string): number {
  let sum = 0
  for (let i = 0; i < text.length; i++) sum ^= text.charCodeAt(i) & 0xff
  return sum
}

/** The beginning of a line as text. */
function textOf(bytes: Uint8Array, from: number, to: number): string {
  let out = ''
  for (let i = from; i < to && out.length < 160; i++) out += String.fromCharCode(bytes[i])
  return out
}
