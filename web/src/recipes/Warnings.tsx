import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button } from 'antd'
import { bareText, procedureOf, settingOf, type SettingKey, type Warning } from '@verimend/core'
import type { PairDetail } from '@verimend/contract'
import { useState } from 'react'
import { Link } from 'react-router'
import { api, type Edits } from '../api/client'
import { Problem } from '../parts/Problem'

const NAMES = { fault: 'faults', caution: 'cautions', note: 'notes' } as const

/** What the rules caught in the recipe as it stands, each with a mend and a way to say that it is meant so. */
export function Warnings({
  pair,
  warnings,
  onMend,
}: {
  pair: PairDetail
  warnings: Warning[]
  onMend: (set: Edits) => void
}) {
  const client = useQueryClient()
  const [showMeant, setShowMeant] = useState(false)
  const mean = useMutation({
    mutationFn: ({ print, meant }: { print: string; meant: boolean }) =>
      api.pairs.mean(pair.id, print, meant),
    onSuccess: (p) => client.setQueryData(['pair', pair.id], p),
  })
  const open = warnings.filter((w) => !pair.meant.includes(w.print))
  const meant = warnings.filter((w) => pair.meant.includes(w.print))
  const counts = (['fault', 'caution', 'note'] as const)
    .map((s) => [open.filter((w) => w.severity === s).length, s] as const)
    .filter(([n]) => n > 0)
    .map(([n, s]) => `${n} ${n === 1 ? s : NAMES[s]}`)
  return (
    <section className="sheet stack" aria-label="What bites">
      <div className="row between">
        <h2>What bites</h2>
        <span className="faint small">{counts.join(', ') || 'nothing'}</span>
      </div>
      {open.length === 0 && <p className="faint">No rule objects to this recipe.</p>}
      <ul className="bites">
        {open.map((w) => (
          <li key={w.print} className={w.severity} data-rule={w.rule}>
            <p className="wrap">{w.text}</p>
            <p className="faint small">{w.why}</p>
            <div className="row" style={{ gap: 6 }}>
              {w.mend && (
                <Button size="small" onClick={() => onMend(w.mend!)}>
                  {mendLabel(w.mend)}
                </Button>
              )}
              {w.procedure && (
                <Link to={`/handbook/procedures#${w.procedure}`} className="small">
                  {procedureOf(w.procedure).name}
                </Link>
              )}
              <Button
                size="small"
                type="text"
                onClick={() => mean.mutate({ print: w.print, meant: true })}
                aria-label={`I mean it: ${w.text}`}
              >
                I mean it
              </Button>
            </div>
          </li>
        ))}
      </ul>
      {mean.error && <Problem error={mean.error} />}
      {meant.length > 0 && (
        <>
          <button type="button" className="linkish small" onClick={() => setShowMeant(!showMeant)}>
            {meant.length} meant so
          </button>
          {showMeant && (
            <ul className="bites">
              {meant.map((w) => (
                <li key={w.print} className="meant">
                  <p className="faint wrap">{w.text}</p>
                  <Button
                    size="small"
                    type="text"
                    onClick={() => mean.mutate({ print: w.print, meant: false })}
                  >
                    Warn me again
                  </Button>
                </li>
              ))}
            </ul>
          )}
        </>
      )}
    </section>
  )
}

function mendLabel(mend: Edits): string {
  const entries = Object.entries(mend) as [SettingKey, NonNullable<Edits[SettingKey]>][]
  if (entries.length > 2) return `Mend ${entries.length} settings`
  return entries
    .map(([k, v]) => {
      const s = settingOf(k)
      return `${s.label} ${bareText(k, v)}${s.kind === 'number' ? `\u2009${s.unit}` : ''}`
    })
    .join(', ')
}
