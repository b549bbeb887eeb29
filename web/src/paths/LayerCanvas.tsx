import { Button, InputNumber, Segmented, Slider } from 'antd'
import {
  FEATURE_NAMES,
  Feature,
  LINE_STRIDE,
  START_STRIDE,
  TRAVEL_STRIDE,
  figure,
  quantity,
  type LayerPlan,
  type PathReading,
} from '@verimend/core'
import { useCallback, useEffect, useRef, useState, type PointerEvent } from 'react'
import { useMode } from '../theme/mode'
import { PALETTES } from '../theme/theme'
import type { LayerSource } from '../workers/useReadGcode'
import { cividis } from '../parts/cividis'

type View = { x: number; y: number; scale: number }
type Shade = 'feature' | 'speed'

/** Muted tints; lines are told apart by weight and dash first. Strength of ink by feature. */
const INK: Record<number, { tint: [string, string]; alpha: number }> = {
  [Feature.Outer]: { tint: ['#1c2826', '#e8e6df'], alpha: 0.78 },
  [Feature.Inner]: { tint: ['#7d837c', '#9aa39d'], alpha: 0.55 },
  [Feature.Solid]: { tint: ['#b9b2a0', '#6d6a5e'], alpha: 0.6 },
  [Feature.Sparse]: { tint: ['#a7b1a9', '#66736c'], alpha: 0.55 },
  [Feature.Bridge]: { tint: ['#8f86a0', '#8a83a3'], alpha: 0.6 },
  [Feature.Skirt]: { tint: ['#47597a', '#9db1d6'], alpha: 0.45 },
  [Feature.Brim]: { tint: ['#47597a', '#9db1d6'], alpha: 0.5 },
  [Feature.Raft]: { tint: ['#8c7f63', '#8c7f63'], alpha: 0.5 },
  [Feature.Support]: { tint: ['#9aa88f', '#71806a'], alpha: 0.45 },
  [Feature.Thin]: { tint: ['#1c2826', '#e8e6df'], alpha: 0.6 },
  [Feature.None]: { tint: ['#888888', '#888888'], alpha: 0.4 },
}

/** One layer from above, beads at their true width; loop starts and ends, wipes, and how the head crosses the air. */
export function LayerView({
  reading,
  source,
  layer,
  onLayer,
}: {
  reading: PathReading
  source: LayerSource
  layer: number
  onLayer: (layer: number) => void
}) {
  const [plan, setPlan] = useState<LayerPlan | null>(null)
  const [shade, setShade] = useState<Shade>('feature')
  const count = reading.layerCount
  useEffect(() => {
    let gone = false
    void source(layer).then((p) => !gone && setPlan(p))
    return () => {
      gone = true
    }
  }, [source, layer])
  const first = reading.firstLayer?.layer === layer ? reading.firstLayer : null
  return (
    <div className="stack" style={{ gap: 8 }}>
      <div className="row">
        <label className="row" style={{ gap: 6 }}>
          Layer
          <InputNumber
            size="small"
            min={1}
            max={count}
            value={layer + 1}
            onChange={(v) => typeof v === 'number' && onLayer(Math.round(v) - 1)}
            aria-label="Layer"
            style={{ width: 84 }}
          />
          <span className="figure faint">
            of {count}, {figure(reading.layers.z[layer] ?? 0, 2)} mm
          </span>
        </label>
        <Segmented
          size="small"
          value={shade}
          onChange={(v) => setShade(v as Shade)}
          options={[
            { value: 'feature', label: 'By feature' },
            { value: 'speed', label: 'By speed' },
          ]}
        />
      </div>
      <div className="layersplit">
        <Slider
          vertical
          min={0}
          max={Math.max(1, count - 1)}
          value={layer}
          onChange={onLayer}
          tooltip={{ formatter: (v) => `${figure(reading.layers.z[v ?? 0] ?? 0, 2)} mm` }}
          ariaLabelForHandle="Layer by height"
          style={{ height: 420 }}
        />
        <LayerCanvas plan={plan} shade={shade} />
        <div className="stack small" style={{ gap: 8, minWidth: 180 }}>
          {plan && <Legend plan={plan} shade={shade} />}
          {first && (
            <table className="plain">
              <tbody>
                <tr>
                  <td className="faint">Left open</td>
                  <td className="num figure">{quantity(first.gaps, '%', 1)}</td>
                </tr>
                <tr>
                  <td className="faint">Laid twice</td>
                  <td className="num figure">{quantity(first.overlaps, '%', 1)}</td>
                </tr>
                <tr>
                  <td className="faint">On the bed</td>
                  <td className="num figure">{quantity(first.contact, 'mm²', 0)}</td>
                </tr>
                <tr>
                  <td className="faint">Islands</td>
                  <td className="num figure">
                    {first.islands}
                    {first.islands > 1 && `, least ${quantity(first.smallestIsland, 'mm²', 0)}`}
                  </td>
                </tr>
                <tr>
                  <td className="faint">Bead</td>
                  <td className="num figure">{quantity(first.width, 'mm', 2)}</td>
                </tr>
                <tr>
                  <td className="faint">Around it</td>
                  <td className="num">
                    {[
                      reading.base.skirt && 'skirt',
                      reading.base.brim && 'brim',
                      reading.base.raftLayers && `raft of ${reading.base.raftLayers}`,
                    ]
                      .filter(Boolean)
                      .join(', ') || 'nothing'}
                  </td>
                </tr>
              </tbody>
            </table>
          )}
        </div>
      </div>
    </div>
  )
}

