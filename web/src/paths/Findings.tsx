import { figure } from '@verimend/core/quantity'
import type { PathFinding } from '@verimend/core/diagnosis'
import { sayFinding, suspectName } from '@verimend/core/words'
import { useState } from 'react'
import { Link } from 'react-router'
import { Problem, Waiting } from '../components/states'
import type { Computed } from '../workers/useComputed'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** What the file does that bears on flaws; good things last and folded. */
export function Findings({
  findings: { data, error },
  onPlace,
  partHref,
}: {
  findings: Computed<PathFinding[]>
  onPlace?: (from: number, to: number) => void
  /** Where the kept part can be seen planned. */
  partHref?: string
}) {
  if (error) return <Problem error={error} />
  return data ? <FindingList list={data} onPlace={onPlace} partHref={partHref} /> : <Waiting tall={240} />
}

function FindingList({
  list,
  onPlace,
  partHref,
}: {
  list: PathFinding[]
  onPlace?: (from: number, to: number) => void
  /** Where the kept part can be seen planned. */
  partHref?: string
}) {
  const [good, setGood] = useState(false)
  const bad = list.filter((f) => f.severity !== 'good')
  const fine = list.filter((f) => f.severity === 'good')
  return (
    <div className={ui.stack} style={{ gap: 8 }}>
      {bad.length === 0 && <p className={clsx(ui.notice, ui.good)}>Nothing in the paths speaks of a flaw.</p>}
      <ul className={ui.bites}>
        {bad.map((f) => (
          <Item key={f.kind} finding={f} onPlace={onPlace} partHref={partHref} />
        ))}
      </ul>
      {fine.length > 0 && (
        <button
          type="button"
          className={clsx(ui.linkish, ui.small)}
          onClick={() => setGood(!good)}
          aria-expanded={good}
        >
          {fine.length} {fine.length === 1 ? 'thing is' : 'things are'} as they should be
        </button>
      )}
      {good && (
        <ul className={ui.bites}>
          {fine.map((f) => (
            <Item key={f.kind} finding={f} />
          ))}
        </ul>
      )}
    </div>
  )
}

function Item({
  finding: f,
  onPlace,
  partHref,
}: {
  finding: PathFinding
  onPlace?: (from: number, to: number) => void
  /** Where the kept part can be seen planned. */
  partHref?: string
}) {
  const { text, why } = sayFinding(f)
  return (
    <li data-severity={f.severity} data-finding={f.kind}>
      <p>{text}</p>
      <p className={clsx(ui.faint, ui.small)}>
        {why}{' '}
        {f.raises.length > 0 && f.severity !== 'good' && (
          <>
            Speaks for{' '}
            {f.raises.map((s, i) => (
              <span key={s}>
                {i > 0 && ', '}
                <Link to={`/handbook/suspects#${s}`}>{suspectName(s).toLowerCase()}</Link>
              </span>
            ))}
            .{' '}
          </>
        )}
        {f.clears.length > 0 && <>Clears {f.clears.map((s) => suspectName(s).toLowerCase()).join(', ')}. </>}
        {onPlace && f.from !== null && f.to !== null && (
          <button type="button" className={ui.linkish} onClick={() => onPlace(f.from!, f.to!)}>
            Show at {figure(f.from, 1)}–{figure(f.to, 1)} mm
          </button>
        )}{' '}
        {partHref && <Link to={partHref}>See it on the part</Link>}
      </p>
    </li>
  )
}
