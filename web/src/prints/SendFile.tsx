import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button } from 'antd'
import type { PairDetail } from '@verimend/contract'
import { useEffect, useRef } from 'react'
import { useNavigate } from 'react-router'
import { api } from '../api/client'
import { changed, keys } from '../api/keys'
import { useLink } from '../api/queries'
import { Problem } from '../components/states'
import { jobs, useJob, wasEnded } from '../work/jobs'
import { keepFile } from '../workers/keepFile'
import { Simulated } from './Simulated'
import ui from '../components/ui.module.css'
import { newId } from '../api/ids'

/**
 * Sends a file that is being looked at to the pair's machine, where that is a simulated one; nothing on a real one.
 * @param file its bytes, where they are not kept yet
 */
export function SendFile({
  pair,
  name,
  sha256,
  file = null,
  caseId = null,
  onKept,
}: {
  pair: PairDetail
  name: string
  sha256: string
  file?: File | null
  caseId?: string | null
  /** Called once the server has the file, before it is sent to the machine. */
  onKept?: () => void
}) {
  const client = useQueryClient()
  const navigate = useNavigate()
  const link = useLink(pair.machine.id)
  const slot = `send ${sha256} ${pair.machine.id}`
  const job = useJob(slot)
  const here = useRef(true)
  // asked for again after a lost answer, it is the same print
  const id = useRef(newId())
  useEffect(() => {
    here.current = true
    return () => void (here.current = false)
  }, [])
  const send = useMutation({
    // it goes on when the screen is left: the tray tells how far it is
    mutationFn: () =>
      jobs.run({ slot, kind: 'sending', name, to: `/prints/${id.current}` }, async (onShare, signal) => {
        if (file) await keepFile(file, sha256, onShare, signal)
        onKept?.()
        return api.prints.create(id.current, pair.id, { kind: 'file', name, sha256 }, caseId)
      }),
    onSuccess: async (print) => {
      client.setQueryData(keys.prints.one(print.id), print)
      await changed.prints(client)
      if (here.current) void navigate(`/prints/${print.id}`)
    },
  })
  if (!link) return null
  return (
    <>
      <span className={ui.row} style={{ gap: 8 }}>
        <Button size="small" loading={!!job} disabled={!link.reachable} onClick={() => send.mutate()}>
          {job && file && job.share < 1
            ? `Sending, ${Math.round(100 * job.share)} %`
            : `Print it on ${pair.machine.machine.name}`}
        </Button>
        <Simulated />
      </span>
      {!!send.error && !wasEnded(send.error) && <Problem error={send.error} />}
    </>
  )
}