function Legend({ plan, shade }: { plan: LayerPlan; shade: Shade }) {
  const { mode } = useMode()
  const dark = mode === 'dark' ? 1 : 0
  const lengths = new Map<number, number>()
  let least = Infinity
  let most = 0
  for (let i = 0; i < plan.lines.length; i += LINE_STRIDE) {
    const f = plan.lines[i + 5]
    const d = Math.hypot(plan.lines[i + 2] - plan.lines[i], plan.lines[i + 3] - plan.lines[i + 1])
    lengths.set(f, (lengths.get(f) ?? 0) + d)
    least = Math.min(least, plan.lines[i + 6])
    most = Math.max(most, plan.lines[i + 6])
  }
  let bare = 0
  let pulled = 0
  for (let i = 0; i < plan.travels.length; i += TRAVEL_STRIDE) {
    if (plan.travels[i + 4] === 2) bare++
    else if (plan.travels[i + 4] === 1) pulled++
  }
  return (
    <ul className="legend">
      {shade === 'feature' ? (
        [...lengths]
          .sort((a, b) => a[0] - b[0])
          .map(([f, d]) => (
            <li key={f}>
              <i style={{ background: INK[f].tint[dark], opacity: INK[f].alpha }} />
              {FEATURE_NAMES[f]} <span className="figure faint">{figure(d, 0)} mm</span>
            </li>
          ))
      ) : (
        <li>
          <i
            style={{
              width: 70,
              background: `linear-gradient(90deg, ${[0, 0.25, 0.5, 0.75, 1].map((t) => cividis(t)).join(',')})`,
            }}
          />
          <span className="figure">
            {figure(least, 0)}–{quantity(most, 'mm/s', 0)}
          </span>
        </li>
      )}
      <li>
        <svg width="18" height="10">
          <circle cx="5" cy="5" r="3.4" className="startdot" />
        </svg>
        outline starts
      </li>
      <li>
        <svg width="18" height="10">
          <path d="M2 5H16" className="airbare" />
        </svg>
        air, no pull-back <span className="figure faint">{bare}</span>
      </li>
      <li>
        <svg width="18" height="10">
          <path d="M2 5H16" className="airpulled" />
        </svg>
        air, pulled back <span className="figure faint">{pulled}</span>
      </li>
      <li>
        <svg width="18" height="10">
          <path d="M2 5H16" className="inside" />
        </svg>
        inside the part
      </li>
    </ul>
  )
}

const WIDTH = 620
const TALL = 420

