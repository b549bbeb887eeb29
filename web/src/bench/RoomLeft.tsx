import { useHealth } from '../api/queries'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** Bytes under which it is said that little room is left. */
const LITTLE = 1e9

/** Says that the disk is nearly full, before something cannot be kept. */
export function RoomLeft() {
  const room = useHealth().data?.room
  if (room === undefined || room === null || room >= LITTLE) return null
  return (
    <p className={clsx(ui.notice, ui.caution)} role="status">
      Only {Math.floor(room / 1e6)} MB are left on the disk that Verimend writes to. Make room: once it is
      full, nothing new can be kept. What is there stays and can be read.
    </p>
  )
}
