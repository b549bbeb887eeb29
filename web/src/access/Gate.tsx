import { lazy, Suspense, useSyncExternalStore, type ReactNode } from 'react'
import { access } from './access'

const SignIn = lazy(() => import('./SignIn'))

/** Asks for the passphrase over everything else, which stays as it is: what somebody was typing is not lost. */
export function Gate({ children }: { children: ReactNode }) {
  const state = useSyncExternalStore(access.subscribe, access.state)
  return (
    <>
      <div inert={state !== 'in'} style={{ display: 'contents' }}>
        {children}
      </div>
      {state !== 'in' && (
        <Suspense fallback={null}>
          <SignIn entering={state === 'entering'} />
        </Suspense>
      )}
    </>
  )
}
