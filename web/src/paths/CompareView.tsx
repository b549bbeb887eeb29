import type {
  LayerPlan,
  PathReading,
  ReadingComparison,
  ReadingContext,
  ReadingDifference,
} from '@verimend/core/toolpath'
import { comparedLabel, featureLabel } from '@verimend/core/words'
import { duration, figure, quantity } from '@verimend/core/quantity'
import { filamentMass } from '@verimend/core/extrusion'
import { Segmented } from 'antd'
import { useEffect, useMemo, useState } from 'react'
import { Problem, Waiting } from '../components/states'
import { linear, ticksOf } from '../drawing/scales'
import { useComputed } from '../workers/useComputed'
import type { LayerSource } from '../workers/readInWorker'
import { LayerCanvas } from './LayerCanvas'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import drawingStyles from '../drawing/drawing.module.css'
import styles from './CompareView.module.css'

interface Side {
  name: string
  reading: PathReading
  layer: LayerSource | null
}

const signed = (v: number, digits: number) => `${v > 0 ? '+' : ''}${figure(v, digits)}`

/** How a compared value is written. */
function compared(d: ReadingDifference, value: ReadingDifference['a']): string {
  if (value === null) return '–'
  if (typeof value === 'number') return figure(value, d.digits)
  return typeof value === 'boolean' ? (value ? 'yes' : 'no') : value
}

/** Two prints side by side: what differs as printed, what it cost, by feature and by height. */
export function CompareView({
  a,
  b,
  context,
  layers,
}: {
  a: Side
  b: Side
  context: ReadingContext
  /** Layers that can be looked at from above; the first one where they are left out. */
  layers?: readonly number[]
}) {
  const input = useMemo(() => ({ a: a.reading, b: b.reading }), [a.reading, b.reading])
  const { data, error } = useComputed('compare', input)
  if (error) return <Problem error={error} />
  return data ? (
    <Comparison a={a} b={b} comparison={data} context={context} layers={layers} />
  ) : (
    <Waiting tall={420} />
  )
}

