import { figure, quantity } from '@verimend/core/quantity'
import type { PathReading } from '@verimend/core/toolpath'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './FeedView.module.css'

/** How often the same filament passes the drive gear backwards. */
export function FeedView({ reading }: { reading: PathReading }) {
  const { ledger, retraction } = reading
  const rows = ledger.byPasses
    .map((mm, passes) => ({ mm, passes }))
    .filter((r, i, all) => r.mm > 0.05 || all.slice(i).some((q) => q.mm > 0.05))
  const most = Math.max(1, ...rows.slice(1).map((r) => r.mm))
  if (retraction.kind === 'none') return <p className={ui.faint}>The file never pulls the filament back.</p>
  return (
    <div className={ui.stack} style={{ gap: 8 }}>
      <p>
        {retraction.count} pull-backs
        {retraction.length !== null && (
          <>
            {' '}
            of <span className={ui.figure}>{quantity(retraction.length, 'mm', 2)}</span>
          </>
        )}
        {retraction.speed !== null && (
          <>
            {' '}
            at <span className={ui.figure}>{quantity(retraction.speed, 'mm/s', 0)}</span>
          </>
        )}
        {!!retraction.zLift && (
          <>
            , with a lift of <span className={ui.figure}>{quantity(retraction.zLift, 'mm', 2)}</span>
          </>
        )}
        .
      </p>
      {ledger.worst && (
        <p className={ledger.worst.passes > 10 ? ui.caution : undefined}>
          The worst stretch goes back <strong>{ledger.worst.passes} times</strong>:{' '}
          {quantity(ledger.worst.length, 'mm', 1)} of filament, {quantity(ledger.worst.at / 1000, 'm', 2)}{' '}
          into the print, at {quantity(reading.layers.z[ledger.worst.layer] ?? 0, 'mm', 1)}.
        </p>
      )}
      <table className={ui.plain} style={{ width: 'auto' }}>
        <thead>
          <tr>
            <th className={ui.num}>Passes back</th>
            <th className={ui.num}>Filament, mm</th>
            <th>
              <span className={ui.visuallyHidden}>Share</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={r.passes}>
              <td className={clsx(ui.num, ui.figure)}>
                {r.passes}
                {r.passes === ledger.byPasses.length - 1 ? ' or more' : ''}
              </td>
              <td className={clsx(ui.num, ui.figure)}>{figure(r.mm, 0)}</td>
              <td>
                {r.passes > 0 && (
                  <svg width="220" height="10" aria-hidden="true">
                    <rect
                      width={(r.mm / most) * 220}
                      height="7"
                      y="1.5"
                      className={styles.bar}
                      data-over={r.passes > 10 || undefined}
                    />
                  </svg>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className={clsx(ui.faint, ui.small)}>
        More than ten passes grind a notch into the filament. Common practice, no source.
      </p>
    </div>
  )
}
