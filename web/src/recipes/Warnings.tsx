import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button } from 'antd'
import type { PairDetail } from '@verimend/contract'
import { keysOf, type Changes, type SomeValues, type Warning } from '@verimend/core/recipe'
import { procedureName, sayWarning, settingText } from '@verimend/core/words'
import { memo, useState } from 'react'
import { Link } from 'react-router'
import { api } from '../api/client'
import { keys } from '../api/keys'
import { useCases } from '../api/queries'
import { Problem } from '../components/states'
import { seenOnPart } from '../parts/whatIf'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

const SEVERITIES = ['fault', 'caution', 'note'] as const
const PLURALS = { fault: 'faults', caution: 'cautions', note: 'notes' }

/** What the rules caught in the recipe as it stands, each with a mend and a way to say that it is meant so. */
export const Warnings = memo(function Warnings({
  pair,
  warnings,
  onMend,
}: {
  pair: PairDetail
  warnings: readonly Warning[]
  onMend: (set: Changes) => void
}) {
  const client = useQueryClient()
  const [unfolded, setUnfolded] = useState(false)
  const acknowledge = useMutation({
    mutationFn: (v: { fingerprint: string; acknowledged: boolean }) =>
      api.pairs.acknowledge(pair.id, v.fingerprint, v.acknowledged),
    onSuccess: (p) => client.setQueryData(keys.pairs.one(pair.id), p),
  })
  // the part of the case that was worked on last with this pair
  const partId = useCases({ pairId: pair.id, withPart: '1', limit: 1 }).data?.cases[0]?.partId ?? null
  const isAcknowledged = (w: Warning) => pair.acknowledged.includes(w.fingerprint)
  const open = warnings.filter((w) => !isAcknowledged(w))
  const acknowledged = warnings.filter(isAcknowledged)
  const counts = SEVERITIES.flatMap((severity) => {
    const n = open.filter((w) => w.severity === severity).length
    return n ? [`${n} ${n === 1 ? severity : PLURALS[severity]}`] : []
  })
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="What bites">
      <div className={clsx(ui.row, ui.between)}>
        <h2>What bites</h2>
        <span className={clsx(ui.faint, ui.small)}>{counts.join(', ') || 'nothing'}</span>
      </div>
      {open.length === 0 && <p className={ui.faint}>No rule objects to this recipe.</p>}
      <ul className={ui.bites}>
        {open.map((w) => {
          const { text, why } = sayWarning(w)
          return (
            <li key={w.fingerprint} data-severity={w.severity} data-rule={w.rule}>
              <p className={ui.wrap}>{text}</p>
              <p className={clsx(ui.faint, ui.small)}>{why}</p>
              <div className={ui.row} style={{ gap: 6 }}>
                {w.mend && (
                  <Button size="small" onClick={() => onMend(w.mend!)}>
                    {mendLabel(w.mend)}
                  </Button>
                )}
                {w.mend && partId && (
                  <Link to={seenOnPart(partId, w.mend as Changes)} className={ui.small}>
                    See it on the part
                  </Link>
                )}
                {w.remedy && (
                  <Link to={`/handbook/procedures#${w.remedy}`} className={ui.small}>
                    {procedureName(w.remedy)}
                  </Link>
                )}
                <Button
                  size="small"
                  type="text"
                  onClick={() => acknowledge.mutate({ fingerprint: w.fingerprint, acknowledged: true })}
                  aria-label={`I mean it: ${text}`}
                >
                  I mean it
                </Button>
              </div>
            </li>
          )
        })}
      </ul>
      {acknowledge.error && <Problem error={acknowledge.error} />}
      {acknowledged.length > 0 && (
        <>
          <button type="button" className={clsx(ui.linkish, ui.small)} onClick={() => setUnfolded(!unfolded)}>
            {acknowledged.length} meant so
          </button>
          {unfolded && (
            <ul className={ui.bites}>
              {acknowledged.map((w) => (
                <li key={w.fingerprint} data-severity="acknowledged">
                  <p className={clsx(ui.faint, ui.wrap)}>{sayWarning(w).text}</p>
                  <Button
                    size="small"
                    type="text"
                    onClick={() => acknowledge.mutate({ fingerprint: w.fingerprint, acknowledged: false })}
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
})

/** What the button of a mend says. */
function mendLabel(mend: SomeValues): string {
  const moved = keysOf(mend)
  return moved.length > 2
    ? `Mend ${moved.length} settings`
    : moved.map((k) => settingText(k, mend[k]!)).join(', ')
}
