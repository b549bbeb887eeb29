import { parse, isValid, type IPv6 } from 'ipaddr.js'
import { RateLimiterMemory } from 'rate-limiter-flexible'

/** Wrong guesses that one guesser may make in a minute, and all together before they wait for each other. */
export const GUESSES = 5
export const GUESSES_OF_ALL = 30
/** ms between guesses of different guessers while there are that many. */
export const TURN = 1000
/** Most guessers that wait for their turn. */
const MOST_WAITING = 300
const MINUTE = 60
const DAY = 24 * 60 * MINUTE
/** Longest wait after many guesses, s. */
const LONGEST = 60 * MINUTE

/** Who is behind an address: of version 6 one owner has all that begin with the same 64 bits. */
export function ownerOf(address: string): string {
  if (!isValid(address)) return address
  const parsed = parse(address)
  if (parsed.kind() === 'ipv4') return parsed.toString()
  const six = parsed as IPv6
  return six.isIPv4MappedAddress()
    ? six.toIPv4Address().toString()
    : Buffer.from(six.toByteArray().slice(0, 8)).toString('hex')
}

/**
 * Counts wrong guesses of a secret. After five in a minute a guesser waits a minute, and twice as long each time it comes to
 * that again within a day. However many others guess, nobody is shut out by them: when they are many, one guesser after the
 * other has a turn.
 */
export class Guesses {
  private readonly own = new RateLimiterMemory({ points: GUESSES, duration: MINUTE })
  private readonly all = new RateLimiterMemory({ points: GUESSES_OF_ALL, duration: MINUTE })
  private readonly blocks = new RateLimiterMemory({ points: Number.MAX_SAFE_INTEGER, duration: DAY })
  /** Those who wait for their turn, in the order in which they came. */
  private readonly waiting = new Map<string, () => void>()
  private turns: NodeJS.Timeout | undefined

  /** @returns s until one may guess again; 0 when it may now */
  async wait(who: string): Promise<number> {
    const own = await this.own.get(who)
    return own && own.consumedPoints >= GUESSES ? Math.ceil(own.msBeforeNext / 1000) : 0
  }

  /**
   * Resolves when one may guess: at once, or when it has its turn.
   * @returns false where one waits already, or too many do
   */
  async turn(who: string): Promise<boolean> {
    if (((await this.all.get('all'))?.consumedPoints ?? 0) < GUESSES_OF_ALL && !this.waiting.size) return true
    if (this.waiting.has(who) || this.waiting.size >= MOST_WAITING) return false
    return new Promise((resolve) => {
      this.waiting.set(who, () => resolve(true))
      this.turns ??= setInterval(() => this.next(), TURN).unref()
    })
  }
  private next(): void {
    const [first] = this.waiting
    if (first) {
      this.waiting.delete(first[0])
      first[1]()
    }
    if (this.waiting.size) return
    clearInterval(this.turns)
    this.turns = undefined
  }

  /** Counts a wrong guess. @returns s one has to wait now */
  async wrong(who: string): Promise<number> {
    await this.all.penalty('all')
    const { consumedPoints } = await this.own.penalty(who)
    if (consumedPoints >= GUESSES) {
      const { consumedPoints: times } = await this.blocks.penalty(who)
      await this.own.block(who, Math.min(LONGEST, MINUTE * 2 ** (times - 1)))
    }
    return this.wait(who)
  }

  /** A right guess makes up for the wrong ones before it. */
  async right(who: string): Promise<void> {
    await this.own.delete(who)
  }
}
