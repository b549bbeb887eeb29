import { Button, InputNumber, Select } from 'antd'
import {
  correlate,
  figure,
  layerQuantities,
  type Correlation,
  type LayerTable,
  type Mark,
  type PathReading,
  type QuantityId,
} from '@verimend/core'
import { useEffect, useMemo, useRef, useState, type PointerEvent } from 'react'

const HEIGHT = 360
const STRIP = 112
const RULE = 46
const SHAPE = 150
const USUAL: QuantityId[] = ['seconds', 'outerAsked', 'fan', 'meltPeak', 'openAir']
const KEY = 'verimend.strips'

function keptStrips(): QuantityId[] {
  try {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? 'null') as QuantityId[] | null
    return Array.isArray(kept) && kept.length ? kept : USUAL
  } catch {
    return USUAL
  }
}

/**
 * The print from the side, upright, with a millimetre rule; beside it strips of what the machine did at each
 * height. Drag over the silhouette marks a flaw, drag over a strip moves, the wheel comes closer.
 */
export function HeightSheet({
  reading,
  marks,
  onMarks,
  onPick,
}: {
  reading: PathReading
  marks: Mark[]
  onMarks?: (marks: Mark[]) => void
  /** A layer was chosen to be looked at from above. */
  onPick?: (layer: number) => void
}) {
  const { layers } = reading
  const top = layers.z.at(-1) ?? 1
  const [view, setView] = useState<[number, number]>([0, top])
  const [at, setAt] = useState<number | null>(null)
  const [picked, setPicked] = useState<QuantityId[]>(keptStrips)
  const [drawing, setDrawing] = useState<Mark | null>(null)
  const drag = useRef<{ y: number; view: [number, number]; moved: boolean } | null>(null)
  const box = useRef<HTMLDivElement>(null)
  const all = useMemo(() => layerQuantities(layers), [layers])
  const strips = picked.flatMap((id) => all.filter((q) => q.id === id))
  const [z0, z1] = view
  const span = z1 - z0
  const y = (z: number) => HEIGHT * (1 - (z - z0) / span)
  const zAt = (e: { clientY: number; currentTarget: Element }) => {
    const r = e.currentTarget.getBoundingClientRect()
    return Math.min(top, Math.max(0, z1 - ((e.clientY - r.top - 28) / HEIGHT) * span))
  }
  const clampView = (a: number, b: number): [number, number] => {
    const s = Math.min(top, Math.max(Math.min(top, 6 * (reading.layerHeight ?? 0.2)), b - a))
    const from = Math.min(Math.max(0, a), top - s)
    return [from, from + s]
  }
  const zoom = (factor: number, around: number) =>
    setView(([a, b]) => clampView(around - (around - a) * factor, around + (b - around) * factor))
  useEffect(() => {
    const node = box.current
    if (!node) return
    const onWheel = (e: WheelEvent) => {
      if (!(e.target as Element).closest('svg')) return
      e.preventDefault()
      const r = node.getBoundingClientRect()
      const share = 1 - Math.min(1, Math.max(0, (e.clientY - r.top - 28) / HEIGHT))
      setView(([a, b]) => {
        const around = a + share * (b - a)
        const f = e.deltaY > 0 ? 1.2 : 1 / 1.2
        return clampView(around - (around - a) * f, around + (b - around) * f)
      })
    }
    node.addEventListener('wheel', onWheel, { passive: false })
    return () => node.removeEventListener('wheel', onWheel)
  })
  const step = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100].find((s) => span / s <= 10) ?? 100
  const ticks = Array.from(
    { length: Math.floor(z1 / step + 1e-9) - Math.ceil(z0 / step - 1e-9) + 1 },
    (_, i) => (Math.ceil(z0 / step - 1e-9) + i) * step,
  )
  const layerAt = (z: number) => {
    let low = 0
    let high = layers.z.length - 1
    while (low < high) {
      const mid = (low + high) >> 1
      if (layers.z[mid] < z) low = mid + 1
      else high = mid
    }
    return low
  }
  const hover = (e: PointerEvent<SVGSVGElement>) => setAt(layerAt(zAt(e)))
  const bands = (width: number) => (
    <>
      {[...marks, ...(drawing ? [drawing] : [])].map((m, i) => (
        <rect
          key={i}
          x={0}
          width={width}
          y={y(Math.max(m.from, m.to))}
          height={Math.max(1, Math.abs(y(m.from) - y(m.to)))}
          className="flawband"
        />
      ))}
      {at !== null && layers.z[at] >= z0 && layers.z[at] <= z1 && (
        <line x1={0} x2={width} y1={y(layers.z[at])} y2={y(layers.z[at])} className="cursor" />
      )}
    </>
  )
  const pan = {
    onPointerDown: (e: PointerEvent<SVGSVGElement>) => {
      e.currentTarget.setPointerCapture(e.pointerId)
      drag.current = { y: e.clientY, view, moved: false }
    },
    onPointerMove: (e: PointerEvent<SVGSVGElement>) => {
      hover(e)
      const d = drag.current
      if (!d) return
      const by = ((e.clientY - d.y) / HEIGHT) * (d.view[1] - d.view[0])
      if (Math.abs(e.clientY - d.y) > 3) d.moved = true
      if (d.moved) setView(clampView(d.view[0] + by, d.view[1] + by))
    },
    onPointerUp: (e: PointerEvent<SVGSVGElement>) => {
      if (drag.current && !drag.current.moved) onPick?.(layerAt(zAt(e)))
      drag.current = null
    },
    onPointerLeave: () => setAt(null),
  }
  const brush = onMarks
    ? {
        onPointerDown: (e: PointerEvent<SVGSVGElement>) => {
          e.currentTarget.setPointerCapture(e.pointerId)
          const z = zAt(e)
          setDrawing({ from: z, to: z })
        },
        onPointerMove: (e: PointerEvent<SVGSVGElement>) => {
          hover(e)
          const z = zAt(e)
          setDrawing((d) => d && { ...d, to: z })
        },
        onPointerUp: () => {
          if (drawing && Math.abs(drawing.to - drawing.from) > 0.5 * (reading.layerHeight ?? 0.2))
            onMarks([
              ...marks,
              {
                from: Number(Math.min(drawing.from, drawing.to).toFixed(1)),
                to: Number(Math.max(drawing.from, drawing.to).toFixed(1)),
              },
            ])
          setDrawing(null)
        },
        onPointerLeave: () => setAt(null),
      }
    : pan
  return (
    <div className="stack" style={{ gap: 8 }}>
      <div className="row">
        <Select
          mode="multiple"
          value={picked}
          maxTagCount={0}
          maxTagPlaceholder={`${picked.length} strips`}
          aria-label="Strips to show"
          onChange={(v) => {
            setPicked(v)
            localStorage.setItem(KEY, JSON.stringify(v))
          }}
          options={all.map((q) => ({ value: q.id, label: q.label }))}
          style={{ minWidth: 150 }}
          popupMatchSelectWidth={240}
        />
        <Button size="small" onClick={() => zoom(1 / 1.6, (z0 + z1) / 2)}>
          Closer
        </Button>
        <Button size="small" onClick={() => zoom(1.6, (z0 + z1) / 2)}>
          Wider
        </Button>
        <Button size="small" disabled={span >= top - 1e-6} onClick={() => setView([0, top])}>
          Whole height
        </Button>
        {at !== null && (
          <span className="figure faint">
            layer {at + 1}, {figure(layers.z[at], 2)} mm
          </span>
        )}
      </div>
      <div className="strips tablewrap" ref={box} tabIndex={0} role="group" aria-label="Strips by height">
        <div className="row" style={{ alignItems: 'flex-start', flexWrap: 'nowrap', gap: 10 }}>
          <svg width={RULE} height={HEIGHT + 34} aria-hidden="true" style={{ flex: 'none' }}>
            <text x={RULE - 8} y={12} textAnchor="end" className="stripunit">
              mm
            </text>
            <g transform="translate(0 28)">
              {ticks.map((t) => (
                <g key={t}>
                  <line x1={RULE - 6} x2={RULE} y1={y(t)} y2={y(t)} className="rule" />
                  <text x={RULE - 9} y={y(t) + 3.5} textAnchor="end" className="striptick">
                    {figure(t, 1)}
                  </text>
                </g>
              ))}
            </g>
          </svg>
          <svg
            width={SHAPE}
            height={HEIGHT + 34}
            role="img"
            aria-label={`The print from the front, ${figure(top, 1)} mm tall${onMarks ? '. Drag to mark where the flaw is' : ''}`}
            style={{ flex: 'none', cursor: onMarks ? 'crosshair' : 'grab', touchAction: 'none' }}
            data-testid="silhouette"
            {...brush}
          >
            <text x={0} y={10} className="striplabel">
              The part
            </text>
            <text x={0} y={23} className="stripunit">
              {onMarks ? 'drag: mark the flaw' : 'from the front'}
            </text>
            <g transform="translate(0 28)" clipPath="url(#sheetclip)">
              <rect width={SHAPE} height={HEIGHT} className="stripback" />
              <Silhouette layers={layers} box={reading.box} y={y} />
              {bands(SHAPE)}
            </g>
            <defs>
              <clipPath id="sheetclip">
                <rect width={1000} height={HEIGHT} />
              </clipPath>
            </defs>
          </svg>
          {strips.map((s) => {
            const max = Math.max(1e-9, ...s.values.map((v) => v ?? 0))
            let path = ''
            s.values.forEach((v, i) => {
              if (v === null) return
              const from = i ? layers.z[i - 1] : 0
              if (layers.z[i] < z0 || from > z1) return
              const w = (v / max) * (STRIP - 6)
              path += `M0 ${y(from).toFixed(1)}H${w.toFixed(1)}V${y(layers.z[i]).toFixed(1)}H0Z`
            })
            const shown = at === null ? null : s.values[at]
            return (
              <svg
                key={s.id}
                width={STRIP}
                height={HEIGHT + 34}
                role="img"
                aria-label={`${s.label} by height, at most ${figure(max, s.digits)} ${s.unit}`}
                style={{ flex: 'none', cursor: 'grab', touchAction: 'none' }}
                {...pan}
              >
                <text x={0} y={10} className="striplabel">
                  {s.label}
                </text>
                <text x={0} y={23} className="stripunit">
                  {at === null
                    ? `0–${figure(max, s.digits)} ${s.unit}`
                    : `${shown === null ? '–' : figure(shown ?? 0, s.digits)} ${s.unit}`}
                </text>
                <g transform="translate(0 28)" clipPath="url(#sheetclip)">
                  <rect width={STRIP - 6} height={HEIGHT} className="stripback" />
                  <path d={path} className="stripbar" />
                  {bands(STRIP - 6)}
                </g>
              </svg>
            )
          })}
        </div>
      </div>
      {onMarks && <MarkList marks={marks} top={top} onMarks={onMarks} />}
    </div>
  )
}

