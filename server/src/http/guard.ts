import { Logger } from '@nestjs/common'
import type { NextFunction, Request, Response } from 'express'
import { tokenOf } from '../access/access.controller'
import type { AccessService } from '../access/access.service'
import { knownNames } from '../access/names'
import type { Config } from '../config'
import { forbidden, signInNeeded } from '../problem/problem'

/** The host part of a Host header, without its port and brackets. */
export function hostOf(header: string | undefined): string | null {
  if (!header) return null
  const m = /^(\[[0-9a-fA-F:]+\]|[^:]+)(?::\d+)?$/.exec(header)
  return m ? m[1].replace(/^\[|\]$/g, '').toLowerCase() : null
}

/** Paths of the API that answer before somebody has signed in. */
const OPEN = new Set(['/api/session', '/api/session/'])

/** Whether only those who are in get an answer here; what the guard has let through to it comes from them. */
export const isForThoseWhoAreIn = ({ path }: Pick<Request, 'path'>): boolean =>
  /^\/+api(\/|$)/i.test(path) && !OPEN.has(path)

/**
 * Keeps other sites and other names out: the Host must be ours, the Origin of anything a page sends must be the
 * same host, and where a passphrase is set nothing of the API answers without a session. The pages themselves hold
 * nothing of anybody's and are served to all.
 */
export function guard(config: Config, access: Pick<AccessService, 'accepts'>) {
  const log = new Logger('Guard')
  const known = knownNames(config)
  const refuse = (request: Request, detail: string) => {
    log.warn(
      `refused: ${request.method} for ${JSON.stringify(request.headers.host ?? '')} of ${JSON.stringify(request.headers.origin ?? '')}`,
    )
    return forbidden(detail)
  }
  return async (request: Request, _response: Response, next: NextFunction): Promise<void> => {
    const host = hostOf(request.headers.host)
    if (host === null || !known(host))
      return next(refuse(request, 'Verimend answers on its own address only.'))
    const origin = request.headers.origin
    if (origin !== undefined) {
      if (!URL.canParse(origin) || new URL(origin).host !== request.headers.host)
        return next(refuse(request, 'Another site asked for this; Verimend does not answer it.'))
    }
    const site = request.headers['sec-fetch-site']
    if (site === 'cross-site' && request.method !== 'GET')
      return next(refuse(request, 'Another site asked for this; Verimend does not answer it.'))
    try {
      if (isForThoseWhoAreIn(request) && !(await access.accepts(tokenOf(request, config))))
        return next(signInNeeded())
      next()
    } catch (error) {
      next(error)
    }
  }
}
