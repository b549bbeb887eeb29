import { createHash, randomBytes, timingSafeEqual } from 'node:crypto'
import { Inject, Injectable, Logger } from '@nestjs/common'
import type { SignedInDevice } from '@verimend/contract'
import {
  catchError,
  defer,
  EMPTY,
  filter,
  interval,
  merge,
  mergeMap,
  Subject,
  take,
  type Observable,
} from 'rxjs'
import { Op } from 'sequelize'
import { CONFIG, type Config } from '../config'
import { MarkRow, SessionRow } from '../database/models'
import { refused, signInNeeded, tooManyGuesses } from '../problem/problem'
import { Guesses, ownerOf, TURN } from './guesses'
import { Tokens } from './tokens'

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
/** ms between looks at whether the session of a stream still holds. */
const LOOKED_AFTER = 60_000
/** Name under which the secret that tokens are signed with is kept. */
const SECRET = 'session-secret'
/** Most sessions from before tokens were signed that are known. */
const MOST_UNSIGNED = 1000

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

/** What this server signs with. */
interface Signing {
  sessions: Tokens
  /** Of devices that have signed in before. */
  devices: Tokens
  /** Keys of the sessions that are open from before tokens were signed. */
  unsigned: Set<string>
}

/** Who has signed in. Without a passphrase everybody on this machine has. */
@Injectable()
export class AccessService {
  private readonly log = new Logger('Access')
  private readonly guesses = new Guesses()
  /** Sessions seen lately, until when they are taken as they were found: by a clock that nobody sets. */
  private readonly seen = new Map<string, number>()
  /** Invitations by their digest, and until when they hold. */
  private readonly invitations = new Map<string, number>()
  private signing: Promise<Signing> | null = null
  /** Keys of sessions as they end; null when all do. */
  private readonly over = new Subject<string | null>()

  constructor(@Inject(CONFIG) private readonly config: Pick<Config, 'passphrase'>) {}

  /** Whether a passphrase is asked for. */
  get needed(): boolean {
    return !!this.config.passphrase
  }

  /** What a session is kept under: nothing in the database opens one, and another passphrase ends all. */
  private keyOf(token: string): string {
    return createHash('sha256').update(`${this.config.passphrase}\n${token}`).digest('hex')
  }

  /** What tokens are signed with, made once for a database; tried again where it could not be read. */
  private signs(): Promise<Signing> {
    this.signing ??= this.readSigning().catch((error: unknown) => {
      this.signing = null
      throw error
    })
    return this.signing
  }
  private async readSigning(): Promise<Signing> {
    const [{ value }] = await MarkRow.findOrCreate({
      where: { name: SECRET },
      defaults: { name: SECRET, value: randomBytes(32).toString('base64url') },
    })
    const rows = await SessionRow.findAll({
      attributes: ['key'],
      order: [['expiresAt', 'DESC']],
      limit: MOST_UNSIGNED,
    })
    // with another passphrase none of them holds
    const secret = `${value}\n${this.config.passphrase}`
    return {
      sessions: new Tokens(secret, 'session'),
      devices: new Tokens(secret, 'device'),
      unsigned: new Set(rows.map(({ key }) => key)),
    }
  }

  /** Whether a session of this token is open. One that was made up is told without asking the database. */
  async accepts(token: string | undefined): Promise<boolean> {
    if (!this.needed) return true
    if (!token) return false
    const key = this.keyOf(token)
    if ((this.seen.get(key) ?? 0) > performance.now()) return true
    const { sessions, unsigned } = await this.signs()
    if (!sessions.genuine(token) && !unsigned.has(key)) return false
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

  /** Tells once, when the session of a token ends; where no passphrase is asked for, never. */
  ends(token: string | undefined): Observable<unknown> {
    if (!this.needed || !token) return EMPTY
    const key = this.keyOf(token)
    const looked = interval(LOOKED_AFTER).pipe(
      // one that cannot be looked at now is looked at again
      mergeMap(() => defer(() => this.accepts(token)).pipe(catchError(() => EMPTY))),
      filter((holds) => !holds),
    )
    return merge(this.over.pipe(filter((ended) => ended === null || ended === key)), looked).pipe(take(1))
  }

  /**
   * Opens a session for who knows the passphrase or was invited by one who is in. Guesses are counted by address, or by device
   * where it has signed in before; an invitation cannot be guessed, so none are counted.
   * @param from its address, what it says it runs on, and the word of a device that has signed in before
   * @returns the token of the session, and the word by which the device is known again
   * @throws ProblemException after a wrong guess, and after too many
   */
  async signIn(
    given: { passphrase?: string; invitation?: string },
    from: { address: string; agent: string; device?: string },
  ): Promise<{ token: string; device: string }> {
    if (!this.config.passphrase) throw refused('no-passphrase', 'No passphrase is set here; nobody is asked.')
    const { sessions, devices } = await this.signs()
    const known = from.device && devices.genuine(from.device) ? from.device : null
    if (given.invitation) this.useInvitation(given.invitation, from.address)
    else await this.guess(given.passphrase ?? '', known ?? ownerOf(from.address), from.address, !known)
    const token = sessions.make()
    await SessionRow.destroy({ where: { expiresAt: { [Op.lt]: new Date() } } })
    await SessionRow.create({
      key: this.keyOf(token),
      agent: from.agent.slice(0, 200),
      expiresAt: new Date(Date.now() + SESSION_DAYS * DAY_MS),
    })
    this.log.log(`signed in from ${from.address}`)
    return { token, device: known ?? devices.make() }
  }

  private useInvitation(word: string, address: string): void {
    if (this.takeInvitation(word)) return
    this.log.warn(`sign-in refused, wrong invitation, from ${address}`)
    throw signInNeeded('This invitation no longer holds. Ask for a new one, or type the passphrase.')
  }

  /** @param stranger whether it waits for its turn while many guess */
  private async guess(passphrase: string, who: string, address: string, stranger: boolean): Promise<void> {
    const waits = await this.guesses.wait(who)
    if (waits) {
      this.log.warn(`sign-in refused, too many guesses, from ${address}`)
      throw tooManyGuesses(waits)
    }
    if (stranger && !(await this.guesses.turn(who))) throw tooManyGuesses(Math.ceil(TURN / 1000))
    if (timingSafeEqual(digest(passphrase), digest(this.config.passphrase!))) return this.guesses.right(who)
    this.log.warn(`sign-in refused, wrong passphrase, from ${address}`)
    const now = await this.guesses.wrong(who)
    throw now ? tooManyGuesses(now) : signInNeeded('That is not the passphrase.')
  }

  /** Ends a session. */
  async signOut(token: string | undefined): Promise<void> {
    if (!token || !this.needed) return
    await this.end(this.keyOf(token))
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
    await this.end(row.key)
    this.log.log('one device signed out')
  }

  /** Ends every session. */
  async signOutAll(): Promise<void> {
    await SessionRow.destroy({ where: {} })
    this.seen.clear()
    this.over.next(null)
    this.log.log('signed out everywhere')
  }
  private async end(key: string): Promise<void> {
    await SessionRow.destroy({ where: { key } })
    this.seen.delete(key)
    this.over.next(key)
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
