import { Button } from 'antd'
import { useEffect, useState, useSyncExternalStore } from 'react'
import { lateAnswers } from '../api/http'
import { outbox } from '../api/outbox'
import { later } from '../components/later'
import ui from '../components/ui.module.css'

const load = () => import('./KeptList')
const KeptList = later(load, { what: 'The list of what waits', over: true })
/** ms after which the list is fetched: by the time it is wanted there is no connection. */
const SOON = 3000

/** What was noted without a connection: how much waits, and what the server refused when it came; and what has no answer yet. */
export function KeptNotes() {
  const notes = useSyncExternalStore(outbox.subscribe, outbox.notes)
  const [open, setOpen] = useState(false)
  useEffect(() => {
    const timer = setTimeout(() => void load().catch(() => undefined), SOON)
    return () => clearTimeout(timer)
  }, [])
  const late = useSyncExternalStore(lateAnswers.subscribe, lateAnswers.count)
  if (!notes.length)
    return (
      <span role="status" className={ui.small}>
        {late > 0 && 'No answer for 3 s; still waiting.'}
      </span>
    )
  const refused = notes.filter((n) => n.refused).length
  return (
    <>
      <Button size="small" danger={refused > 0} onClick={() => setOpen(true)} data-testid="kept-notes">
        {refused
          ? `${refused} could not be sent`
          : `${notes.length} kept here, ${notes.length === 1 ? 'waits' : 'wait'} to be sent`}
        {!outbox.fits() && '; no room on this device: leave this page open'}
      </Button>
      {open && <KeptList notes={notes} onClose={() => setOpen(false)} />}
    </>
  )
}
