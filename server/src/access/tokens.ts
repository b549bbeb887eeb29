import { createHmac, randomBytes, timingSafeEqual } from 'node:crypto'

/** Bytes of a signature. */
const SIGNED = 16

/**
 * Words that carry a signature: one that somebody made up is known by reckoning alone, without asking the database.
 * The signature opens nothing by itself.
 */
export class Tokens {
  constructor(
    private readonly secret: string,
    /** What they are for: one for something else is none of these. */
    private readonly purpose: string,
  ) {}

  private signature(word: string): Buffer {
    return createHmac('sha256', this.secret).update(`${this.purpose}\n${word}`).digest().subarray(0, SIGNED)
  }
  make(): string {
    const word = randomBytes(32).toString('base64url')
    return `${word}.${this.signature(word).toString('base64url')}`
  }
  /** Whether it was made here. */
  genuine(token: string): boolean {
    const [word, signature = '', ...more] = token.split('.')
    const given = Buffer.from(signature, 'base64url')
    return !more.length && given.length === SIGNED && timingSafeEqual(given, this.signature(word))
  }
}
