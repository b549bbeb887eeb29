import type { Program } from '../gcode/program'
import { Feature } from './features'
import { classifyLayer, type Stretch } from './loops'

/** A wall against draughts is no thicker than so many nozzles, and stands off from all else by so many. Common practice, no source. */
const THICK = 2.5
const AIR = 3
/** How far a wall may stand aside from itself on the layer below and still be the same, in nozzles. */
const ASIDE = 1

const within = (s: Stretch, t: Stretch) =>
  t.minX > s.minX && t.maxX < s.maxX && t.minY > s.minY && t.maxY < s.maxY
/** The least distance between two bounds, the one inside the other, mm. */
const inset = (s: Stretch, t: Stretch) =>
  Math.min(t.minX - s.minX, s.maxX - t.maxX, t.minY - s.minY, s.maxY - t.maxY)

/** A wall on one layer: its outer loop, the loops beside it, and whether it holds bodies. */
interface Shield {
  loops: Stretch[]
  holds: boolean
}

/** A loop of a layer as a wall that keeps off moving air: thin, and with air all round what it holds; null where it is none. */
function shieldOf(s: Stretch, list: readonly Stretch[], nozzle: number): Shield | null {
  const inside = list.filter((t) => t !== s && within(s, t))
  const own = inside.filter((t) => t.closed && inset(s, t) <= THICK * nozzle)
  const held = inside.filter((t) => !own.includes(t))
  // what comes near to it is joined to it, or moves in it
  if (held.some((t) => inset(s, t) < (THICK + AIR) * nozzle)) return null
  return { loops: [s, ...own], holds: held.length > 0 }
}

/**
 * Takes walls against draughts out of the part: on every layer they are what a skirt is on the first. Such a wall is thin,
 * stands on the bed, goes straight up, and nothing ever joins it to what it holds: a part's own shell is joined by a floor
 * or by its fill, and a ring that turns in another stands nearer.
 */
export function takeShields(
  program: Program,
  listOf: (l: number) => Stretch[],
  layers: number,
  nozzle: number,
  widthOf: (s: Stretch) => number,
): Set<Stretch> {
  const shields = new Set<Stretch>()
  if (layers < 3) return shields
  const loopsOf = (l: number) => listOf(l).filter((s) => s.closed)
  const same = (s: Stretch, t: Stretch) =>
    Math.max(
      Math.abs(s.minX - t.minX),
      Math.abs(s.maxX - t.maxX),
      Math.abs(s.minY - t.minY),
      Math.abs(s.maxY - t.maxY),
    ) <
    ASIDE * nozzle
  for (const seed of loopsOf(1)) {
    if (shields.has(seed)) continue
    const chain: Shield[] = []
    let holds = 0
    let last = seed
    // from the layer on the bed upwards, as long as it goes on
    for (let l = 0; l < layers; l++) {
      const list = listOf(l)
      const loop = l === 1 ? seed : list.find((t) => t.closed && same(last, t))
      if (!loop) break
      const shield = shieldOf(loop, list, nozzle)
      if (!shield) {
        chain.length = 0
        break
      }
      chain.push(shield)
      if (shield.holds) holds++
      last = loop
    }
    if (chain.length < 3 || holds < 0.8 * chain.length) continue
    for (const { loops } of chain) for (const s of loops) shields.add(s)
  }
  if (!shields.size) return shields
  for (const s of shields) {
    s.feature = Feature.Skirt
    s.outermost = false
    s.boundary = false
    s.place = -1
  }
  // what lies inside of one is no fill of it
  for (let l = 0; l < layers; l++) {
    const list = listOf(l)
    const rest = list.filter((s) => !shields.has(s))
    if (rest.length < list.length) classifyLayer(program, rest, nozzle, widthOf)
  }
  return shields
}
