import type { Ring } from '@verimend/core/geometry'
import type { FrontView } from '@verimend/core/planner'
import { useId, useMemo } from 'react'
import styles from './parts.module.css'

const pathOf = (rings: readonly Ring[], x: (v: number) => number, y: (v: number) => number) =>
  rings.map((r) => `M${r.map(([px, pz]) => `${x(px).toFixed(1)} ${y(pz).toFixed(1)}`).join('L')}Z`).join('')

/** A part from the front as it would stand, hatched where it hangs. */
export function FrontDrawing({
  front,
  width = 132,
  height = 104,
  label,
}: {
  front: FrontView
  width?: number
  height?: number
  label: string
}) {
  const hatch = useId()
  const { outline, hanging, base } = useMemo(() => {
    const places = front.outline.flat()
    const [x0, x1] = [Math.min(...places.map((p) => p[0])), Math.max(...places.map((p) => p[0]))]
    const top = Math.max(1e-6, ...places.map((p) => p[1]))
    const scale = Math.min((width - 16) / Math.max(1e-6, x1 - x0), (height - 16) / top)
    const x = (v: number) => width / 2 + (v - (x0 + x1) / 2) * scale
    const y = (v: number) => height - 8 - v * scale
    return { outline: pathOf(front.outline, x, y), hanging: pathOf(front.hanging, x, y), base: y(0) }
  }, [front, width, height])
  return (
    <svg width={width} height={height} role="img" aria-label={label} className={styles.front}>
      <defs>
        <pattern id={hatch} width={5} height={5} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1={0} y1={0} x2={0} y2={5} className={styles.hatch} />
        </pattern>
      </defs>
      <path d={outline} className={styles.outline} fillRule="evenodd" />
      <path d={hanging} fill={`url(#${hatch})`} fillRule="evenodd" />
      <path d={hanging} className={styles.hangs} fillRule="evenodd" />
      <line x1={4} x2={width - 4} y1={base} y2={base} className={styles.bedline} />
    </svg>
  )
}
