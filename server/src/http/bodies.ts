import express, { type NextFunction, type Request, type Response } from 'express'
import type { IncomingMessage } from 'node:http'

/** Largest body of JSON, bytes: of somebody who is in, and of somebody at the door. */
const MOST = '8mb'
const MOST_AT_THE_DOOR = '4kb'
/** Lists in lists that anything kept here has, with room; a body with more is not even read. */
const DEEPEST = 64

const [QUOTE, BACKSLASH, ...BRACKETS] = Buffer.from('"\\[{]}')
const [OPEN_LIST, OPEN_OBJECT, CLOSE_LIST, CLOSE_OBJECT] = BRACKETS

/** Whether JSON nests deeper than anything that is taken. To be asked before it is parsed: parsing it takes long. */
export function nestsTooDeep(json: Uint8Array, deepest = DEEPEST): boolean {
  let depth = 0
  let quoted = false
  for (let i = 0; i < json.length; i++) {
    const c = json[i]
    if (quoted) {
      if (c === BACKSLASH) i++
      else if (c === QUOTE) quoted = false
    } else if (c === QUOTE) quoted = true
    else if (c === OPEN_LIST || c === OPEN_OBJECT) {
      if (++depth > deepest) return true
    } else if (c === CLOSE_LIST || c === CLOSE_OBJECT) depth--
  }
  return false
}

/** A body that was not read for what it is. */
const unread = () => Object.assign(new Error('It nests too deep.'), { status: 400 })

/**
 * Reads bodies of JSON: from those who are in, whole; at the door only as much as a passphrase takes.
 * @param isIn whether a request has come from somebody who is in
 */
export function bodies(isIn: (request: Request) => boolean) {
  const verify = (_request: IncomingMessage, _response: unknown, body: Buffer) => {
    if (nestsTooDeep(body)) throw unread()
  }
  const inside = express.json({ limit: MOST, verify })
  const atTheDoor = express.json({ limit: MOST_AT_THE_DOOR, verify })
  return (request: Request, response: Response, next: NextFunction): void =>
    (isIn(request) ? inside : atTheDoor)(request, response, next)
}
