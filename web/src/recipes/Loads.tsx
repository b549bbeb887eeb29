import { featureLoads, type RecipeValues } from '@verimend/core/recipe'
import { settingLabel } from '@verimend/core/words'
import { figure } from '@verimend/core/quantity'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './Loads.module.css'

/** Width of the column of bars, px. */
const BAR = 46

/** What every feature asks of the hot end, as bars against the melt cap; the one that binds is marked. */
export function Loads({ values }: { values: RecipeValues }) {
  const loads = featureLoads(values)
  const most = Math.max(...loads.map((l) => l.share))
  const scale = Math.max(1, most)
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="Melt rate by feature">
      <div className={clsx(ui.row, ui.between)}>
        <h2>Melt rate</h2>
        <span className={clsx(ui.faint, ui.small)}>
          cap <span className={ui.figure}>{figure(values.meltCap.value, 1)}</span> mm³/s
        </span>
      </div>
      <table className={clsx(ui.plain, styles.loads)}>
        <thead>
          <tr>
            <th>Feature</th>
            <th className={ui.num}>mm³/s</th>
            <th>
              <span className={ui.visuallyHidden}>Share of the cap</span>
            </th>
            <th className={ui.num}>feed mm/s</th>
          </tr>
        </thead>
        <tbody>
          {loads.map((l) => (
            <tr key={l.key} data-binds={l.share === most || undefined}>
              <td
                className={ui.nowrap}
                title={`bead ${figure(l.width)} × ${figure(l.height)} mm, ${figure(l.area, 4)} mm²`}
              >
                {settingLabel(l.key)}
              </td>
              <td className={clsx(ui.num, ui.figure, l.share > 1.001 && ui.fault)}>{figure(l.rate, 2)}</td>
              <td>
                <svg
                  width={BAR}
                  height="10"
                  role="img"
                  aria-label={`${figure(l.share * 100, 0)} % of the cap`}
                >
                  <rect
                    x="0"
                    y="3"
                    width={(BAR * l.share) / scale}
                    height="4"
                    data-over={l.share > 1.001 || undefined}
                  />
                  <line x1={BAR / scale} x2={BAR / scale} y1="0" y2="10" className={styles.caplines} />
                </svg>
              </td>
              <td className={clsx(ui.num, ui.figure)}>{figure(l.feed, 2)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className={clsx(ui.faint, ui.small)}>
        {settingLabel(loads.find((l) => l.share === most)!.key)} asks most: {figure(most * 100, 0)} % of what
        the hot end melts.
      </p>
    </section>
  )
}
