import type { Machine } from '@verimend/core/machine'
import type { BedOutcome } from '@verimend/core/measurement'
import { figure } from '@verimend/core/quantity'
import { cividis } from '../drawing/cividis'
import styles from './measure.module.css'

/** Hundredths with their sign; none where they round to nought. */
const signed = (v: number) => {
  const shown = figure(Math.abs(v), 2)
  return Number(shown) === 0 ? '0' : `${v < 0 ? '−' : '+'}${shown}`
}

/** What the plane leaves at each place, and the screws with their turns: the bed from above, the front below. */
export function BedMap({ outcome, machine }: { outcome: BedOutcome; machine: Machine }) {
  const { bed } = machine
  const [x0, y0] = bed.shape === 'round' ? [-bed.width / 2, -bed.depth / 2] : [0, 0]
  const width = 440
  const scale = (width - 60) / bed.width
  const height = bed.depth * scale + 60
  const x = (v: number) => 30 + (v - x0) * scale
  const y = (v: number) => height - 30 - (v - y0) * scale
  // a reading that was left out does not set the scale
  const left = (r: { x: number; y: number }) => outcome.odd.some((o) => o.x === r.x && o.y === r.y)
  const most = Math.max(0.02, ...outcome.residuals.flatMap((r) => (left(r) ? [] : Math.abs(r.residual))))
  const n = outcome.residuals.length
  const cell = Math.min(64, (0.86 * (width - 60)) / Math.max(2, Math.sqrt(n)))
  const words = n <= 64
  return (
    <svg viewBox={`0 0 ${width} ${height}`} className={styles.bedmap} role="img" aria-label="Map of the bed">
      {bed.shape === 'round' ? (
        <circle cx={x(0)} cy={y(0)} r={(bed.width * scale) / 2} className={styles.bedplate} />
      ) : (
        <rect
          x={30}
          y={30}
          width={bed.width * scale}
          height={bed.depth * scale}
          className={styles.bedplate}
        />
      )}
      {outcome.residuals.map((r, i) => {
        const share = Math.min(1, Math.max(0, 0.5 + r.residual / most / 2))
        return (
          <g key={i}>
            <rect
              x={x(r.x) - cell / 2}
              y={y(r.y) - cell / 2}
              width={cell}
              height={cell}
              fill={cividis(share)}
              data-residual={r.residual.toFixed(3)}
            />
            {words && (
              <text
                x={x(r.x)}
                y={y(r.y) + 4}
                textAnchor="middle"
                className={share > 0.6 ? styles.oninklight : styles.oninkdark}
              >
                {signed(r.residual)}
              </text>
            )}
          </g>
        )
      })}
      {(machine.bed.screws?.screws ?? []).map((s) => {
        const turn = outcome.turns.find((t) => t.screw === s.name)
        return (
          <g key={s.name} transform={`translate(${x(s.x)} ${y(s.y)})`}>
            <circle r={9} className={styles.screw} />
            {turn && turn.turns > 0 && (
              <path
                d={turn.clockwise ? 'M-6 -2a6 6 0 1 1 3 7' : 'M6 -2a6 6 0 1 0 -3 7'}
                className={styles.turn}
                markerEnd="url(#turntip)"
              />
            )}
          </g>
        )
      })}
      <defs>
        <marker
          id="turntip"
          viewBox="0 0 8 8"
          refX="4"
          refY="4"
          markerWidth="4"
          markerHeight="4"
          orient="auto"
        >
          <path d="M0 0 8 4 0 8z" />
        </marker>
      </defs>
      <text x={width / 2} y={height - 8} textAnchor="middle">
        front
      </text>
    </svg>
  )
}
