import { Button } from 'antd'
import { ASPECTS, ASPECT_IDS, READINESS_STATES, type ReadinessState as State } from '@verimend/core/casework'
import { READINESS_WORDS, lookName, say } from '@verimend/core/words'
import { cardOf, dryness } from '@verimend/core/material'
import { isPiece } from '@verimend/core/trials'
import { useState } from 'react'
import { Link } from 'react-router'
import { useReadiness } from '../api/queries'
import { measuredBy } from '../measure/measuredBy'
import { usePairOf } from '../pairs/usePairOf'
import { Swatch } from '../pairs/PairName'
import { today } from '../components/format'
import { Pages } from '../components/Pages'
import { Empty, Loaded } from '../components/states'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './Readiness.module.css'

/** A state as a sign of its own shape, so that it needs no colour to be read. */
export function ReadyMark({ state, title }: { state: State; title: string }) {
  return (
    <span className={styles.ready} title={title}>
      <svg width="14" height="14" viewBox="0 0 14 14" role="img" aria-label={READINESS_WORDS[state]}>
        {state === 'untested' && <circle className={styles.ring} cx="7" cy="7" r="5.2" />}
        {state === 'from-card' && (
          <>
            <circle className={styles.ring} cx="7" cy="7" r="5.2" />
            <path className={styles.half} d="M7 1.8a5.2 5.2 0 0 1 0 10.4z" />
          </>
        )}
        {state === 'narrowed' && (
          <>
            <circle className={styles.narrow} cx="7" cy="7" r="5.2" />
            <circle className={styles.full} cx="7" cy="7" r="2.4" />
          </>
        )}
        {state === 'measured' && <circle className={styles.full} cx="7" cy="7" r="5.6" />}
        {state === 'verified' && (
          <>
            <circle className={styles.full} cx="7" cy="7" r="6.4" />
            <path className={styles.tick} d="M4 7.2l2.2 2.2L10.2 5" />
          </>
        )}
        {state === 'stale' && <circle className={styles.old} cx="7" cy="7" r="5.2" />}
      </svg>
    </span>
  )
}

/** Pairs that are shown at once. */
const PAIRS_ON_PAGE = 20

/** Pairs against what has to be known of them, with the step most worth its time. */
export function Readiness({ pairId, choose }: { pairId: string | null; choose: (id: string) => void }) {
  const [page, setPage] = useState(1)
  const readiness = useReadiness(page === 1 ? {} : { skip: (page - 1) * PAIRS_ON_PAGE })
  const pairOf = usePairOf()
  return (
    <Loaded query={readiness}>
      {({ pairs: list, total }) =>
        total === 0 ? (
          <Empty>Nothing to be seen here yet: roll or machine of each pair was put away.</Empty>
        ) : (
          <div className={clsx(ui.sheet, ui.tablewrap)}>
            <table className={clsx(ui.plain, styles.readiness)}>
              <thead>
                <tr>
                  <th>Pair</th>
                  {ASPECT_IDS.map((a) => (
                    <th key={a}>{ASPECTS[a].label}</th>
                  ))}
                  <th>Most worth its time</th>
                  <th>
                    <span className={ui.visuallyHidden}>Actions</span>
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
                        <span className={ui.faint}>{cardOf(f.family).name}</span>
                        <div className={clsx(ui.faint, ui.small)}>
                          {m.name}, {pair.nozzle}&#8201;mm, version {pair.current}
                        </div>
                      </td>
                      {r.aspects.map((a) => (
                        <td key={a.id} className={styles.aspect} data-label={ASPECTS[a.id].label}>
                          <ReadyMark
                            state={a.state}
                            title={`${READINESS_WORDS[a.state]}: ${say(a.reason)}`}
                          />
                        </td>
                      ))}
                      <td>
                        {due && <span className={clsx(ui.tag, ui.caution)}>dry the roll first</span>}{' '}
                        {level && <span className={clsx(ui.tag, ui.caution)}>level the bed first</span>}
                        {r.next && (
                          <div title={say(r.next.reason)}>
                            {isPiece(r.next.by) ? (
                              <Link to={`/trials/new/${r.next.by}`} onClick={() => choose(r.pairId)}>
                                {lookName(r.next.by)}
                              </Link>
                            ) : measuredBy(r.next.by) ? (
                              <Link to="/measure" onClick={() => choose(r.pairId)}>
                                {lookName(r.next.by)}
                              </Link>
                            ) : (
                              lookName(r.next.by)
                            )}{' '}
                            <span className={clsx(ui.figure, ui.faint)}>
                              {r.next.minutes} min{r.next.grams ? `, ${r.next.grams} g` : ''}
                            </span>
                          </div>
                        )}
                      </td>
                      <td className={ui.num}>
                        {r.pairId === pairId ? (
                          <span className={clsx(ui.tag, ui.good)}>current</span>
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
            <div className={clsx(ui.row, ui.faint, ui.small)} style={{ marginTop: 8 }}>
              {READINESS_STATES.map((s) => (
                <span key={s} className={ui.row} style={{ gap: 4 }}>
                  <ReadyMark state={s} title={READINESS_WORDS[s]} /> {READINESS_WORDS[s]}
                </span>
              ))}
            </div>
            <Pages total={total} size={PAIRS_ON_PAGE} page={page} onChange={setPage} of="pairs" />
          </div>
        )
      }
    </Loaded>
  )
}
