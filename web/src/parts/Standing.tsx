import { Button, InputNumber, Segmented, Switch } from 'antd'
import { AS_IT_IS, type Placement } from '@verimend/core/geometry'
import { MOST_COPIES, type Layout, type PlacingCost } from '@verimend/core/planner'
import { figure, quantity } from '@verimend/core/quantity'
import { useState } from 'react'
import { later } from '../components/later'
import type { DrawnPlacing, OpenedMesh, Placings } from '../workers/part.worker'
import { FrontDrawing } from './FrontDrawing'
import { mendedWords } from './MeshDrop'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import styles from './parts.module.css'

const Turnable = later(() => import('./Turnable'), {
  what: 'The part in space',
  meanwhile: <div className={styles.turnable} />,
})

/** Whether the browser can draw in space at all. */
const drawsInSpace = (() => {
  let known: boolean | null = null
  return () => (known ??= !!document.createElement('canvas').getContext('webgl2'))
})()

/** What makes a placing dearer, in a few words. */
const COST_WORDS: Record<PlacingCost['of'], (figure: number) => string> = {
  hanging: (v) => `${quantity(v, 'mm²', 0)} hang past 45°`,
  steep: (v) => `${quantity(v, 'mm²', 0)} hang past 60°`,
  bridge: (v) => `${quantity(v, 'mm', 0)} to bridge`,
  grip: (v) => `${quantity(v, 'mm²', 0)} hold it`,
  tipping: (v) => `${quantity(v, 'N', 2)} tip it`,
  islands: (v) => `begins in ${figure(v, 0)} pieces`,
  height: (v) => `${quantity(v, 'mm', 0)} tall`,
  layers: (v) => `${figure(100 * v, 0)} % of the load pulls layers apart`,
}
/** A reason that costs less than this is none. */
const WORTH_SAYING = 0.12
/** Share of the heights with a corner below which a seam finds none. */
const NO_CORNER = 0.2
const SAME = 1e-4

const samePlacement = (a: Placement, b: Placement) => a.every((v, i) => Math.abs(v - b[i]) < SAME)

/** Which of the placings a layout has; the flattest face where none was chosen. */
export function chosenPlacing(list: readonly DrawnPlacing[], { placement }: Layout): DrawnPlacing | null {
  if (placement) return list.find((p) => samePlacement(p.face.placement, placement)) ?? null
  return list.reduce<DrawnPlacing | null>(
    (best, p) => (!best || p.face.area > best.face.area ? p : best),
    null,
  )
}

