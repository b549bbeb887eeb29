import type { PartView } from '@verimend/core/casework'
import type { Ring } from '@verimend/core/geometry'
import type { FrontView } from '@verimend/core/planner'
import { FIGURES, PALETTES, TEXT } from '../theme/theme'

const SIDE = 520
const HEAD = 70
const MARGIN = 40

/** A picture of a part as it stands: from the front and from above, with a rule of ten millimetres. */
export async function partPicture(
  title: string,
  lines: readonly string[],
  front: FrontView,
  { foot, outline }: PartView['above'],
): Promise<Uint8Array> {
  const p = PALETTES.light
  const canvas = document.createElement('canvas')
  canvas.width = 2 * SIDE
  canvas.height = SIDE + HEAD + 22 * lines.length
  const g = canvas.getContext('2d')!
  g.fillStyle = p.sheet
  g.fillRect(0, 0, canvas.width, canvas.height)
  g.fillStyle = p.ink
  g.font = `600 24px ${TEXT}`
  g.fillText(title, MARGIN, 42)
  g.font = `15px ${FIGURES}`
  g.fillStyle = p.faint
  lines.forEach((line, i) => g.fillText(line, MARGIN, HEAD + SIDE + 22 * i))
  const places = [...front.outline, ...outline].flat()
  const reach = (k: 0 | 1, rings: readonly Ring[]) => {
    const v = rings.flat().map((q) => q[k])
    return [Math.min(...v), Math.max(...v)] as const
  }
  const [fx, fz] = [reach(0, front.outline), reach(1, front.outline)]
  const [ax, ay] = [reach(0, outline), reach(1, outline)]
  const widest = Math.max(1, fx[1] - fx[0], fz[1] - fz[0], ax[1] - ax[0], ay[1] - ay[0])
  const scale = (SIDE - 2 * MARGIN) / widest
  const draw = (rings: readonly Ring[], middle: readonly [number, number], left: number) => {
    g.beginPath()
    for (const ring of rings) {
      ring.forEach(([x, y], i) => {
        const at = [
          left + SIDE / 2 + (x - middle[0]) * scale,
          HEAD + SIDE / 2 - (y - middle[1]) * scale,
        ] as const
        if (i) g.lineTo(...at)
        else g.moveTo(...at)
      })
      g.closePath()
    }
  }
  if (places.length) {
    g.lineWidth = 1.5
    g.strokeStyle = p.ink
    g.fillStyle = p.wash
    const middle = [(fx[0] + fx[1]) / 2, (fz[0] + fz[1]) / 2] as const
    draw(front.outline, middle, 0)
    g.fill('evenodd')
    g.stroke()
    g.strokeStyle = p.fault
    draw(front.hanging, middle, 0)
    g.stroke()
    const above = [(ax[0] + ax[1]) / 2, (ay[0] + ay[1]) / 2] as const
    g.strokeStyle = p.faint
    g.setLineDash([5, 4])
    draw(outline, above, SIDE)
    g.stroke()
    g.setLineDash([])
    g.strokeStyle = p.ink
    draw(foot, above, SIDE)
    g.fill('evenodd')
    g.stroke()
  }
  g.strokeStyle = p.ink
  g.beginPath()
  g.moveTo(MARGIN, HEAD + SIDE - 34)
  g.lineTo(MARGIN + 10 * scale, HEAD + SIDE - 34)
  g.stroke()
  g.fillStyle = p.faint
  g.fillText('10 mm', MARGIN, HEAD + SIDE - 40)
  const blob = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, 'image/png'))
  if (!blob) throw new Error('The picture could not be drawn.')
  return new Uint8Array(await blob.arrayBuffer())
}
