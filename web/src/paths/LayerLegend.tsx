import { figure, quantity } from '@verimend/core/quantity'
import { FEATURE_NAMES, LINE_STRIDE, TRAVEL_STRIDE, type LayerPlan } from '@verimend/core/toolpath'
import { cividis } from '../drawing/cividis'
import { useMode } from '../theme/mode'
import { INK, type Shade } from './layerInk'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './LayerLegend.module.css'

/** What the lines and marks of a layer mean, and how much of each there is. */
export function LayerLegend({ plan, shade }: { plan: LayerPlan; shade: Shade }) {
  const { mode } = useMode()
  const dark = mode === 'dark' ? 1 : 0
  const lengths = new Map<number, number>()
  let least = Infinity
  let most = 0
  for (let i = 0; i < plan.lines.length; i += LINE_STRIDE) {
    const f = plan.lines[i + 5]
    const d = Math.hypot(plan.lines[i + 2] - plan.lines[i], plan.lines[i + 3] - plan.lines[i + 1])
    lengths.set(f, (lengths.get(f) ?? 0) + d)
    least = Math.min(least, plan.lines[i + 6])
    most = Math.max(most, plan.lines[i + 6])
  }
  let bare = 0
  let pulled = 0
  for (let i = 0; i < plan.travels.length; i += TRAVEL_STRIDE) {
    if (plan.travels[i + 4] === 2) bare++
    else if (plan.travels[i + 4] === 1) pulled++
  }
  return (
    <ul className={styles.legend} data-testid="legend">
      {shade === 'feature' ? (
        [...lengths]
          .sort((a, b) => a[0] - b[0])
          .map(([f, d]) => (
            <li key={f}>
              <i style={{ background: INK[f].tint[dark], opacity: INK[f].alpha }} />
              {FEATURE_NAMES[f]} <span className={clsx(ui.figure, ui.faint)}>{figure(d, 0)} mm</span>
            </li>
          ))
      ) : (
        <li>
          <i
            style={{
              width: 70,
              background: `linear-gradient(90deg, ${[0, 0.25, 0.5, 0.75, 1].map((t) => cividis(t)).join(',')})`,
            }}
          />
          <span className={ui.figure}>
            {figure(least, 0)}–{quantity(most, 'mm/s', 0)}
          </span>
        </li>
      )}
      <li>
        <svg width="18" height="10">
          <circle cx="5" cy="5" r="3.4" className={styles.startdot} />
        </svg>
        outline starts
      </li>
      <li>
        <svg width="18" height="10">
          <path d="M2 5H16" className={styles.airbare} />
        </svg>
        air, no pull-back <span className={clsx(ui.figure, ui.faint)}>{bare}</span>
      </li>
      <li>
        <svg width="18" height="10">
          <path d="M2 5H16" className={styles.airpulled} />
        </svg>
        air, pulled back <span className={clsx(ui.figure, ui.faint)}>{pulled}</span>
      </li>
      <li>
        <svg width="18" height="10">
          <path d="M2 5H16" className={styles.inside} />
        </svg>
        inside the part
      </li>
    </ul>
  )
}
