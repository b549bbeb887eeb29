import { Button } from 'antd'
import { bareText, settingOf, type SettingKey } from '@verimend/core'
import type { PairDetail } from '@verimend/contract'
import { useState } from 'react'
import { useVersions } from '../api/queries'
import { ago } from '../parts/format'
import { Loaded } from '../parts/Problem'

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
    <section className="sheet stack" aria-label="Decisions">
      <h2>Decisions</h2>
      <Loaded query={versions}>
        {(list) => (
          <>
            <ol className="history">
              {(all ? list : list.slice(0, 8)).map((v) => (
                <li key={v.number} aria-current={v.number === pair.current}>
                  <div className="row between">
                    <strong>Version {v.number}</strong>
                    <span className="faint">{ago(v.createdAt)}</span>
                  </div>
                  <div className="wrap">{v.reason}</div>
                  {v.changes.length > 0 && v.changes.length <= 6 && (
                    <div className="faint">
                      {v.changes.map((c) => (
                        <div key={`${c.key}${c.grade ?? ''}`}>
                          {settingOf(c.key as SettingKey).label}
                          {c.grade ? `, ${c.grade}` : ''}{' '}
                          <span className="figure">
                            {c.from === undefined ? '–' : bareText(c.key as SettingKey, c.from)} →{' '}
                            {bareText(c.key as SettingKey, c.to!)}
                          </span>
                        </div>
                      ))}
                    </div>
                  )}
                  {v.changes.length > 6 && <div className="faint">{v.changes.length} settings changed</div>}
                  {v.number !== pair.current && (
                    <div className="row">
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
              <button type="button" className="linkish" onClick={() => setAll(!all)}>
                {all ? 'Fewer' : `All ${list.length} versions`}
              </button>
            )}
          </>
        )}
      </Loaded>
    </section>
  )
}
