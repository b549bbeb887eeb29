import { Button } from 'antd'
import { bareText, say, settingLabel } from '@verimend/core/words'
import type { PairDetail } from '@verimend/contract'
import { useState } from 'react'
import { useVersions } from '../api/queries'
import { ago } from '../components/format'
import { Loaded } from '../components/states'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './History.module.css'

/** Versions as a line of decisions; any can be compared and brought back. */
export function History({
  pair,
  against,
  onCompare,
  onBack,
  busy,
}: {
  pair: PairDetail
  against: number | null
  onCompare: (n: number | null) => void
  onBack: (n: number) => void
  busy: boolean
}) {
  const versions = useVersions(pair.id)
  const [all, setAll] = useState(false)
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="Decisions">
      <h2>Decisions</h2>
      <Loaded query={versions}>
        {(list) => (
          <>
            <ol className={styles.history}>
              {(all ? list : list.slice(0, 8)).map((v) => (
                <li key={v.number} aria-current={v.number === pair.current}>
                  <div className={clsx(ui.row, ui.between)}>
                    <strong>Version {v.number}</strong>
                    <span className={ui.faint}>{ago(v.createdAt)}</span>
                  </div>
                  <div className={ui.wrap}>{say(v.reason)}</div>
                  {v.changes.length > 0 && v.changes.length <= 6 && (
                    <div className={ui.faint}>
                      {v.changes.map((c) => (
                        <div key={`${c.key}${c.grade ?? ''}`}>
                          {settingLabel(c.key)}
                          {c.grade ? `, ${c.grade}` : ''}{' '}
                          <span className={ui.figure}>
                            {c.from === undefined ? '–' : bareText(c.key, c.from)} → {bareText(c.key, c.to!)}
                          </span>
                        </div>
                      ))}
                    </div>
                  )}
                  {v.changes.length > 6 && (
                    <div className={ui.faint}>{v.changes.length} settings changed</div>
                  )}
                  {v.number !== pair.current && (
                    <div className={ui.row}>
                      <Button
                        size="small"
                        type={against === v.number ? 'primary' : 'default'}
                        onClick={() => onCompare(against === v.number ? null : v.number)}
                      >
                        Compare
                      </Button>
                      <Button size="small" loading={busy} onClick={() => onBack(v.number)}>
                        Go back to it
                      </Button>
                    </div>
                  )}
                </li>
              ))}
            </ol>
            {list.length > 8 && (
              <button type="button" className={ui.linkish} onClick={() => setAll(!all)}>
                {all ? 'Fewer' : `All ${list.length} versions`}
              </button>
            )}
          </>
        )}
      </Loaded>
    </section>
  )
}
