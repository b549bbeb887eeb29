import type { Problem } from '@verimend/contract'

/** An answer of the server that is a problem; the message is for the person. */
export class ApiProblem extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail)
    this.name = 'ApiProblem'
  }
}

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

export async function call<T>(
  method: string,
  path: string,
  body?: unknown,
  signal?: AbortSignal,
): Promise<T> {
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
