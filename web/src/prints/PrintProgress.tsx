import { useQueryClient } from '@tanstack/react-query'
import { Button, Progress } from 'antd'
import type { Print } from '@verimend/contract'
import { duration } from '@verimend/core/quantity'
import { useState } from 'react'
import { api } from '../api/client'
import { changed, keys } from '../api/keys'
import { printEnded } from './printEnded'
import { PRINT_WORDS, share } from './printWords'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './prints.module.css'

/** How far a print is, with what can be done about it. */
export function PrintProgress({ print }: { print: Print }) {
  const client = useQueryClient()
  const [busy, setBusy] = useState(false)
  const steer = async (what: 'pause' | 'resume' | 'stop') => {
    setBusy(true)
    try {
      client.setQueryData(keys.prints.one(print.id), await api.prints.steer(print.id, what))
      await changed.prints(client)
    } finally {
      setBusy(false)
    }
  }
  const running = print.state === 'printing'
  return (
    <div className={styles.progress} data-state={print.state}>
      <Progress
        percent={Math.floor(100 * share(print))}
        size="small"
        status={print.state === 'failed' ? 'exception' : 'normal'}
        aria-label={`How far ${print.name} is`}
      />
      <span className={clsx(ui.small, ui.faint)}>
        {PRINT_WORDS[print.state]}
        {print.state === 'waiting' && print.waitsFor > 1 && `, ${print.waitsFor - 1} before it`}
        {print.layerCount > 0 && print.done > 0 && `, layer ${print.layer} of ${print.layerCount}`}
        {running && print.left !== null && `, ${duration(print.left)} left`}
        {running &&
          print.nozzle > 30 &&
          `, nozzle ${Math.round(print.nozzle)} °C, bed ${Math.round(print.bed)} °C`}
        {print.reason && `. ${print.reason}`}
      </span>
      {!printEnded(print.state) && (
        <span className={ui.row} style={{ gap: 6 }}>
          {running && (
            <Button size="small" disabled={busy} onClick={() => void steer('pause')}>
              Pause
            </Button>
          )}
          {print.state === 'paused' && (
            <Button size="small" disabled={busy} onClick={() => void steer('resume')}>
              Go on
            </Button>
          )}
          <Button size="small" danger disabled={busy} onClick={() => void steer('stop')}>
            Stop
          </Button>
        </span>
      )}
    </div>
  )
}
