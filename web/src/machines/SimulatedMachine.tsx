import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button, Select } from 'antd'
import type { MachineLink, PaceName, Revealed } from '@verimend/contract'
import { duration, figure, quantity } from '@verimend/core/quantity'
import { useState } from 'react'
import { Link } from 'react-router'
import { api } from '../api/client'
import { changed } from '../api/keys'
import { usePrints } from '../api/queries'
import { Pages } from '../components/Pages'
import { Problem } from '../components/states'
import { PACE_WORDS, PRINT_WORDS } from '../prints/printWords'
import { Simulated } from '../prints/Simulated'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** Prints that are listed at once. */
const PAGE = 12

/** What there is to a machine that is simulated: how fast it runs, what it has printed, and the truth of what it hides. */
export function SimulatedMachine({ link }: { link: MachineLink }) {
  const client = useQueryClient()
  const [page, setPage] = useState(1)
  const prints = usePrints({ machineId: link.machineId, skip: (page - 1) * PAGE, limit: PAGE })
  const [shown, setShown] = useState<Revealed | null>(null)
  const pace = useMutation({
    mutationFn: (v: PaceName) => api.links.setPace(link.machineId, v),
    onSuccess: () => changed.links(client),
  })
  const reveal = useMutation({
    mutationFn: () => api.links.reveal(link.machineId),
    onSuccess: (r) => {
      setShown(r)
      void changed.links(client)
    },
  })
  const { practice } = link
  return (
    <div className={ui.stack} style={{ marginTop: 10, gap: 8 }} data-testid="simulated">
      <div className={ui.row}>
        <Simulated />
        <label className={clsx(ui.row, ui.small)} style={{ gap: 6 }}>
          It runs
          <Select<PaceName>
            size="small"
            aria-label="How fast it runs"
            value={link.pace}
            loading={pace.isPending}
            onChange={(v) => pace.mutate(v)}
            options={Object.entries(PACE_WORDS).map(([value, label]) => ({
              value: value as PaceName,
              label,
            }))}
            style={{ minWidth: 200 }}
          />
        </label>
      </div>
      {!!(pace.error ?? reveal.error) && <Problem error={pace.error ?? reveal.error} />}
      {!!prints.data?.total && (
        <details>
          <summary className={ui.small}>Prints, {prints.data.total}</summary>
          <ul className={clsx(ui.plainlist, ui.small)}>
            {prints.data.prints.map((p) => (
              <li key={p.id} className={clsx(ui.row, ui.between)}>
                <Link to={`/prints/${p.id}`} className={ui.wrap}>
                  {p.name}
                </Link>
                <span className={ui.faint}>{PRINT_WORDS[p.state].toLowerCase()}</span>
              </li>
            ))}
          </ul>
          <Pages total={prints.data.total} size={PAGE} page={page} onChange={setPage} of="prints" />
        </details>
      )}
      {practice && !shown && (
        <div className={ui.row}>
          <span className={ui.small}>
            {practice.hidden === 1 ? 'One thing is' : 'Two things are'} wrong with it or its roll.
          </span>
          <Button size="small" loading={reveal.isPending} onClick={() => reveal.mutate()}>
            {practice.revealedAt ? 'Show the truth again' : 'Show the truth'}
          </Button>
        </div>
      )}
      {shown && <Truth shown={shown} />}
    </div>
  )
}

/** What it really was, and what of it was found. */
function Truth({ shown: { truths, score } }: { shown: Revealed }) {
  const hidden = truths.filter((t) => t.wasBroken)
  const usual = truths.filter((t) => !t.wasBroken)
  const value = (t: (typeof truths)[number]) => `${figure(t.value, t.digits)} ${t.unit}`
  return (
    <div className={ui.stack} style={{ gap: 6 }} aria-label="The truth">
      <ul className={ui.plainlist}>
        {hidden.map((t) => (
          <li key={t.id} className={clsx(ui.row, ui.between)}>
            <strong>{t.label}</strong>
            <span>
              <span className={ui.figure}>{value(t)}</span>{' '}
              <span className={clsx(ui.tag, t.broken ? ui.fault : ui.good)}>
                {t.broken ? 'still so' : 'put right'}
              </span>
            </span>
          </li>
        ))}
      </ul>
      <p>
        Named {score.found} of {score.of}, put right {score.mended} of {score.of}, with {score.prints}{' '}
        {score.prints === 1 ? 'print' : 'prints'}, {quantity(score.grams, 'g', 0)} and{' '}
        {duration(score.minutes * 60)} of the machine.
      </p>
      <details>
        <summary className={ui.small}>What else it is like</summary>
        <ul className={clsx(ui.plainlist, ui.small)}>
          {usual.map((t) => (
            <li key={t.id} className={clsx(ui.row, ui.between)}>
              <span className={ui.faint}>{t.label}</span>
              <span className={ui.figure}>{t.value >= 1e6 ? 'none' : value(t)}</span>
            </li>
          ))}
        </ul>
      </details>
    </div>
  )
}
