import { timingSafeEqual, createHash } from 'node:crypto'
import type { NextFunction, Request, Response } from 'express'
import { LOOPBACK, type Config } from '../config'
import { forbidden } from '../problem/problem'

const digest = (text: string) => createHash('sha256').update(text).digest()

/** The host part of a Host header, without its port and brackets. */
export function hostOf(header: string | undefined): string | null {
  if (!header) return null
  const m = /^(\[[0-9a-fA-F:]+\]|[^:]+)(?::\d+)?$/.exec(header)
  return m ? m[1].replace(/^\[|\]$/g, '').toLowerCase() : null
}

/**
 * Keeps other sites and other names out: the Host must be ours, the Origin of anything a page sends must be the
 * same host, and beyond loopback the passphrase is asked for.
 */
export function guard(config: Config) {
  const beyond = !LOOPBACK.includes(config.host)
  return (request: Request, response: Response, next: NextFunction): void => {
    const host = hostOf(request.headers.host)
    const known =
      host !== null &&
      (LOOPBACK.includes(host) || (beyond && (host === config.host || config.host === '0.0.0.0')))
    if (!known) return next(forbidden('Verimend answers on its own address only.'))
    const origin = request.headers.origin
    if (origin !== undefined) {
      if (!URL.canParse(origin) || new URL(origin).host !== request.headers.host)
        return next(forbidden('Another site asked for this; Verimend does not answer it.'))
    }
    const site = request.headers['sec-fetch-site']
    if (site === 'cross-site' && request.method !== 'GET')
      return next(forbidden('Another site asked for this; Verimend does not answer it.'))
    if (beyond && config.passphrase) {
      const given = Buffer.from(
        (request.headers.authorization ?? '').replace(/^Basic /, ''),
        'base64',
      ).toString()
      const secret = given.slice(given.indexOf(':') + 1)
      if (!timingSafeEqual(digest(secret), digest(config.passphrase))) {
        response.status(401).set('WWW-Authenticate', 'Basic realm="Verimend"').send()
        return
      }
    }
    next()
  }
}
