import { DEMO_MACHINES, demoFilaments } from '@verimend/core/demo'
import { readGcode } from '@verimend/core/gcode'
import type { Machine } from '@verimend/core/machine'
import { deriveRecipe } from '@verimend/core/recipe'
import { makePiece, proposeSteps, TOP_GRADE, type CriterionId, type PieceId } from '@verimend/core/trials'
import {
  gradesOf,
  printProgram,
  propertyOf,
  soundWorld,
  type PrintedPart,
  type PropertyId,
  type Region,
  type World,
} from '../src'
import { render, type Frame, type Picture, type View } from '../src/picture/render'
import { between } from './between'
import { windowOf } from './windowOf'

/** What gets worse together, and how: to which side, where there are two. */
type Way = readonly (readonly [PropertyId, amount?: number])[]

/** Which piece shows a criterion, what makes it worse, and where to look. */
interface Shown {
  piece: PieceId
  worse: readonly Way[]
  view: View
  /** mm of a place's block. */
  frame: (b: Region) => Frame
  colour?: string
  background?: string
}

/** Three to two. */
const window = (u0: number, v0: number, wide: number): Frame => windowOf(u0, v0, wide, 2 / 3)

/** Criteria whose grades an eye tells apart on a simulated part. The others are felt, or too small in it to be seen. */
export const GRADES_SHOWN: Partial<Record<CriterionId, Shown>> = {
  strings: {
    piece: 'string-posts',
    worse: [[['moisture'], ['slack'], ['offset', 0.5001]]],
    view: 'side',
    frame: (b) => window(b.x0 + 4, 2, 12),
    colour: '#d8c8a4',
    background: '#2f3836',
  },
  corners: {
    piece: 'corner-columns',
    worse: [[['slack']]],
    view: 'top',
    frame: (b) => window(b.x0 - 1, b.y0 - 1, 7),
  },
  evenness: {
    piece: 'pressure-lines',
    worse: [[['slack']], [['slack'], ['open']], [['slack'], ['worn']]],
    view: 'top',
    frame: (b) => window(b.x0 + 27, (b.y0 + b.y1) / 2 - 2, 6),
  },
  ripples: {
    piece: 'speed-fins',
    worse: [[['loose']]],
    view: 'side',
    frame: (b) => window(b.x0 - 0.5, b.z0 + 0.2, 10),
  },
  sheet: {
    piece: 'first-layer-sheet',
    worse: [[['gap', 0.5]], [['gap', 0.5001]]],
    view: 'first',
    frame: (b) => window(b.x0 + 9, b.y0 + 9, 7.5),
  },
  seam: {
    piece: 'seam-columns',
    worse: [[['slack']], [['moisture'], ['slack', 1], ['offset', 0.9001], ['steps', 0.9]]],
    view: 'side',
    frame: (b) => window(b.x0, 1.6, 13),
  },
  free: {
    piece: 'joint-ladder',
    worse: [[['spread']]],
    view: 'top',
    frame: (b) => window((b.x0 + b.x1) / 2 - 6.5, (b.y0 + b.y1) / 2 - 1.5, 4.5),
  },
}

/** How far it is broken, of what breaks it wholly. */
const FAR = [0.15, 0.3, 0.45, 0.6, 0.8, 1, 1.3, 1.7, 2.2]
/** How far a place may be from the grade it is shown for. */
const NEAR = 0.45

/**
 * A criterion's five grades on places of printed pieces, from useless to flawless. The physics decides which place has which grade;
 * null for a grade that no place has.
 */
export function picturesOfGrades(criterion: CriterionId, size: number): (Picture | null)[] {
  const { view, frame, colour = '#4f8a5b', background, worse } = GRADES_SHOWN[criterion]!
  // a row of one machine that gets worse in one way is easier to compare than five odd places
  const rows = [DEMO_MACHINES.greenhouse, DEMO_MACHINES.shed]
    .flatMap((machine) => worse.map((way) => rowOf(placesOn(machine, criterion, way))))
    .sort((a, b) => missing(a) - missing(b))
  return rows[0].map((first, level) => {
    const place = first ?? rows.map((row) => row[level]).find(Boolean)
    return place
      ? render(place.part, place.world, view, {
          size,
          frame: frame(place.box),
          colour,
          ...(background && { background }),
        })
      : null
  })
}

type Row = readonly (Place | undefined)[]
/** How many grades a row has no place for, and of two alike the one that is further off. */
const missing = (row: Row): number =>
  row.reduce((sum, p, level) => sum + (p ? Math.abs(p.grade - level) / 10 : 1), 0)

/** For each grade the place that comes nearest to it. */
const rowOf = (places: readonly Place[]): Row =>
  Array.from({ length: TOP_GRADE + 1 }, (_, level) => {
    const far = (p: Place) => Math.abs(p.grade - level)
    const best = places.reduce((a, b) => (far(b) < far(a) ? b : a))
    return far(best) <= NEAR ? best : undefined
  })

interface Place {
  grade: number
  part: PrintedPart
  world: World
  box: Region
}

/** Places of a criterion's piece on a machine: as it is, and worse and worse. */
function placesOn(machine: Machine, criterion: CriterionId, way: Way): Place[] {
  const { piece } = GRADES_SHOWN[criterion]!
  const filament = demoFilaments('2026-01-01').fern
  const pair = { machine, filament, recipe: deriveRecipe({ machine, filament }) }
  const { steps, across } = proposeSteps(pair, piece)
  const { gcode, cells } = makePiece(pair, { piece, steps, ...(across && { across }) })
  const program = readGcode(Buffer.from(gcode), { filamentDiameter: 1.75 })
  const sound = soundWorld(machine, filament.family)
  const broken = way.reduce((w, [id, amount = 0.5]) => propertyOf(id).hide(w, amount, machine), sound)
  const worlds = FAR.map((far) => between(sound, broken, far))
  return [sound, ...worlds].flatMap((world) => {
    const part = printProgram(program, machine, world)
    return cells.flatMap(({ box }) => {
      const grade = gradesOf(part, world, box, [criterion])[criterion]
      return grade === undefined ? [] : [{ grade, part, world, box }]
    })
  })
}
