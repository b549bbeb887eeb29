import {
  compareReadings,
  duration,
  figure,
  filamentMass,
  quantity,
  type LayerPlan,
  type PathReading,
  type ReadingContext,
} from '@verimend/core'
import { useEffect, useMemo, useState } from 'react'
import type { LayerSource } from '../workers/useReadGcode'
import { LayerCanvas } from './LayerCanvas'

interface Side {
  name: string
  reading: PathReading
  layer: LayerSource | null
}

const signed = (v: number, digits: number) => `${v > 0 ? '+' : ''}${figure(v, digits)}`

/** Two prints side by side: what differs as printed, what it cost, by feature and by height. */
export function CompareView({ a, b, context }: { a: Side; b: Side; context: ReadingContext }) {
  const c = useMemo(() => compareReadings(a.reading, b.reading), [a.reading, b.reading])
  const grams = (mm: number) => filamentMass(mm, context.filamentDiameter, context.density)
  return (
    <div className="stack">
      <div className="row between notice">
        <span>
          <strong className="wrap">{b.name}</strong> against <span className="wrap">{a.name}</span>:{' '}
          {c.differences.length
            ? `${c.differences.length} things differ as printed`
            : 'nothing differs as printed'}
        </span>
        <span className="figure">
          {duration(c.secondsA)} → {duration(c.secondsB)} ({signed((c.secondsB - c.secondsA) / 60, 1)} min),{' '}
          {figure(c.massA, 1)} → {figure(c.massB, 1)} g ({signed(c.massB - c.massA, 1)})
        </span>
      </div>
      <div className="grid2 comparegrid">
        <section className="stack" style={{ gap: 6 }}>
          <h3>What differs</h3>
          {c.differences.length === 0 ? (
            <p className="faint">The change did not reach the paths.</p>
          ) : (
            <table className="plain">
              <thead>
                <tr>
                  <th>As printed</th>
                  <th className="num">Before</th>
                  <th className="num">Now</th>
                  <th>Unit</th>
                </tr>
              </thead>
              <tbody>
                {c.differences.map((d) => (
                  <tr key={d.label} data-differs={d.label}>
                    <td>{d.label}</td>
                    <td className="num figure">
                      {typeof d.a === 'number' ? figure(d.a, d.digits) : (d.a ?? '–')}
                    </td>
                    <td className="num figure apart">
                      {typeof d.b === 'number' ? figure(d.b, d.digits) : (d.b ?? '–')}
                    </td>
                    <td className="faint">{d.unit}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </section>
        <section className="stack" style={{ gap: 6 }}>
          <h3>What it costs, by feature</h3>
          <table className="plain">
            <thead>
              <tr>
                <th>Feature</th>
                <th className="num">min before</th>
                <th className="num">now</th>
                <th className="num">g before</th>
                <th className="num">now</th>
              </tr>
            </thead>
            <tbody>
              {c.features.map((f) => (
                <tr key={f.name}>
                  <td>{f.name}</td>
                  <td className="num figure">{figure(f.secondsA / 60, 1)}</td>
                  <td className={`num figure${Math.abs(f.secondsB - f.secondsA) > 6 ? ' apart' : ''}`}>
                    {figure(f.secondsB / 60, 1)}
                  </td>
                  <td className="num figure">{figure(grams(f.fedA), 2)}</td>
                  <td className={`num figure${Math.abs(grams(f.fedB - f.fedA)) > 0.05 ? ' apart' : ''}`}>
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
        <section className="stack" style={{ gap: 6 }}>
          <h3>First layers</h3>
          <div className="grid2">
            <FirstLayer side={a} />
            <FirstLayer side={b} />
          </div>
        </section>
      )}
    </div>
  )
}

function FirstLayer({ side }: { side: Side }) {
  const [plan, setPlan] = useState<LayerPlan | null>(null)
  const layer = side.reading.firstLayer?.layer ?? 0
  const source = side.layer
  useEffect(() => {
    let gone = false
    void source?.(layer).then((p) => !gone && setPlan(p))
    return () => {
      gone = true
    }
  }, [source, layer])
  const f = side.reading.firstLayer
  return (
    <figure className="stack" style={{ gap: 4, margin: 0 }}>
      <LayerCanvas plan={plan} width={460} height={300} />
      <figcaption className="faint small wrap">
        {side.name}
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
  heights: ReturnType<typeof compareReadings>['heights']
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
        <text x={0} y={10} className="striplabel">
          {label}
        </text>
        <text x={W - 10} y={10} textAnchor="end" className="stripunit">
          {figure(max, digits)} {unit}
        </text>
        <path d={bars} className="stripbar" />
        <path d={line} className="earlier" />
      </svg>
    )
  }
  return (
    <div className="stack" style={{ gap: 4 }}>
      <div className="row" style={{ alignItems: 'flex-start', flexWrap: 'nowrap' }}>
        <svg width={44} height={H} aria-hidden="true" style={{ flex: 'none' }}>
          {[0, 0.25, 0.5, 0.75, 1].map((t) => (
            <text key={t} x={38} y={22 + (H - 30) * (1 - t) + 4} textAnchor="end" className="striptick">
              {figure(top * t, 1)}
            </text>
          ))}
        </svg>
        {strip('Time', 's', h.secondsA, h.secondsB, 0)}
        {strip('Filament', 'g', h.fedA.map(grams), h.fedB.map(grams), 2)}
      </div>
      <span className="faint small">
        Bars: now. Line: before. Slices of {figure(top / h.z.length, 2)} mm.
      </span>
    </div>
  )
}
