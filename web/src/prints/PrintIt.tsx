import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button } from 'antd'
import type { CreatePrint, PairDetail, Print } from '@verimend/contract'
import { printEnded } from './printEnded'
import { Link } from 'react-router'
import { api } from '../api/client'
import { changed, keys } from '../api/keys'
import { useLink, usePrint, usePrints } from '../api/queries'
import { Problem } from '../components/states'
import { Camera } from './Camera'
import { PrintProgress } from './PrintProgress'
import { Simulated } from './Simulated'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import { newId } from '../api/ids'

/**
 * Sends something to the pair's machine where that is a simulated one, and shows how it goes; nothing on a real machine, whose
 * file is carried by hand.
 * @param where what earlier prints of it are found by
 */
export function PrintIt({
  pair,
  what,
  label,
  caseId = null,
  where,
}: {
  pair: PairDetail
  what: CreatePrint['what']
  label: string
  caseId?: string | null
  where: { trialId?: string; caseId?: string }
}) {
  const client = useQueryClient()
  const link = useLink(pair.machine.id)
  const prints = usePrints(where)
  const send = useMutation({
    mutationFn: () => api.prints.create(newId(), pair.id, what, caseId),
    onSuccess: (print) => {
      client.setQueryData(keys.prints.one(print.id), print)
      void changed.prints(client)
    },
  })
  if (!link) return null
  // a case knows the prints of its trials too; those have pages of their own
  const own = prints.data?.prints.filter((p) => (p.kind === 'trial') === (what.kind === 'trial')) ?? []
  const last = own.at(0)
  const open = !!last && !printEnded(last.state)
  return (
    <div className={ui.stack} style={{ gap: 8 }} data-testid="print-it">
      <div className={ui.row}>
        <Button onClick={() => send.mutate()} loading={send.isPending} disabled={open || !link.reachable}>
          {label}
        </Button>
        <Simulated />
      </div>
      {!link.reachable && (
        <p className={clsx(ui.small, ui.faint)}>The simulated machines are just starting; wait a moment.</p>
      )}
      {!!send.error && <Problem error={send.error} />}
      {last && <PrintLine key={last.id} print={last} />}
      {own.length > 1 && (
        <details>
          <summary className={ui.small}>Earlier prints, {own.length - 1}</summary>
          <ul className={clsx(ui.plainlist, ui.small)}>
            {own.slice(1).map((p) => (
              <li key={p.id}>
                <Link to={`/prints/${p.id}`}>{p.name}</Link> <span className={ui.faint}>{p.state}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
    </div>
  )
}

/** One print in a line or two: how far it is, what its camera sees, and where to look at it. */
function PrintLine({ print: known }: { print: Print }) {
  const print = usePrint(known.id).data ?? known
  const ended = printEnded(print.state)
  return (
    <div className={ui.stack} style={{ gap: 6 }}>
      {!ended && print.done > 0 && <Camera print={print} />}
      <PrintProgress print={print} />
      {ended && print.done > 0 && <PrintResult print={print} />}
    </div>
  )
}

/**
 * What can be done with a print that has ended.
 * @param here whether its own page shows it
 */
export function PrintResult({ print, here = false }: { print: Print; here?: boolean }) {
  const client = useQueryClient()
  const enter = useMutation({
    mutationFn: () => api.prints.enter(print.id),
    onSuccess: async (now) => {
      client.setQueryData(keys.prints.one(now.id), now)
      await changed.prints(client)
      if (now.trialId) {
        await client.invalidateQueries({ queryKey: keys.trials.one(now.trialId) })
        await changed.trial(client, now.pairId)
      }
      if (now.caseId) {
        await client.invalidateQueries({ queryKey: keys.cases.one(now.caseId) })
        await changed.case(client, now.pairId)
      }
    },
  })
  return (
    <div className={ui.stack} style={{ gap: 6 }}>
      <div className={ui.row}>
        {!here && <Link to={`/prints/${print.id}`}>Look at it and measure it</Link>}
        {!print.enteredAt && (print.trialId ?? print.caseId) && (
          <Button size="small" type="primary" loading={enter.isPending} onClick={() => enter.mutate()}>
            {print.trialId ? 'Enter what there is to read' : 'Note what there is to see'}
          </Button>
        )}
        {print.enteredAt && <span className={clsx(ui.small, ui.good)}>What there is to see is noted.</span>}
      </div>
      {!!enter.error && <Problem error={enter.error} />}
    </div>
  )
}
