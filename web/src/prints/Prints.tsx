import { useQueryClient } from '@tanstack/react-query'
import type { Print } from '@verimend/contract'
import { printEnded } from './printEnded'
import { useEffect, useRef, useState, useSyncExternalStore } from 'react'
import { access } from '../access/access'
import { api } from '../api/client'
import { changed, keys } from '../api/keys'
import { later } from '../components/later'

const PrintTray = later(() => import('./PrintTray'), { what: 'The list of what prints' })
const PrintEnded = later(() => import('./PrintEnded'), { what: 'Word of a print that ended', over: true })

/**
 * What is printing now: hears of every print, keeps each where its screens look for it, and says when one has ended. It stays
 * over changes of the screen.
 */
export function Prints() {
  const client = useQueryClient()
  const [running, setRunning] = useState<ReadonlyMap<string, Print>>(new Map())
  const [ended, setEnded] = useState<readonly Print[]>([])
  const signedIn = useSyncExternalStore(access.subscribe, access.times)
  const known = useRef(new Map<string, Print['state']>())
  useEffect(() => {
    const hear = (print: Print) => {
      const before = known.current.get(print.id)
      known.current.set(print.id, print.state)
      client.setQueryData(keys.prints.one(print.id), print)
      setRunning((old) => {
        const next = new Map(old)
        if (printEnded(print.state)) next.delete(print.id)
        else next.set(print.id, print)
        return next
      })
      if (before === print.state) return
      void changed.prints(client)
      // of what ended before anybody watched nothing is said
      if (before && (print.state === 'done' || print.state === 'failed')) setEnded((list) => [...list, print])
    }
    let source: EventSource | null = null
    const listen = () => {
      // a tab that nobody sees holds no line: a browser has few of them for all tabs together
      if (document.hidden) {
        source?.close()
        source = null
        return
      }
      if (source) return
      source = new EventSource(api.prints.events)
      source.addEventListener('print', (event) =>
        hear(JSON.parse((event as MessageEvent<string>).data) as Print),
      )
      // what ended while nothing was heard is asked after
      source.addEventListener('open', () => {
        for (const [id, state] of known.current)
          if (!printEnded(state)) void api.prints.one(id).then(hear, () => undefined)
      })
    }
    listen()
    document.addEventListener('visibilitychange', listen)
    return () => {
      document.removeEventListener('visibilitychange', listen)
      source?.close()
    }
  }, [client, signedIn])
  const list = [...running.values()]
  if (!list.length && !ended.length) return null
  return (
    <>
      {list.length > 0 && <PrintTray list={list} />}
      {ended.map((p) => (
        <PrintEnded key={p.id} print={p} />
      ))}
    </>
  )
}
