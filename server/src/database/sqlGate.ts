import { Transform, type TransformCallback } from 'node:stream'

/** SQL that is not what a dump of our own tables consists of. */
export class ForeignSql extends Error {}

/** Only these, with these values: how quotes and characters are read must not change on the way. */
const SAVED = '@\\w+\\s*=\\s*@@\\w+'
const BACK =
  '(?:SQL_NOTES|NOTE_VERBOSITY|TIME_ZONE|SQL_MODE|COLLATION_CONNECTION|CHARACTER_SET_RESULTS|CHARACTER_SET_CLIENT|UNIQUE_CHECKS|FOREIGN_KEY_CHECKS)\\s*=\\s*@\\w+'
const SET = [
  SAVED,
  BACK,
  '(?:SQL_NOTES|NOTE_VERBOSITY|UNIQUE_CHECKS|FOREIGN_KEY_CHECKS)\\s*=\\s*\\d+',
  "SQL_MODE\\s*=\\s*'NO_AUTO_VALUE_ON_ZERO'",
  "TIME_ZONE\\s*=\\s*'\\+00:00'",
  'CHARACTER_SET_CLIENT\\s*=\\s*utf8(?:mb[34])?',
].join('|')
const SETTING = new RegExp(
  `^/\\*M?!\\d{5,6} SET (?:NAMES utf8(?:mb[34])?|(?:${SET})(?:, (?:${SET}))*) \\*/$`,
  'i',
)
const NAME = '`\\w+`'
/** What a dump starts with so that the client obeys nothing in it that reaches for files. */
const SANDBOX = /^\/\*M!999999\\- enable the sandbox mode \*\/\s*/
/** Each kind of statement in a dump of tables; what stood in quotes is empty. */
const STATEMENTS = [
  new RegExp(`^/\\*!\\d{5,6} ALTER TABLE ${NAME} (?:DISABLE|ENABLE) KEYS \\*/$`),
  new RegExp(`^DROP TABLE IF EXISTS ${NAME}$`),
  new RegExp(`^LOCK TABLES ${NAME} WRITE$`),
  /^UNLOCK TABLES$/,
  /^(?:set autocommit=0|commit)$/i,
]
const TABLE = new RegExp(
  `^CREATE TABLE ${NAME} \\(([\\w\\s\`(),.=']*)\\) ENGINE=InnoDB(?: AUTO_INCREMENT=\\d+)? DEFAULT CHARSET=\\w+(?: COLLATE=\\w+)?(?: ROW_FORMAT=\\w+)?$`,
)
/** Words that make more of a table than columns, keys and constraints. */
const NOT_IN_TABLE = /\b(?:select|directory|connection|engine|partition|like|procedure|load_file)\b/i
const ROWS = new RegExp(`^INSERT INTO ${NAME} VALUES\\s`)
const VALUE = /^(?:NULL|''|-?\d+(?:\.\d+)?(?:e[+-]?\d+)?|0x[0-9a-f]*)$/i

/**
 * Whether a statement is one that a dump of tables has.
 * @param shape with nothing in its quotes
 * @param whole as it stands
 */
function ofADump(shape: string, whole: () => string): boolean {
  if (/^\/\*M?!\d+ SET /i.test(shape)) return SETTING.test(whole())
  if (STATEMENTS.some((pattern) => pattern.test(shape))) return true
  const columns = TABLE.exec(shape)
  if (columns) return !NOT_IN_TABLE.test(columns[1])
  const rows = ROWS.exec(shape)
  return (
    !!rows &&
    shape
      .slice(rows[0].length)
      .split(/[(),\s]+/)
      .every((word) => !word || VALUE.test(word))
  )
}

/** Longest statement that is held, bytes: one row may be as large as the largest text. */
const LONGEST = 256 * 1024 * 1024
const [QUOTE, BACKSLASH, SEMICOLON] = [0x27, 0x5c, 0x3b]

/**
 * Passes on whole statements of a dump of tables, byte for byte: tables made and filled, and what a dump sets round
 * them. Nothing of a statement is passed on before all of it is known.
 * @throws ForeignSql for anything else: other statements, other schemas, accounts, triggers, words to the client
 */
export class SqlGate extends Transform {
  private held: Buffer[] = []
  private bytes = 0
  /** The statement so far, with nothing in its quotes. */
  private shape: string[] = []
  private inQuotes = false
  private escaped = false
  private first = true

  override _transform(chunk: Buffer, _: BufferEncoding, done: TransformCallback): void {
    try {
      this.readStatements(chunk)
      done()
    } catch (error) {
      done(error as Error)
    }
  }

  override _flush(done: TransformCallback): void {
    const rest = this.text()
    done(this.inQuotes || rest ? new ForeignSql('The last statement is not whole.') : null)
  }

  private text(): string {
    const text = this.shape.join('').trim()
    return this.first ? text.replace(SANDBOX, '') : text
  }

  private readStatements(chunk: Buffer): void {
    let from = 0
    let outside = 0
    for (let i = 0; i < chunk.length; i++) {
      const c = chunk[i]
      if (this.inQuotes) {
        if (this.escaped) this.escaped = false
        else if (c === BACKSLASH) this.escaped = true
        else if (c === QUOTE) {
          this.inQuotes = false
          outside = i
        }
        continue
      }
      if (c === QUOTE) {
        this.shape.push(chunk.toString('latin1', outside, i + 1))
        this.inQuotes = true
      } else if (c === SEMICOLON) {
        this.shape.push(chunk.toString('latin1', outside, i))
        this.held.push(chunk.subarray(from, i + 1))
        this.pass()
        from = outside = i + 1
      }
    }
    if (!this.inQuotes) this.shape.push(chunk.toString('latin1', outside))
    this.held.push(chunk.subarray(from))
    this.bytes += chunk.length - from
    if (this.bytes > LONGEST) throw new ForeignSql('A statement is too long.')
  }

  private pass(): void {
    // two quotes within a string are one of its characters
    const shape = this.text().replaceAll(/'(?:'')+'/g, "''")
    const whole = () => {
      const text = Buffer.concat(this.held).toString('latin1').trim().slice(0, -1).trim()
      return this.first ? text.replace(SANDBOX, '') : text
    }
    if (!ofADump(shape, whole)) throw new ForeignSql(shape.slice(0, 80))
    for (const part of this.held) this.push(part)
    this.held = []
    this.shape = []
    this.bytes = 0
    this.first = false
  }
}
