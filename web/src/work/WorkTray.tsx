import { lazy, Suspense, useSyncExternalStore } from 'react'
import { awake } from './awake'

const Tray = lazy(() => import('./Tray'))

/** Long work whose screen is not open; sent for when something long is at work for the first time. */
export function WorkTray() {
  return useSyncExternalStore(awake.subscribe, awake.ever) ? (
    <Suspense fallback={null}>
      <Tray />
    </Suspense>
  ) : null
}