function Silhouette({
  layers,
  box,
  y,
}: {
  layers: LayerTable
  box: PathReading['box']
  y: (z: number) => number
}) {
  if (!box) return null
  const wide = Math.max(1, box.maxX - box.minX)
  const scale = (SHAPE - 16) / wide
  let path = ''
  layers.spans.forEach((spans, i) => {
    const from = i ? layers.z[i - 1] : 0
    for (const [a, b] of spans)
      path += `M${(8 + (a - box.minX) * scale).toFixed(1)} ${y(from).toFixed(1)}H${(8 + (b - box.minX) * scale).toFixed(1)}V${y(layers.z[i]).toFixed(1)}H${(8 + (a - box.minX) * scale).toFixed(1)}Z`
  })
  return <path d={path} className="silhouette" />
}

/** The marked heights, to be typed, corrected and taken away. */
function MarkList({ marks, top, onMarks }: { marks: Mark[]; top: number; onMarks: (marks: Mark[]) => void }) {
  const set = (i: number, part: Partial<Mark>) =>
    onMarks(marks.map((m, k) => (k === i ? { ...m, ...part } : m)))
  return (
    <div className="row">
      {marks.map((m, i) => (
        <span key={i} className="row markrow" style={{ gap: 4 }}>
          <InputNumber
            size="small"
            min={0}
            max={top}
            step={0.2}
            value={m.from}
            aria-label={`Flaw ${i + 1}, from, mm`}
            onChange={(v) => typeof v === 'number' && set(i, { from: v })}
            style={{ width: 74 }}
          />
          –
          <InputNumber
            size="small"
            min={0}
            max={top}
            step={0.2}
            value={m.to}
            aria-label={`Flaw ${i + 1}, to, mm`}
            onChange={(v) => typeof v === 'number' && set(i, { to: v })}
            style={{ width: 74 }}
          />
          <span style={{ marginRight: 4 }}>mm</span>
          <Button size="small" type="text" onClick={() => onMarks(marks.filter((_, k) => k !== i))}>
            Remove
          </Button>
        </span>
      ))}
      <Button
        size="small"
        onClick={() =>
          onMarks([...marks, { from: Number((top * 0.45).toFixed(1)), to: Number((top * 0.55).toFixed(1)) }])
        }
      >
        {marks.length ? 'Mark another height' : 'Mark a height'}
      </Button>
      {marks.length > 1 && (
        <Button size="small" type="text" onClick={() => onMarks([])}>
          Clear
        </Button>
      )}
    </div>
  )
}

