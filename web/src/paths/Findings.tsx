import { suspectOf, figure, type PathFinding } from '@verimend/core'
import { useState } from 'react'
import { Link } from 'react-router'

/** What the file does that bears on flaws; good things last and folded. */
export function Findings({
  list,
  onPlace,
}: {
  list: PathFinding[]
  onPlace?: (from: number, to: number) => void
}) {
  const [good, setGood] = useState(false)
  const bad = list.filter((f) => f.severity !== 'good')
  const fine = list.filter((f) => f.severity === 'good')
  return (
    <div className="stack" style={{ gap: 8 }}>
      {bad.length === 0 && <p className="notice good">Nothing in the paths speaks of a flaw.</p>}
      <ul className="bites">
        {bad.map((f) => (
          <Item key={f.kind} finding={f} onPlace={onPlace} />
        ))}
      </ul>
      {fine.length > 0 && (
        <button type="button" className="linkish small" onClick={() => setGood(!good)} aria-expanded={good}>
          {fine.length} {fine.length === 1 ? 'thing is' : 'things are'} as they should be
        </button>
      )}
      {good && (
        <ul className="bites">
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
}: {
  finding: PathFinding
  onPlace?: (from: number, to: number) => void
}) {
  return (
    <li className={f.severity} data-finding={f.kind}>
      <p>{f.text}</p>
      <p className="faint small">
        {f.why}{' '}
        {f.raises.length > 0 && f.severity !== 'good' && (
          <>
            Speaks for{' '}
            {f.raises.map((s, i) => (
              <span key={s}>
                {i > 0 && ', '}
                <Link to={`/handbook/suspects#${s}`}>{suspectOf(s).name.toLowerCase()}</Link>
              </span>
            ))}
            .{' '}
          </>
        )}
        {f.clears.length > 0 && (
          <>Clears {f.clears.map((s) => suspectOf(s).name.toLowerCase()).join(', ')}. </>
        )}
        {onPlace && f.from !== null && f.to !== null && (
          <button type="button" className="linkish" onClick={() => onPlace(f.from!, f.to!)}>
            Show at {figure(f.from, 1)}–{figure(f.to, 1)} mm
          </button>
        )}
      </p>
    </li>
  )
}
