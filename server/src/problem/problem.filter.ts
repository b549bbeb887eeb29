import { Catch, HttpException, Logger, type ArgumentsHost, type ExceptionFilter } from '@nestjs/common'
import type { Problem } from '@verimend/contract'
import type { Response } from 'express'
import { ConnectionAcquireTimeoutError, ConnectionError, ForeignKeyConstraintError } from 'sequelize'
import { ProblemException } from './problem'

/** Codes by which the driver, the database or the system say that the database is away. */
const AWAY_CODES = new Set([
  'ECONNREFUSED',
  'ECONNRESET',
  'EPIPE',
  'PROTOCOL_CONNECTION_LOST',
  'ER_SOCKET_UNEXPECTED_CLOSE',
  'ER_SOCKET_TIMEOUT',
  'ER_SOCKET_BAD_PORT',
  'ER_CONNECTION_ALREADY_CLOSED',
  'ER_CONNECTION_TIMEOUT',
  'ER_CMD_CONNECTION_CLOSED',
  'ER_CMD_NOT_EXECUTED_DESTROYED',
  'ER_GET_CONNECTION_TIMEOUT',
  'ER_SERVER_SHUTDOWN',
  'ER_CONNECTION_KILLED',
])
/** Codes by which the system or the database say that there is no room left on the disk. */
const FULL_CODES = new Set([
  'ENOSPC',
  'EDQUOT',
  'ER_DISK_FULL',
  'ER_RECORD_FILE_FULL',
  'ER_ERROR_ON_WRITE',
  'ER_TEMP_FILE_WRITE_FAILURE',
])
/** Codes by which the database says that two changes stood in each other's way: one of them was taken back. */
const CROSSED_CODES = new Set(['ER_LOCK_DEADLOCK', 'ER_LOCK_WAIT_TIMEOUT', 'ER_CHECKREAD'])
/** The system's number of the same, where the database hands it on. */
const NO_SPACE = /Errcode: (28|122)\b|errno: (28|122)\b|No space left on device/
/** Seconds after which a busy or restarting server is worth asking again. */
const RETRY_AFTER = 1

/** For what the framework refuses by itself: its own words are for programmers. */
const SENTENCES: Record<number, string> = {
  400: 'The request could not be read.',
  404: 'There is nothing at this address.',
  405: 'Nothing of that kind can be done at this address.',
  413: 'That is more than the server takes at once.',
  415: 'The server does not take this kind of content.',
}

/** Codes of an error and of what it was made from. */
function codesOf(error: unknown): string[] {
  const codes: string[] = []
  for (let e = error, depth = 0; e && typeof e === 'object' && depth < 5; depth++) {
    const { code, parent, cause } = e as { code?: unknown; parent?: unknown; cause?: unknown }
    if (typeof code === 'string') codes.push(code)
    e = parent ?? cause
  }
  return codes
}

/** An error as the log has it: with what the database said, where it was the database. */
function inWords(error: unknown): string {
  const own = error instanceof Error ? (error.stack ?? error.message) : String(error)
  const { sqlMessage } = ((error as { parent?: unknown } | null)?.parent ?? {}) as { sqlMessage?: string }
  const said = [...new Set(codesOf(error)), ...(sqlMessage && !own.includes(sqlMessage) ? [sqlMessage] : [])]
  return said.length ? `${said.join(', ')}: ${own}` : own
}

/** Turns every error into a problem document; what nobody foresaw is logged whole and told in one sentence. */
@Catch()
export class ProblemFilter implements ExceptionFilter {
  private readonly log = new Logger('Problem')

  catch(error: unknown, host: ArgumentsHost): void {
    const response = host.switchToHttp().getResponse<Response>()
    // nobody waits for an answer any more
    if (response.headersSent || response.destroyed) return
    const problem = this.describe(error)
    if (problem.status === 503 || problem.retryAfter)
      response.set('Retry-After', String(problem.retryAfter ?? RETRY_AFTER))
    response.status(problem.status).type('application/problem+json').send(JSON.stringify(problem))
  }

  private describe(error: unknown): Problem {
    if (error instanceof ProblemException) return error.problem
    if (error instanceof HttpException) {
      const status = error.getStatus()
      const detail = SENTENCES[status] ?? 'That cannot be done here.'
      return { type: 'about:blank', title: 'Cannot be done', status, code: `http-${status}`, detail }
    }
    const { status: given, type } = (error ?? {}) as { status?: number; type?: string }
    // a body that is refused before it is parsed
    const status = type === 'entity.verify.failed' ? 400 : given
    if (status && status >= 400 && status < 500)
      return {
        type: 'about:blank',
        title: 'Cannot be read',
        status,
        code: `http-${status}`,
        detail: SENTENCES[status] ?? SENTENCES[400],
      }
    if (error instanceof ForeignKeyConstraintError) {
      this.log.warn(`gone meanwhile: ${inWords(error)}`)
      return {
        type: 'about:blank#gone-meanwhile',
        title: 'Changed in between',
        status: 409,
        code: 'gone-meanwhile',
        detail:
          'Something this belongs to was deleted, or came to be needed, at the same moment. Nothing was changed; load the screen again.',
      }
    }
    if (error instanceof ConnectionAcquireTimeoutError || codesOf(error).some((c) => CROSSED_CODES.has(c)))
      return {
        type: 'about:blank#busy',
        title: 'One moment',
        status: 503,
        code: 'busy',
        detail:
          'More is being asked of Verimend than it can do at once. Nothing was changed; try again in a second.',
      }
    if (codesOf(error).some((c) => FULL_CODES.has(c)) || NO_SPACE.test(String(error))) {
      this.log.warn(`no room: ${String(error).slice(0, 300)}`)
      return {
        type: 'about:blank#no-room',
        title: 'No room left',
        status: 507,
        code: 'no-room',
        detail:
          'The disk is full: this could not be kept. All that was kept before is safe and can be read. Make room, and try again.',
      }
    }
    if (error instanceof ConnectionError || codesOf(error).some((c) => AWAY_CODES.has(c))) {
      this.log.warn(`database away: ${String(error).slice(0, 300)}`)
      return {
        type: 'about:blank#database-away',
        title: 'One moment',
        status: 503,
        code: 'database-away',
        detail: 'The database is starting again. What was confirmed is safe; try once more in a few seconds.',
      }
    }
    this.log.error(inWords(error))
    return {
      type: 'about:blank#fault',
      title: 'A fault of ours',
      status: 500,
      code: 'fault',
      detail: 'Something went wrong in Verimend. Nothing was half-written; please try again.',
    }
  }
}
