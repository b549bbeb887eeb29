import { select } from 'd3-selection'
import { zoom, zoomIdentity, type D3ZoomEvent, type ZoomTransform } from 'd3-zoom'
import { useCallback, useEffect, useMemo, useState, type KeyboardEvent } from 'react'

export interface PanZoomOptions {
  /** Size of the drawing in its own units; on the page it may be shown larger or smaller. */
  width: number
  height: number
  /** How much closer than the whole one can come. */
  closest: number
  /** `y`: only upright; across, the drawing stays as it is. */
  axes?: 'both' | 'y'
  /** Where upright the drawing begins, for one with words above it. */
  top?: number
  /** Inside elements that match, dragging does something of their own. */
  notOn?: string
}

export interface PanZoom<E extends Element> {
  /** Goes on the element that is turned and dragged. */
  ref: (element: E | null) => void
  /** From the whole drawing to what is seen of it, in the drawing's units. */
  transform: ZoomTransform
  /** The whole is seen. */
  whole: boolean
  zoomBy: (factor: number) => void
  reset: () => void
  /** Plus and minus, arrows, 0. */
  onKeyDown: (event: KeyboardEvent) => void
}

/** How far an arrow key moves, as a share of what is seen. */
const KEY_STEP = 0.1
const KEY_FACTOR = 1.3

/** Coming closer and moving about in a drawing: wheel, drag, pinch and keys. */
export function usePanZoom<E extends Element = HTMLElement>({
  width,
  height,
  closest,
  axes = 'both',
  top = 0,
  notOn,
}: PanZoomOptions): PanZoom<E> {
  const [element, setElement] = useState<E | null>(null)
  const [transform, setTransform] = useState<ZoomTransform>(zoomIdentity)
  const behaviour = useMemo(() => zoom<E, unknown>(), [])
  useEffect(() => {
    if (!element) return
    // pointers are measured on the page, the drawing may be shown at another size
    const ratio = () => (axes === 'y' ? 1 : width / (element.getBoundingClientRect().width || width))
    const box = (): [[number, number], [number, number]] => {
      const r = ratio()
      return [
        [0, top / r],
        [width / r, (top + height) / r],
      ]
    }
    behaviour
      .extent(box)
      .scaleExtent([1, Math.max(1, closest)])
      .filter((event: MouseEvent & Partial<TouchEvent>) => {
        if (event.type === 'wheel' || (event.touches && event.touches.length > 1)) return true
        if (event.button || event.ctrlKey) return false
        return !(notOn && (event.target as Element).closest(notOn))
      })
      .on('start', () => behaviour.translateExtent(box()))
      .on('zoom', ({ transform: t }: D3ZoomEvent<E, unknown>) => {
        const r = ratio()
        setTransform(zoomIdentity.translate(t.x * r, t.y * r).scale(t.k))
      })
      .translateExtent(box())
    select(element).call(behaviour).on('dblclick.zoom', null)
    return () => void select(element).on('.zoom', null)
  }, [element, behaviour, width, height, closest, axes, top, notOn])
  const zoomBy = useCallback(
    (factor: number) => element && behaviour.scaleBy(select(element), factor),
    [element, behaviour],
  )
  const reset = useCallback(
    () => element && behaviour.transform(select(element), zoomIdentity),
    [element, behaviour],
  )
  const onKeyDown = useCallback(
    (event: KeyboardEvent) => {
      if (!element || event.target !== element) return
      const moves: Partial<Record<string, [number, number]>> = {
        ArrowLeft: [KEY_STEP, 0],
        ArrowRight: [-KEY_STEP, 0],
        ArrowUp: [0, KEY_STEP],
        ArrowDown: [0, -KEY_STEP],
      }
      const move = moves[event.key]
      if (move) {
        const [[x0, y0], [x1, y1]] = behaviour.extent().call(element, undefined)
        const k = transform.k
        behaviour.translateBy(select(element), (move[0] * (x1 - x0)) / k, (move[1] * (y1 - y0)) / k)
      } else if (event.key === '+' || event.key === '=') zoomBy(KEY_FACTOR)
      else if (event.key === '-') zoomBy(1 / KEY_FACTOR)
      else if (event.key === '0') reset()
      else return
      event.preventDefault()
    },
    [element, behaviour, transform, zoomBy, reset],
  )
  return { ref: setElement, transform, whole: transform.k <= 1 + 1e-9, zoomBy, reset, onKeyDown }
}
