import type { SizeReading } from '@verimend/core/measurement'
import styles from './measure.module.css'

/** A block with a bore, and which way the size is taken: a drawing, not a picture of the part. */
export function SizeDrawing({
  reading,
}: {
  reading: Pick<SizeReading, 'axis' | 'kind' | 'place' | 'round'>
}) {
  const { axis, kind, place, round } = reading
  const inside = kind === 'inside' || kind === 'depth'
  // front face 40..120 × 40..100, going back by 34, −22
  const back = [34, -22]
  const arrow: Record<SizeReading['axis'], [number, number, number, number]> = inside
    ? {
        x: [62, 70, 98, 70],
        y: [70, 76, 92, 62],
        z: [80, 56, 80, 84],
        d1: [68, 80, 94, 60],
        d2: [68, 60, 94, 80],
      }
    : {
        x: [40, place === 'base' ? 106 : 110, 120, place === 'base' ? 106 : 110],
        y: [128, 102, 128 + back[0], 102 + back[1]],
        z: [30, 100, 30, 40],
        d1: [40, 40, 120 + back[0], 40 + back[1]],
        d2: [40 + back[0], 40 + back[1], 120, 40],
      }
  const [x1, y1, x2, y2] = arrow[axis]
  return (
    <svg viewBox="0 0 180 124" className={styles.sizedrawing} role="img" aria-label="Where the size is taken">
      <defs>
        <marker
          id="tip"
          viewBox="0 0 8 8"
          refX="6"
          refY="4"
          markerWidth="6"
          markerHeight="6"
          orient="auto-start-reverse"
        >
          <path d="M0 0 8 4 0 8z" />
        </marker>
      </defs>
      <g className={styles.block}>
        <path
          d={`M40 40h80v60h-80zM40 40l${back[0]} ${back[1]}h80l-${back[0]} ${-back[1]}M120 100l${back[0]} ${back[1]}v-60`}
        />
        {(round || inside) && <circle cx="80" cy="70" r="17" />}
        {place === 'base' && <path d="M36 96h88v4h-88z" className={styles.base} />}
      </g>
      <line
        x1={x1}
        y1={y1}
        x2={x2}
        y2={y2}
        className={styles.arrow}
        markerStart="url(#tip)"
        markerEnd="url(#tip)"
      />
    </svg>
  )
}
