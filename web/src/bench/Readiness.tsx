import { Button } from 'antd'
import { ASPECTS, ASPECT_IDS, cardOf, dryness, isPiece, type Readiness as State } from '@verimend/core'
import { Link } from 'react-router'
import { useReadiness } from '../api/queries'
import { usePairOf } from '../pairs/usePairOf'
import { Swatch } from '../pairs/PairName'
import { today } from '../parts/format'
import { Empty, Loaded } from '../parts/Problem'

/** A state as a sign of its own shape, so that it needs no colour to be read. */
export function ReadyMark({ state, title }: { state: State; title: string }) {
  return (
    <span className="ready" title={title}>
      <svg width="14" height="14" viewBox="0 0 14 14" role="img" aria-label={state}>
        {state === 'untested' && <circle className="ring" cx="7" cy="7" r="5.2" />}
        {state === 'from card' && (
          <>
            <circle className="ring" cx="7" cy="7" r="5.2" />
            <path className="half" d="M7 1.8a5.2 5.2 0 0 1 0 10.4z" />
          </>
        )}
        {state === 'measured' && <circle className="full" cx="7" cy="7" r="5.6" />}
        {state === 'verified' && (
          <>
            <circle className="full" cx="7" cy="7" r="6.4" />
            <path className="tick" d="M4 7.2l2.2 2.2L10.2 5" />
          </>
        )}
        {state === 'stale' && <circle className="old" cx="7" cy="7" r="5.2" />}
      </svg>
    </span>
  )
}

const STATES: State[] = ['untested', 'from card', 'measured', 'verified', 'stale']

/** Pairs against what has to be known of them, with the step most worth its time. */
export function Readiness({ pairId, choose }: { pairId: string | null; choose: (id: string) => void }) {
  const readiness = useReadiness()
  const pairOf = usePairOf()
  return (
    <Loaded query={readiness}>
      {(list) =>
        list.length === 0 ? (
          <Empty>
            No pair yet. Choose a filament and a machine at the top: the first recipe is derived at once.
          </Empty>
        ) : (
          <div className="sheet tablewrap">
            <table className="plain readiness">
              <thead>
                <tr>
                  <th>Pair</th>
                  {ASPECT_IDS.map((a) => (
                    <th key={a}>{ASPECTS[a].label}</th>
                  ))}
                  <th>Most worth its time</th>
                  <th>
                    <span className="visually-hidden">Actions</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {list.map((r) => {
                  const known = pairOf(r.pairId)
                  if (!known) return null
                  const { pair, filament: f, machine: m } = known
                  const due = dryness(f, today()) === 'due'
                  const level = m.bed.levelling === 'screws' && (m.bed.printsSinceLevel ?? 0) > 20
                  return (
                    <tr key={r.pairId} aria-current={r.pairId === pairId} data-testid="pair">
                      <td>
                        <Swatch colour={f.colour} /> {f.name}{' '}
                        <span className="faint">{cardOf(f.family).name}</span>
                        <div className="faint small">
                          {m.name}, {pair.nozzle}&#8201;mm, version {pair.current}
                        </div>
                      </td>
                      {r.aspects.map((a) => (
                        <td key={a.id}>
                          <ReadyMark state={a.state} title={`${a.state}: ${a.words}`} />
                        </td>
                      ))}
                      <td>
                        {due && <span className="tag caution">dry the roll first</span>}{' '}
                        {level && <span className="tag caution">level the bed first</span>}
                        {r.next && (
                          <div title={r.next.words}>
                            {isPiece(r.next.by) ? (
                              <Link to={`/trials/new/${r.next.by}`} onClick={() => choose(r.pairId)}>
                                {r.next.name}
                              </Link>
                            ) : (
                              r.next.name
                            )}{' '}
                            <span className="figure faint">
                              {r.next.minutes} min{r.next.grams ? `, ${r.next.grams} g` : ''}
                            </span>
                          </div>
                        )}
                      </td>
                      <td className="num">
                        {r.pairId === pairId ? (
                          <span className="tag good">current</span>
                        ) : (
                          <Button size="small" onClick={() => choose(r.pairId)}>
                            Work with it
                          </Button>
                        )}
                      </td>
                    </tr>
                  )
                })}
              </tbody>
            </table>
            <div className="row faint small" style={{ marginTop: 8 }}>
              {STATES.map((s) => (
                <span key={s} className="row" style={{ gap: 4 }}>
                  <ReadyMark state={s} title={s} /> {s}
                </span>
              ))}
            </div>
          </div>
        )
      }
    </Loaded>
  )
}
