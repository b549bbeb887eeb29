import { HttpException } from '@nestjs/common'
import type { Problem } from '@verimend/contract'

/** An error a person can act on; becomes an RFC 9457 problem document. */
export class ProblemException extends HttpException {
  constructor(readonly problem: Problem) {
    super(problem, problem.status)
  }
}

const problem = (status: number, code: string, title: string, detail: string, extra: Partial<Problem> = {}) =>
  new ProblemException({ type: `about:blank#${code}`, title, status, code, detail, ...extra })

export const notFound = (what: string) =>
  problem(404, 'not-found', 'Not there', `There is no such ${what}; it may have been removed.`)
export const refused = (code: string, detail: string, fields?: Problem['fields']) =>
  problem(422, code, 'Cannot be done', detail, fields ? { fields } : {})
export const badInput = (fields: NonNullable<Problem['fields']>) =>
  problem(422, 'bad-input', 'Please look again', fields[0]?.message ?? 'Something in there cannot be used.', {
    fields,
  })
/** Nothing new is made on what was put away. @param names of what it is */
export const putAway = (names: readonly string[]) =>
  refused(
    'put-away',
    `${names.map((n) => `“${n}”`).join(' and ')} ${names.length > 1 ? 'were' : 'was'} put away. Bring ${names.length > 1 ? 'them' : 'it'} back in the storeroom, then go on.`,
  )
/** Somebody else changed it in between; carries what stands now. */
export const conflict = (detail: string, current: unknown) =>
  problem(409, 'conflict', 'Changed in between', detail, { current })
export const forbidden = (detail: string) => problem(403, 'forbidden', 'Not from here', detail)
export const signInNeeded = (detail = 'Verimend asks for its passphrase first.') =>
  problem(401, 'sign-in', 'Sign in', detail)
/** @param seconds until another guess is heard */
export const tooManyGuesses = (seconds: number) =>
  problem(
    429,
    'too-many-guesses',
    'Too many guesses',
    `Too many wrong guesses. Wait ${seconds < 90 ? `${seconds} s` : `${Math.ceil(seconds / 60)} min`}, then try again.`,
    { retryAfter: seconds },
  )
