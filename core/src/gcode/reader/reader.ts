import { filamentArea } from '../../extrusion/bead'
import { GcodeError, type Program } from '../program'
import { Interpreter } from './interpreter'
import { Lexer } from './lexer'
import { Words } from './words'

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

/**
 * Reads extrusion G-code as a stream of bytes into moves. Words, modal groups, number format, comments and
 * arcs follow NIST RS274/NGC (Kramer, Proctor, Messina 2000); the feed axis E, the temperatures, fans and
 * the rest of the M codes are those that extrusion machines share. Comments are never used.
 *
 * @example
 * const reader = new GcodeReader()
 * for (const chunk of chunks) reader.push(chunk)
 * const program = reader.finish()
 */
export class GcodeReader {
  private readonly maxBytes: number
  private readonly interpreter: Interpreter
  private readonly lexer: Lexer
  private total = 0

  constructor(options: ReaderOptions = {}) {
    this.maxBytes = options.maxBytes ?? MAX_GCODE_BYTES
    const words = new Words()
    this.interpreter = new Interpreter(words, filamentArea(options.filamentDiameter ?? 1.75))
    this.lexer = new Lexer(words, this.interpreter, options.wordsOnly ?? false)
  }

  /**
   * Takes the next bytes of the file.
   * @throws GcodeError when the bytes cannot be G-code or the file is too large
   */
  push(chunk: Uint8Array): void {
    let from = 0
    if (this.total === 0) {
      if (chunk.length >= 2 && chunk[0] === 0x50 && chunk[1] === 0x4b) throw new GcodeError('packed')
      if (chunk[0] === 0xef && chunk[1] === 0xbb && chunk[2] === 0xbf) from = 3
    }
    this.total += chunk.length
    if (this.total > this.maxBytes) throw new GcodeError('too-large', { bytes: this.maxBytes })
    this.lexer.push(chunk, from)
  }

  /** Bytes read so far, for progress. */
  get bytesRead(): number {
    return this.total
  }

  /**
   * Ends the file.
   * @throws GcodeError when it was empty or moved nothing
   */
  finish(): Program {
    this.lexer.endLine()
    if (this.total === 0) throw new GcodeError('empty')
    if (this.interpreter.store.count === 0)
      throw new GcodeError(this.lexer.badLines > this.lexer.goodLines ? 'not-gcode' : 'no-movement')
    return this.interpreter.program(this.lexer.lineNumber - 1, this.total)
  }
}

/** Reads a whole file that is already in memory. */
export function readGcode(bytes: Uint8Array, options?: ReaderOptions): Program {
  const reader = new GcodeReader(options)
  reader.push(bytes)
  return reader.finish()
}