export function LayerCanvas({
  plan,
  shade = 'feature',
  width = WIDTH,
  height = TALL,
}: {
  plan: LayerPlan | null
  shade?: Shade
  width?: number
  height?: number
}) {
  const { mode } = useMode()
  const canvas = useRef<HTMLCanvasElement>(null)
  const [view, setView] = useState<View | null>(null)
  const drag = useRef<{ x: number; y: number; view: View } | null>(null)
  const fit = useCallback(
    (p: LayerPlan): View => {
      const { minX, minY, maxX, maxY } = p.box
      const scale = Math.min(width / (maxX - minX + 6), height / (maxY - minY + 6))
      return { x: (minX + maxX) / 2, y: (minY + maxY) / 2, scale }
    },
    [width, height],
  )
  const now = view ?? (plan && fit(plan))
  useEffect(() => {
    const c = canvas.current
    if (!c || !plan || !now) return
    const ratio = window.devicePixelRatio || 1
    c.width = width * ratio
    c.height = height * ratio
    const g = c.getContext('2d')!
    g.setTransform(ratio, 0, 0, ratio, 0, 0)
    paint(g, plan, now, shade, mode, width, height)
  }, [plan, now, shade, mode, width, height])
  const zoomAt = (factor: number, px = width / 2, py = height / 2) =>
    setView(() => {
      if (!now) return null
      const wx = now.x + (px - width / 2) / now.scale
      const wy = now.y - (py - height / 2) / now.scale
      const scale = Math.min(400, Math.max(0.4, now.scale * factor))
      return { scale, x: wx - (px - width / 2) / scale, y: wy + (py - height / 2) / scale }
    })
  useEffect(() => {
    const c = canvas.current
    if (!c) return
    const onWheel = (e: WheelEvent) => {
      e.preventDefault()
      const r = c.getBoundingClientRect()
      zoomAt(
        e.deltaY > 0 ? 1 / 1.2 : 1.2,
        ((e.clientX - r.left) / r.width) * width,
        ((e.clientY - r.top) / r.height) * height,
      )
    }
    c.addEventListener('wheel', onWheel, { passive: false })
    return () => c.removeEventListener('wheel', onWheel)
  })
  return (
    <div className="stack" style={{ gap: 6, minWidth: 0 }}>
      <canvas
        ref={canvas}
        className="layercanvas"
        style={{ width: '100%', maxWidth: width, aspectRatio: `${width} / ${height}` }}
        role="img"
        tabIndex={0}
        aria-label={
          plan
            ? `Layer ${plan.layer + 1} from above, ${plan.lines.length / LINE_STRIDE} lines. Plus and minus come closer and go away, arrows move.`
            : 'A layer from above'
        }
        onKeyDown={(e) => {
          if (e.key === '+') zoomAt(1.3)
          else if (e.key === '-') zoomAt(1 / 1.3)
          else if (e.key.startsWith('Arrow') && now) {
            e.preventDefault()
            const by = 40 / now.scale
            setView({
              ...now,
              x: now.x + (e.key === 'ArrowRight' ? by : e.key === 'ArrowLeft' ? -by : 0),
              y: now.y + (e.key === 'ArrowUp' ? by : e.key === 'ArrowDown' ? -by : 0),
            })
          }
        }}
        onPointerDown={(e: PointerEvent<HTMLCanvasElement>) => {
          e.currentTarget.setPointerCapture(e.pointerId)
          if (now) drag.current = { x: e.clientX, y: e.clientY, view: now }
        }}
        onPointerMove={(e) => {
          const d = drag.current
          if (!d) return
          const k = width / e.currentTarget.getBoundingClientRect().width
          setView({
            ...d.view,
            x: d.view.x - ((e.clientX - d.x) * k) / d.view.scale,
            y: d.view.y + ((e.clientY - d.y) * k) / d.view.scale,
          })
        }}
        onPointerUp={() => (drag.current = null)}
      />
      <div className="row">
        <Button size="small" onClick={() => zoomAt(1.5)}>
          Closer
        </Button>
        <Button size="small" onClick={() => zoomAt(1 / 1.5)}>
          Away
        </Button>
        <Button size="small" disabled={!view} onClick={() => setView(null)}>
          Whole layer
        </Button>
      </div>
    </div>
  )
}

