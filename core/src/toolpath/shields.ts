import { Feature } from './features'
import type { Program } from '../gcode/program'
import { classifyLayer, type Stretch } from './loops'

/** A wall against draughts is no thicker than so many nozzles. Common practice, no source. */
const THICK = 4
/** How far a wall may stand aside from itself on the layer below and still be the same, in nozzles. */
const ASIDE = 1

const within = (s: Stretch, t: Stretch) =>
  t.minX > s.minX && t.maxX < s.maxX && t.minY > s.minY && t.maxY < s.maxY

/** Loops of a layer that only keep moving air off: they hold other bodies inside them, with air between. */
function shieldsOf(list: readonly Stretch[], nozzle: number): Stretch[] {
  const loops = list.filter(
    (s) =>
      s.closed && (s.feature === Feature.Outer || s.feature === Feature.Thin || s.feature === Feature.Inner),
  )
  const roots = loops.filter((s) => s.outermost && s.boundary)
  if (roots.length < 2) return []
  const deep = THICK * nozzle
  return roots.flatMap((s) => {
    const held = roots.filter((t) => t !== s && within(s, t))
    if (!held.length) return []
    // a socket has an edge of its own round the pin, well inside of its outer one
    const socket = loops.some(
      (t) =>
        t.boundary &&
        !t.outermost &&
        within(s, t) &&
        t.minX - s.minX > deep &&
        held.some((h) => within(t, h)),
    )
    if (socket) return []
    // its own lines side by side
    const beside = loops.filter(
      (t) => within(s, t) && t.minX - s.minX <= deep && held.every((h) => h === t || within(t, h)),
    )
    return [s, ...beside]
  })
}

/**
 * Takes walls against draughts out of the part: on every layer they are what a skirt is on the first, and what stands on
 * the bed below them is theirs as well. A part's own shell is none: it has fill of its own, or an edge round what it holds.
 */
export function takeShields(
  program: Program,
  listOf: (l: number) => Stretch[],
  layers: number,
  nozzle: number,
  widthOf: (s: Stretch) => number,
): Set<Stretch> {
  const shields = new Set<Stretch>()
  let last: Stretch[] = []
  for (let l = layers - 1; l >= 0; l--) {
    const list = listOf(l)
    const same = (s: Stretch) =>
      last.some(
        (t) =>
          Math.max(
            Math.abs(s.minX - t.minX),
            Math.abs(s.maxX - t.maxX),
            Math.abs(s.minY - t.minY),
            Math.abs(s.maxY - t.maxY),
          ) <
          ASIDE * nozzle,
      )
    // a loop round the part on the first layer alone is a skirt
    const own = new Set(l ? shieldsOf(list, nozzle) : [])
    for (const s of list) if (s.closed && same(s)) own.add(s)
    // above the part nothing is held any more: a wall ends with what it keeps the air from
    for (const s of own) {
      s.feature = Feature.Skirt
      s.outermost = false
      s.boundary = false
      s.place = -1
      shields.add(s)
    }
    // what lies inside it is no fill of it
    if (own.size)
      classifyLayer(
        program,
        list.filter((s) => !own.has(s)),
        nozzle,
        widthOf,
      )
    last = [...own]
  }
  return shields
}
