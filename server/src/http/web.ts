import { randomBytes } from 'node:crypto'
import { existsSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import packed from 'express-static-gzip'
import express, { type NextFunction, type Request, type Response } from 'express'
import helmet from 'helmet'
import type { INestApplication } from '@nestjs/common'

/** Security headers with a strict content policy; the API's own page may style itself inline. */
export function headers() {
  const set = (styles: string[], scripts: string[] = []) =>
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          'default-src': ["'none'"],
          'script-src': ["'self'", ...scripts],
          'style-src': ["'self'", ...styles],
          'img-src': ["'self'", 'data:', 'blob:'],
          'font-src': ["'self'"],
          'connect-src': ["'self'"],
          'worker-src': ["'self'"],
          'manifest-src': ["'self'"],
          'base-uri': ["'none'"],
          'form-action': ["'self'"],
          'frame-ancestors': ["'none'"],
        },
      },
      strictTransportSecurity: false,
      crossOriginEmbedderPolicy: false,
      referrerPolicy: { policy: 'no-referrer' },
    })
  const docs = set(["'unsafe-inline'"])
  // workers that compute with solids and areas may compile their WebAssembly; no page may
  const solids = set([], ["'wasm-unsafe-eval'"])
  return (request: Request, response: Response, next: NextFunction): void => {
    if (request.path.startsWith('/api/docs')) return docs(request, response, next)
    if (/^\/assets\/(part|changeFile)\.worker/.test(request.path)) return solids(request, response, next)
    const nonce = randomBytes(16).toString('base64')
    response.locals.nonce = nonce
    set([`'nonce-${nonce}'`])(request, response, next)
  }
}

/** What the API answers is not kept by anybody on the way, unless a handler says otherwise. */
export function noStore(request: Request, response: Response, next: NextFunction): void {
  if (request.path.startsWith('/api')) response.set('Cache-Control', 'no-store')
  next()
}

/** Serves the built web application; every address that is no file and no API is a screen of it. */
export function serveWeb(app: INestApplication, folder: string): void {
  const page = join(folder, 'index.html')
  if (!existsSync(page))
    throw new Error('The web application is not built yet: run npm start or npm run build.')
  const template = readFileSync(page, 'utf8')
  app.use(
    '/assets',
    packed(join(folder, 'assets'), {
      enableBrotli: true,
      orderPreference: ['br', 'gz'],
      index: false,
      serveStatic: { immutable: true, maxAge: '1y' },
    }),
  )
  app.use(express.static(folder, { index: false, maxAge: 0 }))
  app.use((request: Request, response: Response, next: NextFunction) => {
    if ((request.method !== 'GET' && request.method !== 'HEAD') || request.path.startsWith('/api'))
      return next()
    if (/\.[a-z0-9]{1,5}$/i.test(request.path)) return next()
    response
      .set('Cache-Control', 'no-store')
      .type('html')
      .send(template.replaceAll('__NONCE__', response.locals.nonce))
  })
}
