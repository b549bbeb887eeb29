import { reasonsOf, type Reason, type ReasonArguments } from '../../quantity/reason'

/** Why a file cannot be rewritten, with the values its sentence needs. */
export interface RewriteFaults {
  /** A line that would have to change cannot be followed for certain. */
  'rewrite-line-unclear': { line: number }
  /** A move of this file does what the reader does not follow. */
  'rewrite-unknown-move': { line: number; code: string }
  /** An arc whose ends are moved differently. */
  'rewrite-arc': { line: number }
  /** A move would leave the machine. */
  'rewrite-outside': { line: number }
  /** The file is not the one that was read. */
  'rewrite-other-file': object
}
const fault = reasonsOf<RewriteFaults>()

/** A file that cannot be rewritten as asked. */
export class RewriteError extends Error {
  readonly reason: Reason

  constructor(...given: ReasonArguments<RewriteFaults>) {
    super(given[0])
    this.name = 'RewriteError'
    this.reason = fault(...given)
  }
}
