import { solidSpacing } from '../extrusion/bead'
import { GcodeWriter } from '../gcode/writer'
import type { Machine } from '../materials/machine'
import type { RecipeValues } from '../recipe/derive'

export interface PostsOptions {
  /** mm between the posts' middles. */
  apart?: number
  /** mm */
  side?: number
  height?: number
  title?: string
}

/**
 * String posts: two square posts with a gap to string across on every layer. Base solid, then walls only.
 * @throws RangeError when the piece does not fit the bed
 */
export function stringPosts(machine: Machine, recipe: RecipeValues, options: PostsOptions = {}): string {
  const { apart = 40, side = 10, height = 10, title = 'string posts' } = options
  const n = (key: keyof RecipeValues) => Number(recipe[key].value)
  const g = new GcodeWriter(machine, recipe)
  g.begin(title)
  const { x: cx, y: cy } = g.centre
  const posts = [cx - apart / 2, cx + apart / 2]
  const firstHeight = n('firstHeight')
  const layer = n('layerHeight')
  const layers = Math.max(1, Math.round((height - firstHeight) / layer) + 1)
  const walls = Math.max(1, Math.min(3, n('wallCount')))
  for (let l = 0; l < layers; l++) {
    const first = l === 0
    const z = firstHeight + l * layer
    const h = first ? firstHeight : layer
    const off = n('fanOffLayers')
    g.setFan(l < off ? 0 : n('fan'))
    if (l === 1) {
      g.nozzle(n('nozzle'))
      g.bed(n('bed'))
    }
    const width = first ? n('firstWidth') : n('outerWidth')
    const spacing = solidSpacing(width, h)
    const flow = (n('flow') / 100) * (first ? n('flowFirst') / 100 : 1)
    if (first) {
      for (let s = 0; s < n('skirtLoops'); s++) {
        const r = 4 + s * spacing
        square(g, cx, cy, apart + side + 2 * r, side + 2 * r, z, width, h, n('firstSpeed'), flow)
      }
    }
    for (const px of posts) {
      for (let w = walls - 1; w >= 0; w--) {
        const inset = width / 2 + w * spacing
        const speed = first ? n('firstSpeed') : w === 0 ? n('outerSpeed') : n('innerSpeed')
        const own = w === 0 ? n('flowOuter') / 100 : n('flowInner') / 100
        square(g, px, cy, side - 2 * inset, side - 2 * inset, z, width, h, speed, flow * own)
      }
      if (first) fill(g, px, cy, side - 2 * walls * spacing, z, width, h, spacing, n('firstSpeed'), flow)
    }
  }
  g.end()
  return g.text()
}

function square(
  g: GcodeWriter,
  cx: number,
  cy: number,
  w: number,
  d: number,
  z: number,
  width: number,
  height: number,
  speed: number,
  flow: number,
): void {
  const [x0, x1, y0, y1] = [cx - w / 2, cx + w / 2, cy - d / 2, cy + d / 2]
  g.travel(x0, y0, z)
  g.line(x1, y0, width, height, speed, flow)
  g.line(x1, y1, width, height, speed, flow)
  g.line(x0, y1, width, height, speed, flow)
  g.line(x0, y0, width, height, speed, flow)
}

function fill(
  g: GcodeWriter,
  cx: number,
  cy: number,
  side: number,
  z: number,
  width: number,
  height: number,
  spacing: number,
  speed: number,
  flow: number,
): void {
  const lines = Math.max(1, Math.floor(side / spacing))
  const from = cy - ((lines - 1) * spacing) / 2
  for (let i = 0; i < lines; i++) {
    const y = from + i * spacing
    const [a, b] = i % 2 ? [cx + side / 2, cx - side / 2] : [cx - side / 2, cx + side / 2]
    if (i === 0) g.travel(a, y, z)
    else g.line(a, y, width, height, speed, flow)
    g.line(b, y, width, height, speed, flow)
  }
}
