import { Button } from 'antd'
import { lazy, Suspense, useEffect, useState, useSyncExternalStore } from 'react'
import { outbox } from '../api/outbox'

const load = () => import('./KeptList')
const KeptList = lazy(load)
/** ms after which the list is fetched: by the time it is wanted there is no connection. */
const SOON = 3000

/** What was noted without a connection: how much waits, and what the server refused when it came. */
export function KeptNotes() {
  const notes = useSyncExternalStore(outbox.subscribe, outbox.notes)
  const [open, setOpen] = useState(false)
  useEffect(() => {
    const timer = setTimeout(() => void load().catch(() => undefined), SOON)
    return () => clearTimeout(timer)
  }, [])
  if (!notes.length) return null
  const refused = notes.filter((n) => n.refused).length
  return (
    <>
      <Button size="small" danger={refused > 0} onClick={() => setOpen(true)} data-testid="kept-notes">
        {refused
          ? `${refused} could not be sent`
          : `${notes.length} kept here, ${notes.length === 1 ? 'waits' : 'wait'} for the connection`}
      </Button>
      {open && (
        <Suspense fallback={null}>
          <KeptList notes={notes} onClose={() => setOpen(false)} />
        </Suspense>
      )}
    </>
  )
}
