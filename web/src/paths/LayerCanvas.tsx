import { Button } from 'antd'
import { LINE_STRIDE, type LayerPlan } from '@verimend/core/toolpath'
import { useEffect, useMemo, useRef } from 'react'
import { linear, type Scale } from '../drawing/scales'
import { usePanZoom } from '../drawing/usePanZoom'
import { useMode } from '../theme/mode'
import type { Shade } from './layerInk'
import { paintLayer, paintMark, paintStrokes, type Mark } from './paintLayer'
import ui from '../components/ui.module.css'
import styles from './LayerCanvas.module.css'

const WIDTH = 620
const TALL = 420
/** Free room round a layer, mm. */
const MARGIN = 3
const CLOSEST = 80

/** Scales that show a whole layer in the middle of a canvas, a millimetre as long across as upright. */
function wholeLayer({ box }: LayerPlan, width: number, height: number): { x: Scale; y: Scale } {
  const { minX, minY, maxX, maxY } = box
  const scale = Math.min(width / (maxX - minX + 2 * MARGIN), height / (maxY - minY + 2 * MARGIN))
  const half = { x: width / 2 / scale, y: height / 2 / scale }
  const middle = { x: (minX + maxX) / 2, y: (minY + maxY) / 2 }
  return {
    x: linear([middle.x - half.x, middle.x + half.x], [0, width]),
    y: linear([middle.y - half.y, middle.y + half.y], [height, 0]),
  }
}

/** A layer from above, to come closer to and move about in. */
export function LayerCanvas({
  plan,
  over = null,
  mark = null,
  shade = 'feature',
  width = WIDTH,
  height = TALL,
}: {
  plan: LayerPlan | null
  /** Another layer whose lines lie over it as thin strokes. */
  over?: LayerPlan | null
  /** Two places between which a line is drawn, mm on the bed. */
  mark?: Mark | null
  shade?: Shade
  width?: number
  height?: number
}) {
  const { mode } = useMode()
  const canvas = useRef<HTMLCanvasElement | null>(null)
  const { ref, transform, whole, zoomBy, reset, onKeyDown } = usePanZoom<HTMLCanvasElement>({
    width,
    height,
    closest: CLOSEST,
  })
  const scales = useMemo(() => plan && wholeLayer(plan, width, height), [plan, width, height])
  useEffect(() => {
    const c = canvas.current
    if (!c || !plan || !scales) return
    const ratio = window.devicePixelRatio || 1
    c.width = width * ratio
    c.height = height * ratio
    const g = c.getContext('2d')!
    g.setTransform(ratio, 0, 0, ratio, 0, 0)
    const frame = {
      x: transform.rescaleX(scales.x),
      y: transform.rescaleY(scales.y),
      width,
      height,
      shade,
      mode,
    }
    paintLayer(g, plan, frame)
    if (over) paintStrokes(g, over, frame)
    if (mark) paintMark(g, mark, frame)
  }, [plan, over, mark, scales, transform, shade, mode, width, height])
  return (
    <div className={ui.stack} style={{ gap: 6, minWidth: 0 }}>
      <canvas
        ref={(c) => {
          canvas.current = c
          ref(c)
        }}
        className={styles.layercanvas}
        style={{ width: '100%', maxWidth: width, aspectRatio: `${width} / ${height}` }}
        role="img"
        tabIndex={0}
        aria-label={
          plan
            ? `Layer ${plan.layer + 1} from above, ${plan.lines.length / LINE_STRIDE} lines. Plus and minus come closer and go away, arrows move.`
            : 'A layer from above'
        }
        onKeyDown={onKeyDown}
      />
      <div className={ui.row}>
        <Button size="small" onClick={() => zoomBy(1.5)}>
          Closer
        </Button>
        <Button size="small" disabled={whole} onClick={() => zoomBy(1 / 1.5)}>
          Away
        </Button>
        <Button size="small" disabled={whole} onClick={reset}>
          Whole layer
        </Button>
      </div>
    </div>
  )
}
