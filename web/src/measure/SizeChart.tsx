import type { SizeReading, SizesOutcome } from '@verimend/core/measurement'
import { linear, ticksOf } from '../drawing/scales'
import { figure } from '@verimend/core/quantity'
import styles from './measure.module.css'

/** Held within the chart. */
const clamp = (v: number, most: number) => Math.max(-most, Math.min(most, v))

const MARK: Record<string, string> = { x: '●', y: '▲', z: '■', d1: '◆', d2: '◆' }

/** Error of each size against its length: as printed, and as it would be after the corrections. */
export function SizeChart({
  outcome,
  readings,
}: {
  outcome: SizesOutcome
  readings: readonly SizeReading[]
}) {
  const width = 520
  const height = 240
  const rows = outcome.rows.flatMap((r) => {
    const reading = readings.find((s) => s.id === r.id)
    return reading ? [{ ...r, reading }] : []
  })
  if (rows.length < 2) return null
  const longest = Math.max(...rows.map((r) => r.reading.nominal))
  const most = Math.max(0.05, ...rows.flatMap((r) => [Math.abs(r.error), Math.abs(r.after)])) * 1.15
  const x = linear([0, longest * 1.06], [52, width - 12])
  const y = linear([-most, most], [height - 34, 12])
  return (
    <figure className={styles.chart}>
      <svg viewBox={`0 0 ${width} ${height}`} role="img" aria-label="Error against length">
        {ticksOf(y, 5).map((t) => (
          <g key={t.value}>
            <line
              x1={52}
              x2={width - 12}
              y1={t.at}
              y2={t.at}
              className={t.value === 0 ? styles.zero : styles.grid}
            />
            <text x={46} y={t.at + 4} textAnchor="end">
              {t.text}
            </text>
          </g>
        ))}
        {ticksOf(x, 6).map((t) => (
          <text key={t.value} x={t.at} y={height - 16} textAnchor="middle">
            {t.text}
          </text>
        ))}
        <rect
          x={52}
          width={width - 64}
          y={y(2 * outcome.sd)}
          height={Math.max(1, y(-2 * outcome.sd) - y(2 * outcome.sd))}
          className={styles.band}
        />
        {outcome.course.map(({ kind, points }) => {
          const edge = (sign: 1 | -1) =>
            points.map((p) => `${x(p.length)},${y(clamp(p.error + sign * p.plusMinus, most))}`)
          return (
            <g key={kind} className={kind === 'inside' ? styles.courseIn : styles.courseOut}>
              <polygon points={[...edge(1), ...edge(-1).reverse()].join(' ')} />
              <polyline points={points.map((p) => `${x(p.length)},${y(clamp(p.error, most))}`).join(' ')} />
            </g>
          )
        })}
        {rows.map((r) => (
          <g key={r.id}>
            <line
              x1={x(r.reading.nominal)}
              x2={x(r.reading.nominal)}
              y1={y(r.error)}
              y2={y(r.after)}
              className={styles.move}
            />
            <text x={x(r.reading.nominal)} y={y(r.after) + 4} textAnchor="middle" className={styles.after}>
              ○
            </text>
            <text
              x={x(r.reading.nominal)}
              y={y(r.error) + 4}
              textAnchor="middle"
              className={r.reading.kind === 'inside' ? styles.inside : styles.outside}
            >
              {MARK[r.reading.axis]}
            </text>
          </g>
        ))}
      </svg>
      <figcaption>
        Error over length, both in mm. ● X, ▲ Y, ■ Z, ◆ diagonals; dark outside, light inside; ○ after the
        corrections. Lines are what the terms say of outsides and insides, with their 95 % interval; the band
        about nought is what single sizes scatter by, ± {figure(2 * outcome.sd, 2)} mm.
      </figcaption>
    </figure>
  )
}
