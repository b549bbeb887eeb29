import { Button, Select } from 'antd'
import { figure } from '@verimend/core/quantity'
import {
  layerQuantities,
  type HeightRange,
  type LayerQuantity,
  type LayerTable,
  type PathReading,
  type QuantityId,
} from '@verimend/core/toolpath'
import {
  useId,
  useMemo,
  useRef,
  useState,
  type MouseEvent,
  type PointerEvent,
  type ReactNode,
  type SVGProps,
} from 'react'
import { UprightTicks, linear, type Scale } from '../drawing/scales'
import { usePanZoom } from '../drawing/usePanZoom'
import { HeightRanges } from './HeightRanges'
import { clsx } from 'clsx'
import ui from '../components/ui.module.css'
import drawingStyles from '../drawing/drawing.module.css'
import styles from './HeightSheet.module.css'

/** Room for words above a strip, and height of what is drawn, px. */
const HEAD = 28
const HEIGHT = 360
const FOOT = 6
const TALL = HEAD + HEIGHT + FOOT
/** Widths of the rule, the silhouette and a strip, px. */
const RULE = 46
const SHAPE = 150
const STRIP = 112
/** Layers that are seen at least. */
const LEAST_LAYERS = 6
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

/** The layer whose top lies at a height or next above it. */
function layerAt({ z }: LayerTable, height: number): number {
  let low = 0
  let high = z.length - 1
  while (low < high) {
    const mid = (low + high) >> 1
    if (z[mid] < height) low = mid + 1
    else high = mid
  }
  return low
}

/**
 * The print from the side, upright, with a millimetre rule; beside it strips of what the machine did at each
 * height. Drag over the silhouette marks a flaw, drag over a strip moves, the wheel comes closer.
 */
export function HeightSheet({
  reading,
  ranges,
  onRanges,
  onPick,
}: {
  reading: PathReading
  ranges: readonly HeightRange[]
  onRanges?: (ranges: HeightRange[]) => void
  /** A layer was chosen to be looked at from above. */
  onPick?: (layer: number) => void
}) {
  const { layers, box } = reading
  const top = layers.z.at(-1) ?? 1
  const layerHeight = reading.layerHeight ?? 0.2
  const [hovered, setHovered] = useState<number | null>(null)
  const [picked, setPicked] = useState<QuantityId[]>(keptStrips)
  const [drawing, setDrawing] = useState<HeightRange | null>(null)
  const drawn = useRef<HeightRange | null>(null)
  const { ref, transform, whole, zoomBy, reset, onKeyDown } = usePanZoom<HTMLDivElement>({
    width: SHAPE,
    height: HEIGHT,
    top: HEAD,
    axes: 'y',
    closest: top / (LEAST_LAYERS * layerHeight),
    notOn: '[data-brush]',
  })
  const y = useMemo(
    () => transform.rescaleY(linear([0, top], [HEAD + HEIGHT, HEAD])) as Scale,
    [transform, top],
  )
  const all = useMemo(() => layerQuantities(layers), [layers])
  const strips = picked.flatMap((id) => all.filter((q) => q.id === id))
  const heightAt = (e: { clientY: number; currentTarget: Element }) =>
    Math.min(top, Math.max(0, y.invert(e.clientY - e.currentTarget.getBoundingClientRect().top)))
  const hover = {
    onPointerMove: (e: PointerEvent<SVGSVGElement>) => setHovered(layerAt(layers, heightAt(e))),
    onPointerLeave: () => setHovered(null),
  }
  const pick = onPick && {
    onClick: (e: MouseEvent<SVGSVGElement>) => onPick(layerAt(layers, heightAt(e))),
  }
  const show = (range: HeightRange | null) => {
    drawn.current = range
    setDrawing(range)
  }
  const brush = onRanges && {
    'data-brush': true,
    onPointerDown: (e: PointerEvent<SVGSVGElement>) => {
      e.currentTarget.setPointerCapture(e.pointerId)
      const z = heightAt(e)
      show({ from: z, to: z })
    },
    onPointerMove: (e: PointerEvent<SVGSVGElement>) => {
      hover.onPointerMove(e)
      if (drawn.current) show({ ...drawn.current, to: heightAt(e) })
    },
    onPointerUp: () => {
      const range = drawn.current
      if (range && Math.abs(range.to - range.from) > 0.5 * layerHeight) {
        const [from, to] = [range.from, range.to].sort((a, b) => a - b)
        onRanges([...ranges, { from: Number(from.toFixed(1)), to: Number(to.toFixed(1)) }])
      }
      show(null)
    },
    onPointerCancel: () => show(null),
    onPointerLeave: hover.onPointerLeave,
  }
  const overlay = (width: number) => (
    <>
      {[...ranges, ...(drawing ? [drawing] : [])].map((m, i) => (
        <rect
          key={i}
          x={0}
          width={width}
          y={y(Math.max(m.from, m.to))}
          height={Math.max(1, Math.abs(y(m.from) - y(m.to)))}
          className={styles.flawband}
        />
      ))}
      {hovered !== null && (
        <line
          x1={0}
          x2={width}
          y1={y(layers.z[hovered])}
          y2={y(layers.z[hovered])}
          className={drawingStyles.cursor}
        />
      )}
    </>
  )
  return (
    <div className={ui.stack} style={{ gap: 8 }}>
      <div className={ui.row}>
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
        <Button size="small" onClick={() => zoomBy(1.6)}>
          Closer
        </Button>
        <Button size="small" disabled={whole} onClick={() => zoomBy(1 / 1.6)}>
          Wider
        </Button>
        <Button size="small" disabled={whole} onClick={reset}>
          Whole height
        </Button>
        {hovered !== null && (
          <span className={clsx(ui.figure, ui.faint)}>
            layer {hovered + 1}, {figure(layers.z[hovered], 2)} mm
          </span>
        )}
      </div>
      <div
        className={styles.strips}
        ref={ref}
        tabIndex={0}
        role="group"
        aria-label="Strips by height. Use + and − to zoom and the arrow keys to move."
        onKeyDown={onKeyDown}
      >
        <svg width={RULE} height={TALL} aria-hidden="true">
          <text x={RULE - 8} y={12} textAnchor="end" className={drawingStyles.stripunit}>
            mm
          </text>
          <UprightTicks scale={y} x={RULE} />
        </svg>
        <svg
          width={SHAPE}
          height={TALL}
          role="img"
          aria-label={`The print from the front, ${figure(top, 1)} mm tall${onRanges ? '. Drag to mark where the flaw is' : ''}`}
          data-testid="silhouette"
          {...hover}
          {...pick}
          {...brush}
        >
          <text x={0} y={10} className={drawingStyles.striplabel}>
            The part
          </text>
          <text x={0} y={23} className={drawingStyles.stripunit}>
            {onRanges ? 'drag: mark the flaw' : 'from the front'}
          </text>
          <Clipped width={SHAPE}>
            <rect y={HEAD} width={SHAPE} height={HEIGHT} className={drawingStyles.stripback} />
            <Silhouette layers={layers} box={box} y={y} />
            {overlay(SHAPE)}
          </Clipped>
        </svg>
        {strips.map((s) => (
          <Strip key={s.id} quantity={s} layers={layers} y={y} hovered={hovered} {...hover} {...pick}>
            {overlay(STRIP - 6)}
          </Strip>
        ))}
      </div>
      {onRanges && <HeightRanges ranges={ranges} top={top} onRanges={onRanges} />}
    </div>
  )
}

