import { quantity } from '@verimend/core/quantity'
import { linear, ticksOf } from '../drawing/scales'
import styles from './measure.module.css'

/** Temperatures over time. */
export function HeatTrace({ values, interval }: { values: readonly number[]; interval: number }) {
  if (values.length < 4) return null
  const [width, height] = [560, 130]
  const [low, high] = [Math.min(...values), Math.max(...values)]
  const room = Math.max(0.5, (high - low) * 0.12)
  const x = linear([0, (values.length - 1) * interval], [46, width - 10])
  const y = linear([low - room, high + room], [height - 22, 8])
  return (
    <figure className={styles.chart}>
      <svg viewBox={`0 0 ${width} ${height}`} role="img" aria-label="Temperature over time">
        {ticksOf(y, 4).map((t) => (
          <g key={t.value}>
            <line x1={46} x2={width - 10} y1={t.at} y2={t.at} className={styles.grid} />
            <text x={40} y={t.at + 4} textAnchor="end">
              {t.text}
            </text>
          </g>
        ))}
        {ticksOf(x, 6).map((t) => (
          <text key={t.value} x={t.at} y={height - 6} textAnchor="middle">
            {t.text}
          </text>
        ))}
        <polyline
          className={styles.trace}
          points={values.map((v, i) => `${x(i * interval)},${y(v)}`).join(' ')}
        />
      </svg>
      <figcaption>
        °C over s, {values.length} readings in {quantity((values.length - 1) * interval, 's', 0)}.
      </figcaption>
    </figure>
  )
}
