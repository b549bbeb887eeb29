import { figure, suspectOf, weightWords, checkOrTrial, type Balance, type Weighed } from '@verimend/core'
import { useState } from 'react'
import { Link } from 'react-router'
import { percent } from '../parts/format'

/** The suspects with their weight, for and against. */
export function BalancePanel({ balance }: { balance: Balance }) {
  const [open, setOpen] = useState<string | null>(null)
  const [all, setAll] = useState(false)
  const list = balance.suspects.filter((s) => all || s.probability >= 0.01).slice(0, all ? 99 : 7)
  const first = open ?? list[0]?.id
  return (
    <section className="sheet stack" aria-label="The balance">
      <div className="row between">
        <h2>The balance</h2>
        <span className="faint small">
          {balance.seen} seen, {balance.looked} looked at
        </span>
      </div>
      {balance.seen === 0 ? (
        <p className="faint">
          Mark what you see on the part. Until then this only weighs what recipe, machine and roll suggest.
        </p>
      ) : (
        balance.fitDb < 4 && (
          <p className="notice caution">
            Nothing here explains the signs well. Look at more signs, or drop the path file: a wrong answer
            would cost you a print.
          </p>
        )
      )}
      <ol className="balance">
        {list.map((s) => (
          <SuspectRow
            key={s.id}
            suspect={s}
            open={s.id === first}
            onToggle={() => setOpen(s.id === first ? '' : s.id)}
          />
        ))}
      </ol>
      <button type="button" className="linkish faint" onClick={() => setAll(!all)}>
        {all ? 'Only the likely ones' : `All ${balance.suspects.length} suspects`}
      </button>
    </section>
  )
}

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
  const pro = s.reasons.filter((r) => r.db > 0)
  const con = s.reasons.filter((r) => r.db < 0)
  return (
    <li data-suspect={s.id}>
      <button type="button" className="suspect" onClick={onToggle} aria-expanded={open}>
        <span>{s.name}</span>
        <span className="figure">{percent(s.probability)}</span>
        <span className="weight" aria-hidden="true">
          <i style={{ width: `${Math.max(1, s.probability * 100)}%` }} />
        </span>
      </button>
      {open && (
        <div className="reasons">
          <p className="faint">{k.what}</p>
          <Side title="For" list={pro} />
          <Side title="Against" list={con} />
          <p className="small">
            <strong>To tell:</strong> {k.tell}{' '}
            <span className="faint">
              (
              {k.by
                .map((b) => `${checkOrTrial(b).name.toLowerCase()}, ${checkOrTrial(b).minutes} min`)
                .join('; ')}
              )
            </span>{' '}
            <Link to={`/handbook/suspects#${s.id}`}>Handbook</Link>
          </p>
        </div>
      )}
    </li>
  )
}

function Side({ title, list }: { title: string; list: Weighed['reasons'] }) {
  if (!list.length) return null
  return (
    <div>
      <h3 className="small">{title}</h3>
      <ul>
        {list.slice(0, 7).map((r) => (
          <li key={r.words}>
            <span>
              {r.words} <span className="faint">{weightWords(r.db)}</span>
            </span>
            <span
              className={`figure ${r.db > 0 ? 'good' : 'fault'}`}
              title="Weight of evidence in decibans: ten times the logarithm of the likelihood ratio"
            >
              {r.db > 0 ? '+' : ''}
              {figure(r.db, 1)}&#8201;dB
            </span>
          </li>
        ))}
      </ul>
    </div>
  )
}
