import { Catch, HttpException, Logger, type ArgumentsHost, type ExceptionFilter } from '@nestjs/common'
import type { Problem } from '@verimend/contract'
import type { Response } from 'express'
import { ProblemException } from './problem'

const DATABASE_AWAY =
  /ECONNREFUSED|ECONNRESET|EPIPE|PROTOCOL_CONNECTION_LOST|ER_SOCKET|ER_GET_CONNECTION|ER_CONNECTION|ER_SERVER_SHUTDOWN|ConnectionError|ConnectionRefused|socket has unexpectedly been closed|pool timeout/i

/** For what the framework refuses by itself: its own words are for programmers. */
const SENTENCES: Record<number, string> = {
  400: 'The request could not be read.',
  404: 'There is nothing at this address.',
  405: 'Nothing of that kind can be done at this address.',
  413: 'That is more than the server takes at once.',
  415: 'The server does not take this kind of content.',
}

/** Turns every error into a problem document; what nobody foresaw is logged whole and told in one sentence. */
@Catch()
export class ProblemFilter implements ExceptionFilter {
  private readonly log = new Logger('Problem')

  catch(error: unknown, host: ArgumentsHost): void {
    const response = host.switchToHttp().getResponse<Response>()
    if (response.headersSent) return
    const problem = this.describe(error)
    response.status(problem.status).type('application/problem+json').send(JSON.stringify(problem))
  }

  private describe(error: unknown): Problem {
    if (error instanceof ProblemException) return error.problem
    if (error instanceof HttpException) {
      const status = error.getStatus()
      const detail = SENTENCES[status] ?? 'That cannot be done here.'
      return { type: 'about:blank', title: 'Cannot be done', status, code: `http-${status}`, detail }
    }
    const status = (error as { status?: number; statusCode?: number })?.status
    if (status && status >= 400 && status < 500)
      return {
        type: 'about:blank',
        title: 'Cannot be read',
        status,
        code: `http-${status}`,
        detail: SENTENCES[status] ?? SENTENCES[400],
      }
    const text =
      error instanceof Error
        ? `${error.name} ${error.message} ${(error as { code?: string }).code ?? ''}`
        : String(error)
    if (DATABASE_AWAY.test(text)) {
      this.log.warn(`database away: ${text.slice(0, 300)}`)
      return {
        type: 'about:blank#database-away',
        title: 'One moment',
        status: 503,
        code: 'database-away',
        detail: 'The database is starting again. What was confirmed is safe; try once more in a few seconds.',
      }
    }
    this.log.error(error instanceof Error ? (error.stack ?? error.message) : text)
    return {
      type: 'about:blank#fault',
      title: 'A fault of ours',
      status: 500,
      code: 'fault',
      detail: 'Something went wrong in Verimend. Nothing was half-written; please try again.',
    }
  }
}