/** What changes where the flaw was marked, strongest first; one click makes it evidence. */
export function MarkMatches({
  reading,
  marks,
  taken,
  onTake,
}: {
  reading: PathReading
  marks: Mark[]
  taken?: string[]
  onTake?: (match: Correlation) => void
}) {
  const matches = useMemo(() => correlate(reading.layers, marks), [reading.layers, marks])
  if (!marks.length) return null
  if (!matches.length)
    return (
      <p className="notice">
        Nothing the machine was told changes at these heights. Then it is not in the paths: look at the
        machine and the filament.
      </p>
    )
  const worth = matches.filter((m, i) => i < 6 && (i === 0 || m.strength > 0.15))
  return (
    <div className="stack" style={{ gap: 6 }} aria-label="What changes there">
      <strong>What changes there</strong>
      {worth[0].p > 0.2 && (
        <p className="faint small">
          None of it stands out: as strong a match is found by accident in {figure(worth[0].p * 100, 0)} of
          100 places.
        </p>
      )}
      <table className="plain matches">
        <thead>
          <tr>
            <th>Quantity</th>
            <th className="num">Match</th>
            <th className="num" title="Chance of so strong a match if the marks lay anywhere else">
              p
            </th>
            <th>
              <span className="visually-hidden">Evidence</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {worth.map((m) => (
            <tr key={m.id} data-match={m.id}>
              <td>{m.sentence}</td>
              <td className="num figure">
                {figure(m.strength * 100, 0)} %
                <div className="gauge" aria-hidden="true">
                  <i style={{ width: `${m.strength * 100}%` }} />
                </div>
              </td>
              <td className="num figure">{m.p < 0.001 ? '< 0.001' : figure(m.p, 3)}</td>
              <td className="num">
                {onTake &&
                  (taken?.includes(m.id) ? (
                    <span className="tag good">evidence</span>
                  ) : (
                    <Button size="small" onClick={() => onTake(m)}>
                      Make it evidence
                    </Button>
                  ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
