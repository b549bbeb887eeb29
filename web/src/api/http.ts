import type { Problem } from '@verimend/contract'

/** An answer of the server that is a problem; the message is for the person. */
export class ApiProblem extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail)
    this.name = 'ApiProblem'
  }
}

/** No answer, a server that starts anew, or one that asks for a sign-in: what was sent is not refused. */
export const mayArriveLater = (error: unknown): boolean =>
  error instanceof ApiProblem && [0, 401, 429, 502, 503, 504].includes(error.problem.status)

const AWAY: Problem = {
  type: 'about:blank#away',
  title: 'No answer',
  status: 0,
  code: 'away',
  detail: 'Verimend does not answer. Is it still running? What you typed is kept here.',
}

let signInNeeded = () => {}
/** Told of each request that was refused because nobody has signed in. */
export const onSignInNeeded = (tell: () => void): void => {
  signInNeeded = tell
}

/** ms after which one who waits for an answer is told that there is none yet. */
const LONG = 3000
let late = 0
const lateListeners = new Set<() => void>()
/** How many changes wait for their answer longer than one expects. */
export const lateAnswers = {
  count: () => late,
  subscribe(listener: () => void) {
    lateListeners.add(listener)
    return () => void lateListeners.delete(listener)
  },
}
function setLate(by: 1 | -1): void {
  late += by
  lateListeners.forEach((tell) => tell())
}
/** Watches a change until it is answered. @returns what is to be done then */
function watched(): () => void {
  let told = false
  const timer = setTimeout(() => {
    told = true
    setLate(1)
  }, LONG)
  return () => {
    clearTimeout(timer)
    if (told) setLate(-1)
  }
}

export async function call<T>(
  method: string,
  path: string,
  body?: unknown,
  signal?: AbortSignal,
): Promise<T> {
  // work with a signal of its own has a place where it says how far it is
  const answered = method === 'GET' || signal ? undefined : watched()
  try {
    return await ask<T>(method, path, body, signal)
  } finally {
    answered?.()
  }
}

async function ask<T>(method: string, path: string, body?: unknown, signal?: AbortSignal): Promise<T> {
  let response: Response
  try {
    response = await fetch(`/api/${path}`, {
      method,
      headers:
        body === undefined
          ? {}
          : { 'content-type': body instanceof Blob ? 'application/octet-stream' : 'application/json' },
      body: body === undefined ? undefined : body instanceof Blob ? body : JSON.stringify(body),
      signal,
    })
  } catch {
    throw new ApiProblem(AWAY)
  }
  const data: unknown = await response.json().catch(() => null)
  if (response.status === 401 && path !== 'session') signInNeeded()
  if (!response.ok) throw new ApiProblem((data as Problem | null) ?? { ...AWAY, status: response.status })
  return data as T
}

export const get = <T>(path: string) => call<T>('GET', path)
export const post = <T>(path: string, body: unknown = {}) => call<T>('POST', path, body)
export const put = <T>(path: string, body: unknown) => call<T>('PUT', path, body)
export const remove = <T>(path: string) => call<T>('DELETE', path)
