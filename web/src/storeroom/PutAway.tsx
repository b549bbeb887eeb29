import { useMutation, useQueryClient } from '@tanstack/react-query'
import { App, Button } from 'antd'
import type { RemovedThing } from '@verimend/contract'
import { bytes } from '@verimend/core/quantity'
import { useState } from 'react'
import { api } from '../api/client'
import { changed, keys } from '../api/keys'
import { useRemoved } from '../api/queries'
import { ago } from '../components/format'
import { Loaded, Problem } from '../components/states'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

const KIND_WORDS: Record<RemovedThing['kind'], string> = {
  case: 'case',
  machine: 'machine',
  filament: 'roll',
  trial: 'trial',
  measurement: 'measurement',
  part: 'part',
  photo: 'photo',
}
const daysTo = (iso: string) => Math.max(0, Math.ceil((Date.parse(iso) - Date.now()) / 86_400_000))

/** What was put away: brought back, or deleted for good before its time. */
export function PutAway() {
  const removed = useRemoved()
  const client = useQueryClient()
  const { notification } = App.useApp()
  const [sure, setSure] = useState<string | null>(null)
  const restore = useMutation({
    mutationFn: (t: RemovedThing) => api.removed.restore(t.kind, t.id),
    onSuccess: (list) => {
      client.setQueryData(keys.removed, list)
      void changed.everything(client)
    },
  })
  const purge = useMutation({
    mutationFn: (t: RemovedThing) => api.removed.purge(t.kind, t.id),
    onSuccess: ({ bytes: freed }) => {
      void client.invalidateQueries({ queryKey: keys.removed })
      notification.open({
        key: 'freed',
        title: freed ? `It is gone; ${bytes(freed)} are free again.` : 'It is gone.',
        duration: 8,
      })
    },
  })
  const error = restore.error ?? purge.error
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="Put away">
      <h2>Put away</h2>
      {!!error && <Problem error={error} />}
      <Loaded query={removed}>
        {(list) =>
          list.length === 0 ? (
            <p className={ui.faint}>Nothing. What is removed anywhere waits here for thirty days.</p>
          ) : (
            <div className={ui.tablewrap}>
              <table className={clsx(ui.plain, ui.stacks)}>
                <thead>
                  <tr>
                    <th>What</th>
                    <th className={ui.secondary}>Put away</th>
                    <th>Goes</th>
                    <th className={clsx(ui.num, ui.secondary)}>Files</th>
                    <th>
                      <span className={ui.visuallyHidden}>Actions</span>
                    </th>
                  </tr>
                </thead>
                <tbody>
                  {list.map((t) => (
                    <tr key={`${t.kind}${t.id}`} data-testid="removed">
                      <td>
                        <span className={ui.wrap}>{t.name || 'without a name'}</span>{' '}
                        <span className={ui.faint}>{KIND_WORDS[t.kind]}</span>
                      </td>
                      <td className={clsx(ui.secondary, ui.faint)}>{ago(t.removedAt)}</td>
                      <td className={ui.faint} data-label="goes">
                        {t.goesAt ? `in ${daysTo(t.goesAt)} days` : 'stays while cases or trials tell of it'}
                      </td>
                      <td className={clsx(ui.num, ui.figure, ui.secondary)}>
                        {t.bytes ? bytes(t.bytes) : '–'}
                      </td>
                      <td className={ui.num}>
                        <Button
                          size="small"
                          onClick={() => restore.mutate(t)}
                          aria-label={`Bring ${t.name} back`}
                        >
                          Bring back
                        </Button>{' '}
                        {t.goesAt &&
                          (sure === t.id ? (
                            <Button
                              size="small"
                              danger
                              onBlur={() => setSure(null)}
                              onClick={() => purge.mutate(t)}
                            >
                              Gone for good
                            </Button>
                          ) : (
                            <Button
                              size="small"
                              type="text"
                              onClick={() => setSure(t.id)}
                              aria-label={`Delete ${t.name} for good`}
                            >
                              Delete for good
                            </Button>
                          ))}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
          )
        }
      </Loaded>
    </section>
  )
}
