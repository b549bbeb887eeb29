import { createHash, randomBytes, timingSafeEqual } from 'node:crypto'
import { Inject, Injectable, Logger } from '@nestjs/common'
import type { SignedInDevice } from '@verimend/contract'
import { Op } from 'sequelize'
import { CONFIG, type Config } from '../config'
import { SessionRow } from '../database/models'
import { refused, signInNeeded, tooManyGuesses } from '../problem/problem'
import { Guesses } from './guesses'

/** Days a sign-in lasts without being used. */
export const SESSION_DAYS = 30
/** Days after which it ends however much it was used. */
export const LONGEST_DAYS = 180
const DAY_MS = 24 * 3600 * 1000
/** How long a session that was found is not asked after again, ms. */
const REMEMBERED_MS = 60_000
/** How long an invitation to the phone holds, ms, and how many are open at once. */
const INVITED_MS = 5 * 60_000
const INVITATIONS = 20

const digest = (text: string) => createHash('sha256').update(text).digest()

/** What a session is called to others: nothing leads from it to what it is kept under. */
const nameOf = (key: string): string => digest(key).toString('hex').slice(0, 32)

/** What a program that asks is likely to run on, by what it says of itself. */
export const kindOf = (agent: string): SignedInDevice['kind'] =>
  /iPad|Tablet|Android(?!.*Mobile)/i.test(agent)
    ? 'tablet'
    : /Mobi|iPhone|Android/i.test(agent)
      ? 'phone'
      : /^Mozilla\//.test(agent)
        ? 'computer'
        : 'program'

/** Who has signed in. Without a passphrase everybody on this machine has. */
@Injectable()
export class AccessService {
  private readonly log = new Logger('Access')
  private readonly guesses = new Guesses()
  /** Sessions seen lately, until when they are taken as they were found: by a clock that nobody sets. */
  private readonly seen = new Map<string, number>()
  /** Invitations by their digest, and until when they hold. */
  private readonly invitations = new Map<string, number>()

  constructor(@Inject(CONFIG) private readonly config: Pick<Config, 'passphrase'>) {}

  /** Whether a passphrase is asked for. */
  get needed(): boolean {
    return !!this.config.passphrase
  }

  /** What a session is kept under: nothing in the database opens one, and another passphrase ends all. */
  private keyOf(token: string): string {
    return createHash('sha256').update(`${this.config.passphrase}\n${token}`).digest('hex')
  }

  /** Whether a session of this token is open. */
  async accepts(token: string | undefined): Promise<boolean> {
    if (!this.needed) return true
    if (!token) return false
    const key = this.keyOf(token)
    if ((this.seen.get(key) ?? 0) > performance.now()) return true
    const row = await SessionRow.findByPk(key)
    const now = Date.now()
    if (!row || row.expiresAt.getTime() < now || row.createdAt.getTime() < now - LONGEST_DAYS * DAY_MS)
      return false
    // used within a day: it lasts on
    if (row.expiresAt.getTime() - Date.now() < (SESSION_DAYS - 1) * DAY_MS) {
      row.expiresAt = new Date(Date.now() + SESSION_DAYS * DAY_MS)
      await row.save()
    }
    if (this.seen.size > 1000) this.seen.clear()
    this.seen.set(key, performance.now() + REMEMBERED_MS)
    return true
  }

  /**
   * Opens a session for who knows the passphrase or was invited by one who is in.
   * @returns the token of the session
   * @throws ProblemException after a wrong guess, and after too many
   */
  async signIn(
    given: { passphrase?: string; invitation?: string },
    from: { address: string; agent: string },
  ): Promise<string> {
    if (!this.config.passphrase) throw refused('no-passphrase', 'No passphrase is set here; nobody is asked.')
    const waits = await this.guesses.wait(from.address)
    if (waits) {
      this.log.warn(`sign-in refused, too many guesses, from ${from.address}`)
      throw tooManyGuesses(waits)
    }
    const right = given.invitation
      ? this.takeInvitation(given.invitation)
      : timingSafeEqual(digest(given.passphrase ?? ''), digest(this.config.passphrase))
    if (!right) {
      this.log.warn(
        `sign-in refused, wrong ${given.invitation ? 'invitation' : 'passphrase'}, from ${from.address}`,
      )
      const now = await this.guesses.wrong(from.address)
      if (now) throw tooManyGuesses(now)
      throw given.invitation
        ? signInNeeded('This invitation no longer holds. Ask for a new one, or type the passphrase.')
        : signInNeeded('That is not the passphrase.')
    }
    await this.guesses.right(from.address)
    const token = randomBytes(32).toString('base64url')
    await SessionRow.destroy({ where: { expiresAt: { [Op.lt]: new Date() } } })
    await SessionRow.create({
      key: this.keyOf(token),
      agent: from.agent.slice(0, 200),
      expiresAt: new Date(Date.now() + SESSION_DAYS * DAY_MS),
    })
    this.log.log(`signed in from ${from.address}`)
    return token
  }

  /** Ends a session. */
  async signOut(token: string | undefined): Promise<void> {
    if (!token || !this.needed) return
    this.seen.delete(this.keyOf(token))
    await SessionRow.destroy({ where: { key: this.keyOf(token) } })
    this.log.log('signed out')
  }

  /** Every session that is open, the last used first. */
  async devices(token: string | undefined): Promise<SignedInDevice[]> {
    const own = token && this.keyOf(token)
    const rows = await SessionRow.findAll({
      where: {
        expiresAt: { [Op.gt]: new Date() },
        createdAt: { [Op.gt]: new Date(Date.now() - LONGEST_DAYS * DAY_MS) },
      },
      order: [['expiresAt', 'DESC']],
    })
    return rows.map((row) => ({
      id: nameOf(row.key),
      kind: kindOf(row.agent),
      own: row.key === own,
      since: row.createdAt.toISOString(),
      used: new Date(row.expiresAt.getTime() - SESSION_DAYS * DAY_MS).toISOString(),
    }))
  }

  /** Ends one session by its name. One that is over already is no fault. */
  async signOutDevice(id: string): Promise<void> {
    const row = (await SessionRow.findAll()).find(({ key }) => nameOf(key) === id)
    if (!row) return
    this.seen.delete(row.key)
    await row.destroy()
    this.log.log('one device signed out')
  }

  /** Ends every session. */
  async signOutAll(): Promise<void> {
    this.seen.clear()
    await SessionRow.destroy({ where: {} })
    this.log.log('signed out everywhere')
  }

  /** A word that opens one session, within five minutes. */
  invite(): string {
    const now = performance.now()
    for (const [key, until] of this.invitations) if (until < now) this.invitations.delete(key)
    while (this.invitations.size >= INVITATIONS)
      this.invitations.delete(this.invitations.keys().next().value as string)
    const word = randomBytes(16).toString('base64url')
    this.invitations.set(digest(word).toString('hex'), now + INVITED_MS)
    return word
  }

  private takeInvitation(word: string): boolean {
    const key = digest(word).toString('hex')
    const until = this.invitations.get(key) ?? 0
    this.invitations.delete(key)
    return until >= performance.now()
  }
}
