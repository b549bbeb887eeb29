import { Button } from 'antd'
import { figure } from '@verimend/core/quantity'
import type { Correlation, HeightRange, PathReading } from '@verimend/core/toolpath'
import { say } from '@verimend/core/words'
import { useMemo } from 'react'
import { Problem, Waiting } from '../components/states'
import { useComputed } from '../workers/useComputed'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './MarkMatches.module.css'

/** Matches shown, and how strong one has to be. */
const MOST_MATCHES = 6
const LEAST_STRENGTH = 0.15

/** What changes where the flaw was marked, strongest first; one click makes it evidence. */
export function MarkMatches({
  reading,
  ranges,
  taken,
  onTake,
}: {
  reading: PathReading
  ranges: readonly HeightRange[]
  /** Quantities that are evidence already. */
  taken?: readonly string[]
  onTake?: (match: Correlation) => void
}) {
  const { layers } = reading
  const input = useMemo(() => (ranges.length ? { layers, ranges: [...ranges] } : null), [layers, ranges])
  const { data: matches, pending, error } = useComputed('correlate', input)
  if (!ranges.length) return null
  if (error) return <Problem error={error} />
  if (!matches) return <Waiting tall={150} />
  if (!matches.length)
    return (
      <p className={ui.notice}>
        Nothing the machine was told changes at these heights. Then it is not in the paths: look at the
        machine and the filament.
      </p>
    )
  const worth = matches.filter((m, i) => i < MOST_MATCHES && (i === 0 || m.strength > LEAST_STRENGTH))
  return (
    <div className={ui.stack} style={{ gap: 6 }} aria-label="What changes there" aria-busy={pending}>
      <strong>What changes there</strong>
      {worth[0].p > 0.2 && (
        <p className={clsx(ui.faint, ui.small)}>
          Nothing stands out. A match this strong turns up by chance in {figure(worth[0].p * 100, 0)} of 100
          places.
        </p>
      )}
      <table className={clsx(ui.plain, styles.matches)}>
        <thead>
          <tr>
            <th>Quantity</th>
            <th className={ui.num}>Match</th>
            <th className={ui.num} title="Chance of so strong a match if the marks lay anywhere else">
              p
            </th>
            <th>
              <span className={ui.visuallyHidden}>Evidence</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {worth.map((m) => (
            <tr key={m.id} data-match={m.id}>
              <td>{say(m.reason)}</td>
              <td className={clsx(ui.num, ui.figure)}>
                {figure(m.strength * 100, 0)} %
                <div className={ui.gauge} aria-hidden="true">
                  <i style={{ width: `${m.strength * 100}%` }} />
                </div>
              </td>
              <td className={clsx(ui.num, ui.figure)}>{m.p < 0.001 ? '< 0.001' : figure(m.p, 3)}</td>
              <td className={ui.num}>
                {onTake &&
                  (taken?.includes(m.id) ? (
                    <span className={clsx(ui.tag, ui.good)}>evidence</span>
                  ) : (
                    <Button size="small" disabled={pending} onClick={() => onTake(m)}>
                      Make it evidence
                    </Button>
                  ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