function paint(
  g: CanvasRenderingContext2D,
  plan: LayerPlan,
  view: View,
  shade: Shade,
  mode: 'light' | 'dark',
  width: number,
  height: number,
): void {
  const p = PALETTES[mode]
  const dark = mode === 'dark' ? 1 : 0
  const X = (x: number) => width / 2 + (x - view.x) * view.scale
  const Y = (y: number) => height / 2 - (y - view.y) * view.scale
  // the dark end of the ramp needs a lighter ground
  g.fillStyle = shade === 'speed' && dark ? '#4a5551' : p.sheet
  g.fillRect(0, 0, width, height)
  // a rule of tens of millimetres under everything
  g.strokeStyle = p.rule
  g.lineWidth = 0.5
  const step = [1, 2, 5, 10, 20, 50].find((s) => s * view.scale >= 42) ?? 100
  g.beginPath()
  for (let x = Math.ceil((view.x - width / 2 / view.scale) / step) * step; X(x) < width; x += step) {
    g.moveTo(X(x), 0)
    g.lineTo(X(x), height)
  }
  for (let y = Math.ceil((view.y - height / 2 / view.scale) / step) * step; Y(y) > 0; y += step) {
    g.moveTo(0, Y(y))
    g.lineTo(width, Y(y))
  }
  g.stroke()
  const { lines } = plan
  let least = Infinity
  let most = 0
  if (shade === 'speed')
    for (let i = 6; i < lines.length; i += LINE_STRIDE) {
      least = Math.min(least, lines[i])
      most = Math.max(most, lines[i])
    }
  // lines run round at their ends, drawn through: where two lie over each other it is darker
  g.lineCap = 'round'
  for (let i = 0; i < lines.length; i += LINE_STRIDE) {
    const f = lines[i + 5]
    const ink = INK[f] ?? INK[0]
    g.globalAlpha = shade === 'speed' ? 0.85 : ink.alpha
    g.strokeStyle =
      shade === 'speed' ? cividis(most > least ? (lines[i + 6] - least) / (most - least) : 1) : ink.tint[dark]
    g.lineWidth = Math.max(0.6, lines[i + 4] * view.scale)
    g.setLineDash(f === Feature.Support || f === Feature.Skirt ? [6, 4] : [])
    if (f === Feature.Support || f === Feature.Skirt) g.lineCap = 'butt'
    else g.lineCap = 'round'
    g.beginPath()
    g.moveTo(X(lines[i]), Y(lines[i + 1]))
    g.lineTo(X(lines[i + 2]), Y(lines[i + 3]))
    g.stroke()
  }
  g.globalAlpha = 1
  for (const [kind, colour, dash, w] of [
    [0, p.faint, [1, 3], 0.7],
    [1, p.info, [5, 3], 1],
    [2, p.fault, [], 1.6],
  ] as const) {
    g.strokeStyle = colour
    g.setLineDash([...dash])
    g.lineWidth = w
    g.beginPath()
    for (let i = 0; i < plan.travels.length; i += TRAVEL_STRIDE) {
      if (plan.travels[i + 4] !== kind) continue
      g.moveTo(X(plan.travels[i]), Y(plan.travels[i + 1]))
      g.lineTo(X(plan.travels[i + 2]), Y(plan.travels[i + 3]))
    }
    g.stroke()
  }
  g.setLineDash([])
  const { starts } = plan
  for (let i = 0; i < starts.length; i += START_STRIDE) {
    const sx = X(starts[i])
    const sy = Y(starts[i + 1])
    // an early stop shows as a gap between the end of the feed and the start
    const gap = Math.hypot(starts[i + 2] - starts[i], starts[i + 3] - starts[i + 1])
    if (gap > 0.03) {
      g.strokeStyle = p.caution
      g.lineWidth = 2
      g.beginPath()
      g.moveTo(X(starts[i + 2]), Y(starts[i + 3]))
      g.lineTo(sx, sy)
      g.stroke()
    }
    g.fillStyle = p.action
    g.strokeStyle = p.sheet
    g.lineWidth = 1
    g.beginPath()
    g.arc(sx, sy, 3.6, 0, 2 * Math.PI)
    g.fill()
    g.stroke()
    const line = lineAt(lines, starts[i], starts[i + 1])
    if (line >= 0) {
      // which way it goes
      const dx = lines[line + 2] - lines[line]
      const dy = lines[line + 3] - lines[line + 1]
      const d = Math.hypot(dx, dy) || 1
      g.strokeStyle = p.action
      g.lineWidth = 1.6
      g.beginPath()
      g.moveTo(sx, sy)
      g.lineTo(sx + (dx / d) * 12, sy - (dy / d) * 12)
      g.stroke()
    }
  }
}

function lineAt(lines: Float32Array, x: number, y: number): number {
  for (let i = 0; i < lines.length; i += LINE_STRIDE)
    if (Math.abs(lines[i] - x) < 1e-3 && Math.abs(lines[i + 1] - y) < 1e-3) return i
  return -1
}