function Comparison({
  a,
  b,
  comparison: c,
  context,
  layers = [b.reading.firstLayer?.layer ?? 0],
}: {
  a: Side
  b: Side
  comparison: ReadingComparison
  context: ReadingContext
  layers?: readonly number[]
}) {
  const [layer, setLayer] = useState(layers[0])
  const grams = (mm: number) => filamentMass(mm, context.filamentDiameter, context.density)
  return (
    <div className={ui.stack}>
      <div className={clsx(ui.row, ui.between, ui.notice)}>
        <span>
          <strong className={ui.wrap}>{b.name}</strong> against <span className={ui.wrap}>{a.name}</span>:{' '}
          {c.differences.length === 1
            ? 'one thing differs'
            : c.differences.length
              ? `${c.differences.length} things differ`
              : 'nothing differs'}{' '}
          as printed
        </span>
        <span className={ui.figure}>
          {duration(c.secondsA)} → {duration(c.secondsB)} ({signed((c.secondsB - c.secondsA) / 60, 1)} min),{' '}
          {figure(c.massA, 1)} → {figure(c.massB, 1)} g ({signed(c.massB - c.massA, 1)})
        </span>
      </div>
      <div className={clsx(ui.grid2, styles.comparegrid)}>
        <section className={ui.stack} style={{ gap: 6 }}>
          <h3>What differs</h3>
          {c.differences.length === 0 ? (
            <p className={ui.faint}>The change did not reach the paths.</p>
          ) : (
            <table className={ui.plain}>
              <thead>
                <tr>
                  <th>As printed</th>
                  <th className={ui.num}>Before</th>
                  <th className={ui.num}>Now</th>
                  <th>Unit</th>
                </tr>
              </thead>
              <tbody>
                {c.differences.map((d) => (
                  <tr key={`${d.id}${d.feature ?? ''}`} data-differs={comparedLabel(d.id, d.feature)}>
                    <td>{comparedLabel(d.id, d.feature)}</td>
                    <td className={clsx(ui.num, ui.figure)}>{compared(d, d.a)}</td>
                    <td className={clsx(ui.num, ui.figure, ui.apart)}>{compared(d, d.b)}</td>
                    <td className={ui.faint}>{d.unit}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </section>
        <section className={ui.stack} style={{ gap: 6 }}>
          <h3>What it costs, by feature</h3>
          <table className={ui.plain}>
            <thead>
              <tr>
                <th>Feature</th>
                <th className={ui.num}>min before</th>
                <th className={ui.num}>now</th>
                <th className={ui.num}>g before</th>
                <th className={ui.num}>now</th>
              </tr>
            </thead>
            <tbody>
              {c.features.map((f) => (
                <tr key={f.feature}>
                  <td>{featureLabel(f.feature)}</td>
                  <td className={clsx(ui.num, ui.figure)}>{figure(f.secondsA / 60, 1)}</td>
                  <td className={clsx(ui.num, ui.figure, Math.abs(f.secondsB - f.secondsA) > 6 && ui.apart)}>
                    {figure(f.secondsB / 60, 1)}
                  </td>
                  <td className={clsx(ui.num, ui.figure)}>{figure(grams(f.fedA), 2)}</td>
                  <td
                    className={clsx(ui.num, ui.figure, Math.abs(grams(f.fedB - f.fedA)) > 0.05 && ui.apart)}
                  >
                    {figure(grams(f.fedB), 2)}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <h3>By height</h3>
          <ByHeight heights={c.heights} grams={grams} />
        </section>
      </div>
      {a.layer && b.layer && (
        <section className={ui.stack} style={{ gap: 6 }}>
          <div className={ui.row}>
            <h3>{layers.length > 1 ? 'From above' : 'First layer from above'}</h3>
            {layers.length > 1 && (
              <Segmented
                size="small"
                aria-label="Which layer"
                value={layer}
                onChange={setLayer}
                options={layers.map((l, i) => ({
                  value: l,
                  label: i ? `at ${quantity(b.reading.layers.z[l], 'mm', 1)}` : 'First layer',
                }))}
              />
            )}
          </div>
          <div className={ui.grid2}>
            <FromAbove side={a} layer={layer} />
            <FromAbove side={b} over={a} layer={layer} />
          </div>
        </section>
      )}
    </div>
  )
}

function useLayer(side: Side | undefined, layer: number): LayerPlan | null {
  const [plan, setPlan] = useState<LayerPlan | null>(null)
  const source = side?.layer
  useEffect(() => {
    let gone = false
    source?.(layer).then(
      (p) => !gone && setPlan(p),
      () => undefined,
    )
    return () => {
      gone = true
    }
  }, [source, layer])
  return plan
}

/** A layer from above; the lines of another file's may lie over it as thin strokes. */
function FromAbove({ side, over, layer }: { side: Side; over?: Side; layer: number }) {
  const plan = useLayer(side, layer)
  const other = useLayer(over, layer)
  const f = side.reading.firstLayer?.layer === layer ? side.reading.firstLayer : null
  return (
    <figure className={ui.stack} style={{ gap: 4, margin: 0 }}>
      <LayerCanvas plan={plan} over={other} width={460} height={300} />
      <figcaption className={clsx(ui.faint, ui.small, ui.wrap)}>
        {side.name}
        {over && ', thin strokes: before'}
        {f &&
          `: ${quantity(f.gaps, '%', 1)} open, ${quantity(f.overlaps, '%', 1)} laid twice, ${quantity(f.contact, 'mm²', 0)} on the bed`}
      </figcaption>
    </figure>
  )
}

const H = 260
const W = 150

/** Time and grams of each slice of height, the earlier print as an outline over the later one. */
function ByHeight({
  heights: h,
  grams,
}: {
  heights: ReadingComparison['heights']
  grams: (mm: number) => number
}) {
  const top = h.z.at(-1) ?? 1
  const y = (i: number) => 22 + (H - 30) * (1 - i / h.z.length)
  const strip = (label: string, unit: string, a: number[], b: number[], digits: number) => {
    const max = Math.max(1e-9, ...a, ...b)
    const w = (v: number) => (v / max) * (W - 10)
    const bars = b
      .map((v, i) => `M0 ${y(i).toFixed(1)}H${w(v).toFixed(1)}V${y(i + 1).toFixed(1)}H0Z`)
      .join('')
    const line = a
      .map((v, i) => `${i ? 'L' : 'M'}${w(v).toFixed(1)} ${y(i).toFixed(1)}V${y(i + 1).toFixed(1)}`)
      .join('')
    return (
      <svg
        key={label}
        width={W}
        height={H}
        role="img"
        aria-label={`${label} by height before and now`}
        style={{ flex: 'none' }}
      >
        <text x={0} y={10} className={drawingStyles.striplabel}>
          {label}
        </text>
        <text x={W - 10} y={10} textAnchor="end" className={drawingStyles.stripunit}>
          {figure(max, digits)} {unit}
        </text>
        <path d={bars} className={drawingStyles.stripbar} />
        <path d={line} className={styles.earlier} />
      </svg>
    )
  }
  return (
    <div className={ui.stack} style={{ gap: 4 }}>
      <div className={ui.row} style={{ alignItems: 'flex-start', flexWrap: 'nowrap' }}>
        <svg width={44} height={H} aria-hidden="true" style={{ flex: 'none' }}>
          {ticksOf(linear([0, top], [H - 8, 22]), 5).map((t) => (
            <text key={t.value} x={38} y={t.at + 4} textAnchor="end" className={drawingStyles.striptick}>
              {t.text}
            </text>
          ))}
        </svg>
        {strip('Time', 's', h.secondsA, h.secondsB, 0)}
        {strip('Filament', 'g', h.fedA.map(grams), h.fedB.map(grams), 2)}
      </div>
      <span className={clsx(ui.faint, ui.small)}>
        Bars: now. Line: before. Slices of {figure(top / h.z.length, 2)} mm.
      </span>
    </div>
  )
}
