import { figure } from '@verimend/core/quantity'
import { suspectOf, checkOrTrial } from '@verimend/core/knowledge'
import { lookName, say, suspectName, weightWords } from '@verimend/core/words'
import type { Diagnosis } from '@verimend/core/casework'
import type { Balance, Weighed } from '@verimend/core/diagnosis'
import { memo, useState } from 'react'
import { Link } from 'react-router'
import { percent } from '../components/format'
import { Problem, Waiting } from '../components/states'
import type { Computed } from '../workers/useComputed'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './BalancePanel.module.css'

/** Reasons shown on each side. */
const MOST_REASONS = 7

/** The balance of a diagnosis; it stays while the next is being weighed. */
export function BalancePanel({ diagnosis: { data, pending, error } }: { diagnosis: Computed<Diagnosis> }) {
  if (error) return <Problem error={error} />
  if (data) return <Balanced balance={data.balance} pending={pending} />
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="The balance" aria-busy="true">
      <h2>The balance</h2>
      <Waiting tall={560} />
    </section>
  )
}

/** The suspects with their weight, for and against. */
const Balanced = memo(function Balanced({ balance, pending }: { balance: Balance; pending: boolean }) {
  const [open, setOpen] = useState<string | null>(null)
  const [all, setAll] = useState(false)
  const list = balance.suspects.filter((s) => all || s.probability >= 0.01).slice(0, all ? 99 : 7)
  const first = open ?? list[0]?.id
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="The balance" aria-busy={pending}>
      <div className={clsx(ui.row, ui.between)}>
        <h2>The balance</h2>
        <span className={clsx(ui.faint, ui.small)}>
          {balance.seen} seen, {balance.looked} looked at
        </span>
      </div>
      {balance.seen === 0 ? (
        <p className={ui.faint}>
          Mark what you see on the part. Until then this only weighs what recipe, machine and roll suggest.
        </p>
      ) : (
        balance.fitDecibans < 4 && (
          <p className={clsx(ui.notice, ui.caution)}>
            Nothing here explains the signs well. Look at more signs, or drop the path file: a wrong answer
            would cost you a print.
          </p>
        )
      )}
      <ol className={styles.balance}>
        {list.map((s) => (
          <SuspectRow
            key={s.id}
            suspect={s}
            open={s.id === first}
            onToggle={() => setOpen(s.id === first ? '' : s.id)}
          />
        ))}
      </ol>
      <button type="button" className={clsx(ui.linkish, ui.faint)} onClick={() => setAll(!all)}>
        {all ? 'Only the likely ones' : `All ${balance.suspects.length} suspects`}
      </button>
    </section>
  )
})

function SuspectRow({
  suspect: s,
  open,
  onToggle,
}: {
  suspect: Weighed
  open: boolean
  onToggle: () => void
}) {
  const k = suspectOf(s.id)
  const pro = s.weights.filter((w) => w.decibans > 0)
  const con = s.weights.filter((w) => w.decibans < 0)
  return (
    <li data-suspect={s.id}>
      <button type="button" className={styles.suspect} onClick={onToggle} aria-expanded={open}>
        <span>{suspectName(s.id)}</span>
        <span className={ui.figure}>{percent(s.probability)}</span>
        <span className={styles.weight} aria-hidden="true">
          <i style={{ width: `${Math.max(1, s.probability * 100)}%` }} />
        </span>
      </button>
      {open && (
        <div className={styles.reasons}>
          <p className={ui.faint}>{k.what}</p>
          <Side title="For" list={pro} />
          <Side title="Against" list={con} />
          <p className={ui.small}>
            <strong>To tell:</strong> {k.tell}{' '}
            <span className={ui.faint}>
              ({k.by.map((b) => `${lookName(b).toLowerCase()}, ${checkOrTrial(b).minutes} min`).join('; ')})
            </span>{' '}
            <Link to={`/handbook/suspects#${s.id}`}>Handbook</Link>
          </p>
        </div>
      )}
    </li>
  )
}

function Side({ title, list }: { title: string; list: Weighed['weights'] }) {
  if (!list.length) return null
  return (
    <div>
      <h3 className={ui.small}>{title}</h3>
      <ul>
        {list.slice(0, MOST_REASONS).map((w, i) => (
          <li key={i}>
            <span>
              {say(w.reason)} <span className={ui.faint}>{weightWords(w.decibans)}</span>
            </span>
            <span
              className={w.decibans > 0 ? clsx(ui.figure, ui.good) : clsx(ui.figure, ui.fault)}
              title="How strongly this counts, in decibans: +10 makes it ten times as likely"
            >
              {w.decibans > 0 ? '+' : ''}
              {figure(w.decibans, 1)}&#8201;dB
            </span>
          </li>
        ))}
      </ul>
    </div>
  )
}
