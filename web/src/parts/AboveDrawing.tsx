import type { PartView } from '@verimend/core/casework'
import type { Layout, PartSettings } from '@verimend/core/planner'
import { quantity } from '@verimend/core/quantity'
import { useId, type KeyboardEvent } from 'react'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './parts.module.css'

const W = 440
const H = 300
/** A corner whose tab was taken off is found again within this, mm. */
const SAME = 0.8

const onEnter = (act: () => void) => (e: KeyboardEvent) => {
  if (e.key !== 'Enter' && e.key !== ' ') return
  e.preventDefault()
  act()
}

/**
 * The part from above, as it stands: where tabs lie, what hangs and is carried, which side its seam is turned to; each to be
 * switched by a click.
 */
export function AboveDrawing({
  view: { above, tabs },
  settings: { cornerTabs, supports, seamPlace, seamDirection },
  layout,
  onLayout,
  onSeam,
}: {
  view: PartView
  settings: Pick<PartSettings, 'cornerTabs' | 'supports' | 'seamPlace' | 'seamDirection'>
  layout: Layout
  onLayout: (patch: Partial<Layout>) => void
  onSeam: (direction: number) => void
}) {
  const hatch = useId()
  const rim = Math.min(W, H) / 2 - 12
  const reach = Math.max(1, ...[...above.outline, ...above.foot].flat().map(([x, y]) => Math.hypot(x, y)))
  const scale = (rim - 12) / (reach + cornerTabs / 2)
  const x = (v: number) => W / 2 + v * scale
  const y = (v: number) => H / 2 - v * scale
  const path = (rings: PartView['above']['foot']) =>
    rings.map((r) => `M${r.map(([px, py]) => `${x(px).toFixed(1)} ${y(py).toFixed(1)}`).join('L')}Z`).join('')
  const isOff = (t: { x: number; y: number }) =>
    layout.withoutTab.some((w) => Math.hypot(w.x - t.x, w.y - t.y) < SAME)
  const toggleTab = (t: { x: number; y: number }) =>
    onLayout({
      withoutTab: isOff(t)
        ? layout.withoutTab.filter((w) => Math.hypot(w.x - t.x, w.y - t.y) >= SAME)
        : [...layout.withoutTab, { x: t.x, y: t.y }],
    })
  const isBare = (p: { x: number; y: number }) =>
    layout.uncarried.some((w) => Math.hypot(w.x - p.x, w.y - p.y) < SAME)
  const togglePatch = (p: { x: number; y: number; radius: number }) =>
    onLayout({
      uncarried: isBare(p)
        ? layout.uncarried.filter((w) => Math.hypot(w.x - p.x, w.y - p.y) >= SAME)
        : [...layout.uncarried, { x: p.x, y: p.y, radius: Math.max(0.5, p.radius + 0.5) }],
    })
  const turn = (seamDirection * Math.PI) / 180
  // copies lie side by side: tabs are told for the one in the middle only
  const single = layout.copies <= 1
  return (
    <figure className={ui.stack} style={{ margin: 0, gap: 6 }}>
      <svg viewBox={`0 0 ${W} ${H}`} className={styles.corners} role="group" aria-label="The part from above">
        <defs>
          <pattern
            id={hatch}
            width={5}
            height={5}
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <line x1={0} y1={0} x2={0} y2={5} className={styles.hatch} />
          </pattern>
        </defs>
        <path d={path(above.outline)} className={styles.shadow} fillRule="evenodd" />
        <path d={path(above.foot)} className={styles.outline} fillRule="evenodd" />
        {above.patches.map((p, i) => {
          const r = Math.max(7, Math.min(26, p.radius * scale * 0.6))
          const label = `Hangs ${quantity(p.area, 'mm²', 0)} from ${quantity(p.from, 'mm', 1)} up`
          return supports === 'none' ? (
            <circle key={i} cx={x(p.x)} cy={y(p.y)} r={r} fill={`url(#${hatch})`} className={styles.patch}>
              <title>{label}</title>
            </circle>
          ) : (
            <circle
              key={i}
              cx={x(p.x)}
              cy={y(p.y)}
              r={r}
              fill={isBare(p) ? `url(#${hatch})` : undefined}
              className={isBare(p) ? styles.patch : styles.carried}
              role="button"
              tabIndex={0}
              aria-pressed={!isBare(p)}
              aria-label={`${label}: ${isBare(p) ? 'not carried' : 'carried'}`}
              onClick={() => togglePatch(p)}
              onKeyDown={onEnter(() => togglePatch(p))}
            />
          )
        })}
        {single &&
          cornerTabs > 0 &&
          tabs.map((t, i) => (
            <circle
              key={i}
              cx={x(t.x)}
              cy={y(t.y)}
              r={Math.max(6, (cornerTabs / 2) * scale)}
              className={isOff(t) ? styles.taboff : styles.tab}
              role="button"
              tabIndex={0}
              aria-pressed={!isOff(t)}
              aria-label={`Tab ${i + 1}`}
              onClick={() => toggleTab(t)}
              onKeyDown={onEnter(() => toggleTab(t))}
            />
          ))}
        <circle cx={W / 2} cy={H / 2} r={rim} className={styles.rim} />
        {Array.from({ length: 16 }, (_, i) => {
          const direction = i * 22.5
          const a = (direction * Math.PI) / 180
          const act = () => onSeam(Math.round(direction))
          return (
            <circle
              key={i}
              cx={W / 2 + rim * Math.cos(a)}
              cy={H / 2 - rim * Math.sin(a)}
              r={6}
              className={styles.side}
              role="button"
              tabIndex={i % 4 ? -1 : 0}
              aria-label={`Turn the seam to ${Math.round(direction)}°`}
              onClick={act}
              onKeyDown={onEnter(act)}
            >
              <title>{`Turn the seam here, ${Math.round(direction)}°`}</title>
            </circle>
          )
        })}
        {seamPlace === 'turned-away' && (
          <path
            d={`M${W / 2 + rim * Math.cos(turn)} ${H / 2 - rim * Math.sin(turn)}m-6 0a6 6 0 1 0 12 0a6 6 0 1 0 -12 0`}
            className={styles.seamside}
          />
        )}
        {['right', 'back', 'left', 'front'].map((side, i) => (
          <text
            key={side}
            x={W / 2 + (rim + 26) * [1, 0, -1, 0][i]}
            y={H / 2 + [4, 0, 4, 0][i] - (rim - 12) * [0, 1, 0, -1][i]}
            textAnchor="middle"
            className={styles.sideword}
          >
            {side}
          </text>
        ))}
      </svg>
      <figcaption className={clsx(ui.faint, ui.small)}>
        A click on the rim turns the seam to that side.
        {cornerTabs > 0 && single && ' A click on a tab takes it off or puts it back.'}
        {supports !== 'none' && above.patches.length > 0 && ' Click a patch to switch its support off or on.'}
        {above.patches.length > 0 && supports === 'none' && ' Hatched: what hangs past 45°.'}
      </figcaption>
    </figure>
  )
}
