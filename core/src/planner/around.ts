import { areaOf, type Area, type Kernel } from '../geometry/kernel'
import { solidSpacing } from '../extrusion/bead'
import type { Place } from '../geometry/hull'
import type { Machine } from '../machine/machine'
import { isOuter, turnAt } from './regions'
import { ringsOf, type Keep, type Slice } from './slicing'
import type { PartSettings } from './settings'
import type { Stroke, StrokeKind } from './strokes'

/** Between part and skirt, part and draught wall, mm. Common practice, no source. */
const SKIRT_GAP = 4
const WALL_GAP = 5
/** Corners that turn at least so much get a tab, degrees. Common practice, no source. */
const TAB_CORNER = 45
/** A corner that was taken off is found again within this, mm: offsets may have moved it. */
const SAME_CORNER = 0.8
/** Sides of a tab's circle. */
const TAB_SIDES = 36
/** Kept free along the edge of the bed, mm. */
const EDGE = 1

/** What of a recipe says what goes round a part. */
export type AroundSettings = Pick<
  PartSettings,
  | 'firstWidth'
  | 'firstHeight'
  | 'outerWidth'
  | 'skirtLoops'
  | 'brimLines'
  | 'brimWidth'
  | 'brimGap'
  | 'cornerTabs'
  | 'draughtWall'
  | 'raft'
  | 'raftMargin'
>

/** Lines on the bed round a part, and what stands round it in every layer. */
export interface Surroundings {
  /** Of the first layer. */
  base: Stroke[]
  /** Of every layer; nothing where no wall is wanted or the bed has no room. */
  wall: Stroke[]
  /** What was wanted and has no room. */
  left: ('skirt' | 'brim' | 'draught-wall' | 'corner-tabs' | 'supports')[]
  /** Corners of the foot that turn enough for a tab. */
  tabs: Place[]
}

const loops = (kind: StrokeKind, area: Area, width: number): Stroke[] =>
  ringsOf(area).map((ring) => ({
    kind,
    points: [...ring],
    closed: true,
    width,
    share: 1,
    small: false,
  }))

/** The bed as an area, a little drawn in. */
function bedOf(kernel: Kernel, { bed }: Machine, keep: Keep): Area {
  if (bed.shape === 'round') return keep(kernel.CrossSection.circle(bed.width / 2 - EDGE, 128))
  return keep(
    keep(kernel.CrossSection.square([bed.width - 2 * EDGE, bed.depth - 2 * EDGE])).translate([EDGE, EDGE]),
  )
}

/**
 * Skirt, brim, corner tabs and draught wall round the foot of a part. The part stands where it will be printed.
 * @param slices the foot, and what else of the part a wall has to go round
 * @param withoutTab corners that get none, mm on the bed
 * @param skirted what a skirt there is covers: more of it is joined to it, and a wall goes round it
 */
export function surroundingsOf(
  kernel: Kernel,
  slices: readonly Pick<Slice, 'area'>[],
  machine: Machine,
  s: AroundSettings,
  withoutTab: readonly Place[],
  keep: Keep,
  skirted?: Area,
): Surroundings {
  const [first] = slices
  const bed = bedOf(kernel, machine, keep)
  const holds = (area: Area) => keep(area.subtract(bed)).isEmpty()
  const spacing = solidSpacing(s.firstWidth, s.firstHeight)
  const left: Surroundings['left'] = []
  const base: Stroke[] = []
  const margin = s.raft ? s.raftMargin : 0
  // holes get nothing
  const edges = ringsOf(first.area).filter(isOuter)
  const bare = keep(areaOf(kernel, edges))
  const foot = margin ? keep(bare.offset(margin, 'Round', 2, 48)) : bare

  const brim: Stroke[][] = []
  const brimSpacing = solidSpacing(s.brimWidth, s.firstHeight)
  let reach = 0
  for (let k = 0; k < s.brimLines; k++) {
    const line = keep(foot.offset(s.brimGap + (k + 0.5) * brimSpacing, 'Round', 2, 48))
    if (!holds(keep(line.offset(s.brimWidth / 2, 'Round', 2, 48)))) {
      left.push('brim')
      break
    }
    brim.push(loops('brim', line, s.brimWidth))
    reach = s.brimGap + (k + 1) * brimSpacing
  }

  const tabs: Stroke[] = []
  let around: Area = reach ? keep(foot.offset(reach, 'Round', 2, 48)) : foot
  const sharp = edges.flatMap((ring) =>
    ring.filter((_, i) => turnAt(ring, i) >= TAB_CORNER).map(([x, y]): Place => ({ x, y })),
  )
  if (s.cornerTabs > 0) {
    const corners = sharp
      .filter((p) => !withoutTab.some((w) => Math.hypot(w.x - p.x, w.y - p.y) < SAME_CORNER))
      .map(({ x, y }): [number, number] => [x, y])
    const disc = keep(kernel.CrossSection.circle(s.cornerTabs / 2, TAB_SIDES))
    const all = keep(kernel.CrossSection.union(corners.map((c) => keep(disc.translate(c)))))
    if (!corners.length || !holds(all)) {
      if (corners.length) left.push('corner-tabs')
    } else {
      // joined to the part: their lines end where its own begin
      let inner = keep(keep(all.subtract(foot)).offset(-spacing / 2, 'Miter', 2))
      while (!inner.isEmpty()) {
        tabs.push(...loops('brim', inner, s.firstWidth))
        inner = keep(inner.offset(-spacing, 'Miter', 2))
      }
      around = keep(around.add(all))
    }
  }

  if (skirted) around = keep(around.add(skirted))
  const shadow = keep(kernel.CrossSection.hull([around, ...slices.map((l) => l.area)]))
  const wall: Stroke[] = []
  if (s.draughtWall > 0) {
    const outline = keep(shadow.offset(WALL_GAP + s.draughtWall * spacing, 'Round', 2, 48))
    if (holds(outline))
      for (let k = 0; k < s.draughtWall; k++)
        wall.push(
          ...loops('draught-wall', keep(outline.offset(-(k + 0.5) * spacing, 'Round', 2, 48)), s.outerWidth),
        )
    else left.push('draught-wall')
  }
  // a wall primes as well as a skirt does
  if (!wall.length)
    for (let k = s.skirtLoops - 1; k >= 0; k--) {
      const gap = skirted ? 0 : SKIRT_GAP
      const line = keep(
        keep(kernel.CrossSection.hull([around])).offset(gap + (k + 0.5) * spacing, 'Round', 2, 48),
      )
      if (holds(line)) base.push(...loops('skirt', line, s.firstWidth))
      else if (!left.includes('skirt')) left.push('skirt')
    }
  // from outside inwards, so that the last one is pressed against the part
  base.push(...brim.reverse().flat(), ...tabs)
  return { base, wall, left, tabs: sharp }
}
