import { useMutation, useQueryClient } from '@tanstack/react-query'
import type { MeasurementRecord } from '@verimend/contract'
import type { Measured } from '@verimend/core/measurement'
import { useEffect, useRef, useState } from 'react'
import { api } from '../api/client'
import { changed, keys } from '../api/keys'
import { KeptForLater } from '../api/outbox'

/** Pause after the last keystroke before it is kept, ms. */
const PAUSE = 400

/** A measurement as it is typed: drawn at once, kept a moment later, nothing lost when the page is left. */
export function useMeasurement(record: MeasurementRecord) {
  const client = useQueryClient()
  const [measured, setMeasured] = useState<Measured>(record.measured)
  const rev = useRef(record.rev)
  const waiting = useRef<{ timer: number; value: Measured } | null>(null)
  const save = useMutation({
    scope: { id: `measurement-${record.id}` },
    mutationFn: (value: Measured) => api.measurements.update(record.id, rev.current, value, record.note),
    onSuccess: (kept) => {
      rev.current = kept.rev
      client.setQueryData(keys.measurements.one(record.id), kept)
      void changed.measurement(client)
    },
  })
  const { mutate, mutateAsync } = save
  const sent = useRef<Promise<unknown>>(Promise.resolve())
  useEffect(() => {
    rev.current = Math.max(rev.current, record.rev)
  }, [record.rev])
  const change = (value: Measured) => {
    setMeasured(value)
    if (waiting.current) window.clearTimeout(waiting.current.timer)
    const timer = window.setTimeout(() => {
      waiting.current = null
      // a fault is shown by the mutation itself
      sent.current = mutateAsync(value).catch(() => undefined)
    }, PAUSE)
    waiting.current = { timer, value }
  }
  useEffect(
    () => () => {
      // what waits is kept at once when the page is left
      if (!waiting.current) return
      window.clearTimeout(waiting.current.timer)
      mutate(waiting.current.value)
    },
    [mutate],
  )
  /** Keeps what is still waiting; what is worked out from the kept record comes after it. */
  const settled = async () => {
    if (waiting.current) {
      window.clearTimeout(waiting.current.timer)
      const { value } = waiting.current
      waiting.current = null
      await mutateAsync(value)
    } else await sent.current
  }
  return {
    measured,
    change,
    settled,
    saving: save.isPending,
    // what waits on this device is no fault
    error: save.error instanceof KeptForLater ? null : save.error,
    again: () => mutate(measured),
  }
}
