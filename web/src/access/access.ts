import type { Session } from '@verimend/contract'
import { queryClient } from '../api/queries'
import { ApiProblem, call, get, onSignInNeeded, post } from '../api/http'

/** What the frame shows: the application, a sign-in over it, or that one is under way by a word in the address. */
export type AccessState = 'in' | 'asked' | 'entering'

let state: AccessState = 'in'
/** How often somebody has signed in here: what holds a line to the server opens it anew. */
let times = 0
let problem: string | null = null
const listeners = new Set<() => void>()
const become = (next: AccessState) => {
  state = next
  listeners.forEach((tell) => tell())
}
/** Takes the word that lets one in out of the address, so that it is neither kept nor handed on. */
function fromAddress(): { passphrase?: string; invitation?: string } | null {
  const given = new URLSearchParams(location.hash.slice(1))
  const passphrase = given.get('passphrase') ?? undefined
  const invitation = given.get('invitation') ?? undefined
  if (!passphrase && !invitation) return null
  history.replaceState(history.state, '', location.pathname + location.search)
  return passphrase ? { passphrase } : { invitation }
}

async function enter(given: { passphrase?: string; invitation?: string }): Promise<void> {
  problem = null
  await post<Session>('session', given)
  times++
  become('in')
  await queryClient.invalidateQueries()
}

let asking: Promise<void> | null = null
/** What was asked for before somebody signed in may be refused after it: the server knows. */
async function askAgain(): Promise<void> {
  const { signedIn } = await get<Session>('session').catch((): Session => ({ needed: true, signedIn: false }))
  if (!signedIn) become('asked')
}

export const access = {
  subscribe(listener: () => void) {
    listeners.add(listener)
    return () => void listeners.delete(listener)
  },
  state: () => state,
  times: () => times,
  /** Why a word in the address did not let one in. */
  problem: () => problem,
  enter,
  /** Listens for refusals; signs in by the word in the address, where there is one. */
  begin() {
    onSignInNeeded(() => {
      if (state !== 'in') return
      asking ??= askAgain().finally(() => (asking = null))
    })
    const word = fromAddress()
    if (!word) return
    state = 'entering'
    enter(word).catch((error: unknown) => {
      // here without a passphrase, the word is of no use and not needed
      if (error instanceof ApiProblem && error.problem.code === 'no-passphrase') return become('in')
      problem = error instanceof Error ? error.message : null
      become('asked')
    })
  },
  async leave(everywhere = false) {
    await call<Session>('DELETE', `session${everywhere ? '?everywhere=1' : ''}`)
    // nothing of what was seen stays in this tab
    location.assign('/')
  },
}
