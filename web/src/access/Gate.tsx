import { useSyncExternalStore, type ReactNode } from 'react'
import { later } from '../components/later'
import { access } from './access'

const SignIn = later(() => import('./SignIn'), { what: 'The sign-in', over: true })

/** Asks for the passphrase over everything else, which stays as it is: what somebody was typing is not lost. */
export function Gate({ children }: { children: ReactNode }) {
  const state = useSyncExternalStore(access.subscribe, access.state)
  return (
    <>
      <div inert={state !== 'in'} style={{ display: 'contents' }}>
        {children}
      </div>
      {state !== 'in' && <SignIn entering={state === 'entering'} />}
    </>
  )
}
