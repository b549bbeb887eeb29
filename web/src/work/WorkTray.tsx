import { useSyncExternalStore } from 'react'
import { later } from '../components/later'
import { awake } from './awake'

const Tray = later(() => import('./Tray'), { what: 'The list of work' })

/** Long work whose screen is not open; sent for when something long is at work for the first time. */
export function WorkTray() {
  return useSyncExternalStore(awake.subscribe, awake.ever) ? <Tray /> : null
}
