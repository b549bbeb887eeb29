import { Button, Select } from 'antd'
import { figure, quantity } from '@verimend/core/quantity'
import type { PathReading } from '@verimend/core/toolpath'
import { useState } from 'react'
import { UprightTicks, linear, type Scale } from '../drawing/scales'
import { usePanZoom } from '../drawing/usePanZoom'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import drawingStyles from '../drawing/drawing.module.css'
import styles from './SeamMap.module.css'

const W = 560
const H = 380
const LEFT = 46
const TOP = 18
const FOOT = 28
const CLOSEST = 40
const SIDES: [angle: number, side: string][] = [
  [0, 'right'],
  [90, 'back'],
  [180, 'left'],
  [270, 'front'],
  [360, 'right'],
]
/** How wholly starts point one way before they are called so: the mean resultant length. Common practice, no source. */
const STACKED = 0.9
const GATHERED = 0.5

const inside = (at: number) => at >= TOP - 1 && at <= H - FOOT + 1

/** Where outlines start, unrolled: the way around the object across, its height upright. */
export function SeamMap({ reading }: { reading: PathReading }) {
  const { seam, objects } = reading
  const [object, setObject] = useState<number>(seam.objects[0]?.object ?? -1)
  const own = seam.objects.find((o) => o.object === object)
  const body = objects[object]
  const top = reading.height || 1
  const z0 = body?.fromZ ?? 0
  const z1 = Math.max(z0 + 1, body?.toZ ?? top)
  const { ref, transform, whole, zoomBy, reset, onKeyDown } = usePanZoom<SVGSVGElement>({
    width: W,
    height: H - TOP - FOOT,
    top: TOP,
    axes: 'y',
    closest: CLOSEST,
  })
  const y = transform.rescaleY(linear([z0, z1], [H - FOOT, TOP])) as Scale
  const x = linear([0, 360], [LEFT, W - 8])
  const starts = seam.starts.filter((s) => s.object === object && inside(y(reading.layers.z[s.layer])))
  if (!seam.count) return <p className={ui.faint}>No closed outlines: there is no seam to show.</p>
  return (
    <div className={ui.stack} style={{ gap: 8 }}>
      <div className={ui.row}>
        {seam.objects.length > 1 && (
          <Select
            size="small"
            value={object}
            onChange={setObject}
            aria-label="Object"
            options={seam.objects.map((o, i) => ({
              value: o.object,
              label: `object ${i + 1}, ${o.count} starts`,
            }))}
            style={{ width: 190 }}
          />
        )}
        {own && (
          <span>
            {own.resultantLength > STACKED
              ? 'Stacked'
              : own.resultantLength > GATHERED
                ? 'Gathered'
                : 'Scattered'}
            : starts cluster with strength <span className={ui.figure}>{figure(own.resultantLength, 2)}</span>{' '}
            around <span className={ui.figure}>{figure(own.direction, 0)}°</span>
            <span className={ui.faint}>
              {' '}
              ({own.p < 0.001 ? 'unlikely to be chance' : `${figure(own.p * 100, 1)} in 100 by chance`})
            </span>
          </span>
        )}
        <Button size="small" onClick={() => zoomBy(1.6)}>
          Closer
        </Button>
        <Button size="small" disabled={whole} onClick={reset}>
          Whole height
        </Button>
      </div>
      <div className={ui.tablewrap}>
        <svg
          ref={ref}
          width={W}
          height={H}
          role="img"
          tabIndex={0}
          aria-label="Loop starts by angle and height. Plus and minus come closer and go away, arrows move."
          className={styles.seammap}
          onKeyDown={onKeyDown}
        >
          <text x={LEFT - 8} y={12} textAnchor="end" className={drawingStyles.stripunit}>
            mm
          </text>
          <UprightTicks scale={y} x={LEFT} to={W - 8} />
          {SIDES.map(([a, side]) => (
            <g key={a}>
              <line x1={x(a)} x2={x(a)} y1={TOP} y2={H - FOOT} className={drawingStyles.gridline} />
              <text
                x={x(a)}
                y={H - 12}
                textAnchor={a === 0 ? 'start' : a === 360 ? 'end' : 'middle'}
                className={drawingStyles.striptick}
              >
                {side} {a}°
              </text>
            </g>
          ))}
          {starts.map((s, i) => {
            const z = reading.layers.z[s.layer]
            return s.turn >= 30 ? (
              <path
                key={i}
                d={`M${x(s.angle) - 3} ${y(z) + 2.4}h6l-3 -5z`}
                className={styles.seamdot}
                data-hole={s.hole || undefined}
              />
            ) : (
              <circle
                key={i}
                cx={x(s.angle)}
                cy={y(z)}
                r={2.1}
                className={styles.seamdot}
                data-hole={s.hole || undefined}
              />
            )
          })}
        </svg>
      </div>
      <p className={clsx(ui.faint, ui.small)}>
        Dots are starts of outlines, triangles those on an outward corner, hollow ones lie in holes.{' '}
        {seam.stacked !== null &&
          `${figure(seam.stacked * 100, 0)} % of all starts lie within 2 mm of the one below; `}
        {figure(seam.outwardCorner * 100, 0)} % on an outward, {figure(seam.inwardCorner * 100, 0)} % in an
        inward corner. Ends: early stop {quantity(seam.early, 'mm', 2)}, wipe {quantity(seam.wipe, 'mm', 2)}.
        {seam.count > seam.starts.length && ` ${seam.starts.length} of ${seam.count} starts are drawn.`}
      </p>
    </div>
  )
}