/** What lies within the drawn height. */
function Clipped({ width, children }: { width: number; children: ReactNode }) {
  const id = useId()
  return (
    <>
      <defs>
        <clipPath id={id}>
          <rect y={HEAD - 2} width={width} height={HEIGHT + 4} />
        </clipPath>
      </defs>
      <g clipPath={`url(#${id})`}>{children}</g>
    </>
  )
}

/** One quantity by height. */
function Strip({
  quantity: q,
  layers,
  y,
  hovered,
  children,
  ...handlers
}: {
  quantity: LayerQuantity
  layers: LayerTable
  y: Scale
  hovered: number | null
  children: ReactNode
} & Omit<SVGProps<SVGSVGElement>, 'y'>) {
  const max = Math.max(1e-9, ...q.values.map((v) => v ?? 0))
  const x = linear([0, max], [0, STRIP - 6])
  let path = ''
  q.values.forEach((v, i) => {
    if (v === null) return
    const low = y(i ? layers.z[i - 1] : 0)
    const high = y(layers.z[i])
    if (low < HEAD || high > HEAD + HEIGHT) return
    path += `M0 ${low.toFixed(1)}H${x(v).toFixed(1)}V${high.toFixed(1)}H0Z`
  })
  const value = hovered === null ? null : q.values[hovered]
  const shown =
    hovered === null ? `0–${figure(max, q.digits)}` : value === null ? '–' : figure(value, q.digits)
  return (
    <svg
      width={STRIP}
      height={TALL}
      role="img"
      aria-label={`${q.label} by height, at most ${figure(max, q.digits)} ${q.unit}`}
      {...handlers}
    >
      <text x={0} y={10} className={drawingStyles.striplabel}>
        {q.label}
      </text>
      <text x={0} y={23} className={drawingStyles.stripunit}>
        {shown} {q.unit}
      </text>
      <Clipped width={STRIP - 6}>
        <rect y={HEAD} width={STRIP - 6} height={HEIGHT} className={drawingStyles.stripback} />
        <path d={path} className={drawingStyles.stripbar} />
        {children}
      </Clipped>
    </svg>
  )
}

/** The print's outline from the front. */
function Silhouette({ layers, box, y }: { layers: LayerTable; box: PathReading['box']; y: Scale }) {
  if (!box) return null
  const x = linear([box.minX, Math.max(box.minX + 1, box.maxX)], [8, SHAPE - 8])
  let path = ''
  layers.spans.forEach((spans, i) => {
    const low = y(i ? layers.z[i - 1] : 0).toFixed(1)
    const high = y(layers.z[i]).toFixed(1)
    for (const [a, b] of spans)
      path += `M${x(a).toFixed(1)} ${low}H${x(b).toFixed(1)}V${high}H${x(a).toFixed(1)}Z`
  })
  return <path d={path} className={styles.silhouette} />
}