/** How a part is put on the bed: which face is down, turned, how large, how many. */
export function Standing({
  opened,
  placings,
  layout,
  fits,
  nozzle,
  onLayout,
}: {
  opened: OpenedMesh
  placings: Placings | null
  layout: Layout
  /** The scale at which it would fit, %; null where it does. */
  fits: number | null
  /** mm */
  nozzle: number
  onLayout: (patch: Partial<Layout>) => void
}) {
  const [drawing, setDrawing] = useState(false)
  const chosen = placings && chosenPlacing(placings.list, layout)
  const mended = mendedWords(opened)
  const placement = layout.placement ?? chosen?.face.placement ?? AS_IT_IS
  return (
    <section className={clsx(ui.sheet, ui.stack)} aria-label="How it stands">
      <div className={clsx(ui.row, ui.between)}>
        <h2>How it stands</h2>
        <span className={clsx(ui.faint, ui.small)}>
          {placings ? `${placings.list.length} faces` : 'Faces'} it could stand on, the best for this pair
          first
        </span>
      </div>
      <div className={styles.stand}>
        <ul className={styles.placings} aria-label="Faces it could stand on">
          {placings?.list.map((p, i) => (
            <li key={i}>
              <button
                type="button"
                aria-pressed={p === chosen}
                data-placing={i}
                onClick={() => onLayout({ placement: p.face.placement, withoutTab: [], uncarried: [] })}
              >
                <FrontDrawing front={p.front} label={`Standing on face ${i + 1}, from the front`} />
                <strong className={ui.small}>
                  {i === 0 ? 'Best for this pair' : `${i + 1}.`}
                  {p === chosenPlacing(placings.list, { ...layout, placement: null }) && ', flattest'}
                </strong>
                <span className={clsx(ui.faint, ui.small)}>
                  {p.costs
                    .filter((c) => c.cost > WORTH_SAYING)
                    .slice(0, 3)
                    .map((c) => COST_WORDS[c.of](c.figure))
                    .join(', ') || 'nothing against it'}
                  {p.judged.corners < NO_CORNER && '; no corner to hide a seam'}
                </span>
              </button>
            </li>
          ))}
        </ul>
        <div className={ui.stack} style={{ gap: 6 }}>
          {drawsInSpace() ? (
            <Turnable
              mesh={opened.mesh}
              placement={placement}
              load={layout.load}
              drawing={drawing}
              onLoad={(load) => {
                onLayout({ load })
                setDrawing(false)
              }}
            />
          ) : (
            <p className={ui.faint}>This browser cannot show 3D. The drawings alongside show the same.</p>
          )}
          <div className={ui.row} style={{ gap: 6 }}>
            <Button
              size="small"
              type={drawing ? 'primary' : 'default'}
              onClick={() => setDrawing(!drawing)}
              disabled={!drawsInSpace()}
            >
              {drawing ? 'Drag along the load' : 'Draw the load'}
            </Button>
            {layout.load && (
              <Button size="small" type="text" onClick={() => onLayout({ load: null })}>
                No load
              </Button>
            )}
          </div>
        </div>
      </div>
      {fits !== null && (
        <div className={clsx(ui.notice, ui.caution, ui.row, ui.between)} role="alert">
          <span>It is too large for this machine as it stands.</span>
          <Button size="small" onClick={() => onLayout({ scale: Math.floor(layout.scale * fits) / 100 })}>
            Make it fit: {figure((layout.scale * fits) / 100, 1)} %
          </Button>
        </div>
      )}
      <div className={styles.controls}>
        <label>
          Turned
          <InputNumber
            size="small"
            value={layout.turn}
            min={-360}
            max={360}
            step={15}
            suffix="°"
            aria-label="Turned about the upright axis, °"
            onChange={(v) => typeof v === 'number' && onLayout({ turn: v, withoutTab: [], uncarried: [] })}
            style={{ width: 84 }}
          />
        </label>
        <label>
          Scale
          <InputNumber
            size="small"
            value={layout.scale}
            min={0.1}
            max={10_000}
            step={1}
            suffix="%"
            aria-label="Scale, % of the drawn size"
            onChange={(v) => typeof v === 'number' && onLayout({ scale: v, withoutTab: [], uncarried: [] })}
            style={{ width: 100 }}
          />
        </label>
        <label>
          <Switch
            size="small"
            checked={layout.withShrink}
            onChange={(withShrink) => onLayout({ withShrink })}
            aria-label="With the recipe’s scale for shrinking"
          />
          with the recipe’s scale
        </label>
        <label>
          Copies
          <InputNumber
            size="small"
            value={layout.copies}
            min={1}
            max={MOST_COPIES}
            aria-label="Copies"
            onChange={(v) => typeof v === 'number' && onLayout({ copies: Math.round(v) })}
            style={{ width: 66 }}
          />
        </label>
        {layout.copies > 1 && (
          <Segmented
            size="small"
            value={layout.order}
            onChange={(order) => onLayout({ order: order as Layout['order'] })}
            options={[
              { value: 'together', label: 'layer by layer' },
              { value: 'one-by-one', label: 'one after another' },
            ]}
          />
        )}
      </div>
      {mended && <p className={clsx(ui.faint, ui.small)}>Put right when it was read: {mended}.</p>}
      {placings?.thinnest && (
        <p className={clsx(ui.small, placings.thinnest.width < nozzle ? ui.caution : ui.faint)}>
          Its thinnest wall is about {quantity(placings.thinnest.width, 'mm', 2)}, at{' '}
          {quantity(placings.thinnest.z, 'mm', 1)} of height
          {placings.thinnest.width < nozzle &&
            `: thinner than the ${quantity(nozzle, 'mm', 1)} nozzle, so that it becomes one thin line or none`}
          .
        </p>
      )}
    </section>
  )
}
