import type { PartRecord } from '@verimend/contract'
import { useQueryClient } from '@tanstack/react-query'
import { useCallback, useEffect, useRef, useState } from 'react'
import { api } from '../api/client'
import { ApiProblem } from '../api/http'
import { changed, keys } from '../api/keys'

/** What of a part is changed by hand. */
export type PartEdit = Pick<PartRecord, 'name' | 'note' | 'layout' | 'own'>
const editOf = ({ name, note, layout, own }: PartRecord): PartEdit => ({ name, note, layout, own })

/** How long typing rests before it is kept, ms. */
const REST = 500

/** Keeps what is changed on a part, shortly after it was changed; another window's change is told, and neither is lost. */
export function usePartEdit(part: PartRecord) {
  const client = useQueryClient()
  const [edit, setEdit] = useState(() => editOf(part))
  const [error, setError] = useState<unknown>(null)
  const [conflict, setConflict] = useState<PartRecord | null>(null)
  const rev = useRef(part.rev)
  const pending = useRef<PartEdit | null>(null)
  const busy = useRef(false)
  const timer = useRef<ReturnType<typeof setTimeout> | undefined>(undefined)
  // a plan that was noted or a version that was put in moves the revision on
  useEffect(() => {
    if (!pending.current && part.rev > rev.current) rev.current = part.rev
  }, [part.rev])
  const send = useCallback(async () => {
    if (busy.current) return
    busy.current = true
    try {
      // what was typed while a change was on its way goes next
      while (pending.current) {
        const what: PartEdit = pending.current
        pending.current = null
        try {
          const kept = await api.parts.update(part.id, { ...what, rev: rev.current })
          rev.current = kept.rev
          client.setQueryData(keys.parts.one(part.id), kept)
          void changed.part(client)
          setError(null)
        } catch (e) {
          pending.current ??= what
          if (e instanceof ApiProblem && e.problem.status === 409)
            setConflict(e.problem.current as PartRecord)
          else setError(e)
          return
        }
      }
    } finally {
      busy.current = false
    }
  }, [client, part.id])
  const change = useCallback(
    (patch: Partial<PartEdit>) => {
      setEdit((was) => {
        const next = { ...was, ...patch }
        if (next.name.trim()) pending.current = next
        return next
      })
      clearTimeout(timer.current)
      timer.current = setTimeout(() => void send(), REST)
    },
    [send],
  )
  useEffect(
    () => () => {
      clearTimeout(timer.current)
      void send()
    },
    [send],
  )
  return {
    edit,
    change,
    error,
    again: () => void send(),
    conflict,
    /** Keeps this window's, or takes the other one's. */
    settle: (mine: boolean) => {
      if (!conflict) return
      rev.current = conflict.rev
      setConflict(null)
      if (mine) void send()
      else {
        pending.current = null
        setEdit(editOf(conflict))
        client.setQueryData(keys.parts.one(part.id), conflict)
      }
    },
  }
}
