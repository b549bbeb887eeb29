import { RateLimiterMemory } from 'rate-limiter-flexible'

/** Wrong guesses that one address may make in a minute, and all together. */
export const GUESSES = 5
const GUESSES_OF_ALL = 30
const MINUTE = 60
const DAY = 24 * 60 * MINUTE
/** Longest wait after many guesses, s. */
const LONGEST = 60 * MINUTE

/**
 * Counts wrong guesses of a secret. After five in a minute an address waits a minute, and twice as long each time it
 * comes to that again within a day.
 */
export class Guesses {
  private readonly own = new RateLimiterMemory({ points: GUESSES, duration: MINUTE })
  private readonly all = new RateLimiterMemory({ points: GUESSES_OF_ALL, duration: MINUTE })
  private readonly blocks = new RateLimiterMemory({ points: Number.MAX_SAFE_INTEGER, duration: DAY })

  /** @returns s until the address may guess again; 0 when it may now */
  async wait(address: string): Promise<number> {
    const [own, all] = await Promise.all([this.own.get(address), this.all.get('all')])
    const left = [
      own && own.consumedPoints >= GUESSES ? own.msBeforeNext : 0,
      all && all.consumedPoints >= GUESSES_OF_ALL ? all.msBeforeNext : 0,
    ]
    return Math.ceil(Math.max(...left) / 1000)
  }

  /** Counts a wrong guess. @returns s the address has to wait now */
  async wrong(address: string): Promise<number> {
    await this.all.penalty('all')
    const { consumedPoints } = await this.own.penalty(address)
    if (consumedPoints >= GUESSES) {
      const { consumedPoints: times } = await this.blocks.penalty(address)
      await this.own.block(address, Math.min(LONGEST, MINUTE * 2 ** (times - 1)))
    }
    return this.wait(address)
  }

  /** A right guess makes up for the wrong ones before it. */
  async right(address: string): Promise<void> {
    await this.own.delete(address)
  }
}
