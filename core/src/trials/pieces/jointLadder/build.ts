import { rectangleAround, type Rect } from '../../../geometry/shapes'
import type { Builder, Layer } from '../../../planner/builder'
import { fitsWithSkirt, perBed, rowsOf, ticks } from '../../shared/rows'
import { JOINT_WORDS, stepValues, type JointShape, type PiecePlan } from '../../types'
import type { Laid } from '../piece'

/** Sizes of the joints, mm. */
const PIN = 8
const WALL = 4
const TALL = 8
const TONGUE = 4
const AXLE = 6
/** Between parts where the gap is not the one in question. */
const CLEAR = 0.7
/** What lies under a bore on its side. */
const FLOOR = 1.6

/** One joint in a place of its own: how it is drawn, layer by layer, and how tall and wide it is. */
interface Joint {
  gap: number
  tall: number
  /** Half of its sides along x and y. */
  half: readonly [number, number]
  draw: (l: Layer, x: number, y: number) => void
}

const outerOf = (gap: number) => PIN + 2 * gap + 2 * WALL

function roundUpright(b: Builder, gap: number): Joint {
  return {
    gap,
    tall: TALL,
    half: [outerOf(gap) / 2, outerOf(gap) / 2],
    draw: (_, x, y) => {
      b.rings(x, y, PIN, 3)
      b.rings(x, y, PIN + 2 * gap, 2, true)
      b.rings(x, y, outerOf(gap), 2)
    },
  }
}

/** Walls round a rectangular hole: beads stand outside of the drawn edge. */
function frameInside(b: Builder, hole: Rect, count: number): void {
  const w = b.width()
  const s = b.spacing()
  for (let k = count - 1; k >= 0; k--) {
    const by = w / 2 + k * s
    b.loop(
      [
        [hole.x0 - by, hole.y0 - by],
        [hole.x0 - by, hole.y1 + by],
        [hole.x1 + by, hole.y1 + by],
        [hole.x1 + by, hole.y0 - by],
      ],
      k ? 'inner' : 'outer',
    )
  }
}

function flatUpright(b: Builder, gap: number): Joint {
  const half = [outerOf(gap) / 2, (TONGUE + 2 * gap + 2 * WALL) / 2] as const
  return {
    gap,
    tall: TALL,
    half,
    draw: (_, x, y) => {
      b.slab(rectangleAround(x, y, PIN, TONGUE), 2)
      frameInside(b, rectangleAround(x, y, PIN + 2 * gap, TONGUE + 2 * gap), 2)
      b.walls(rectangleAround(x, y, 2 * half[0], 2 * half[1]), 2)
    },
  }
}

/** A tongue that lies on the bed under a bridge: the gap is a number of layers. */
function flatLying(b: Builder, count: number, gap: number): Joint {
  const layers = b.layers(3)
  const tongue = layers.length
  const roof = tongue + count
  const last = roof + 4
  return {
    gap,
    tall: b.layersOf(last + 1).at(-1)!.z,
    half: [8, TONGUE / 2 + CLEAR + WALL],
    draw: (l, x, y) => {
      if (l.index > last) return
      if (l.index < tongue) b.slab(rectangleAround(x, y, 16, TONGUE), 2)
      const span = TONGUE + 2 * CLEAR
      const sides = [-1, 1].map((s) => rectangleAround(x, y + (s * (span + WALL)) / 2, 10, WALL))
      if (l.index < roof) for (const side of sides) b.slab(side, 2)
      else {
        const over = rectangleAround(x, y, 10, span + 2 * WALL)
        b.walls(over, 1)
        const w = b.width()
        const inner: Rect = { x0: over.x0 + w, x1: over.x1 - w, y0: over.y0 + w, y1: over.y1 - w }
        const bridge = l.index === roof
        if (bridge) b.fan(b.n('fanBridge'))
        b.fill(inner, bridge || l.index % 2 ? 'y' : 'x', bridge ? 'bridge' : 'solid')
        if (bridge) b.fan(b.n('fan'))
        b.overAir({ ...over, z0: l.z - l.h, z1: l.z })
      }
    },
  }
}

/** Half of a circle's chord at a height over its middle, mm; 0 outside of it. */
const halfChord = (radius: number, height: number) =>
  Math.sqrt(Math.max(0, radius * radius - height * height))

/** An axle on its side between two cheeks, in the bore of a block that turns about it. */
function roundLying(b: Builder, gap: number): Joint {
  const bore = AXLE / 2 + gap
  const middle = FLOOR + bore
  const top = middle + bore + 1.4
  const outer = bore + 2.4
  const cheek = 3
  const block = 9
  const inside = block / 2 + CLEAR
  return {
    gap,
    tall: b.layers(top).at(-1)!.z,
    half: [inside + cheek, outer],
    draw: (l, x, y) => {
      const height = l.z - l.h / 2 - middle
      if (l.z - l.h < top) {
        const open = halfChord(bore, height)
        const solid = rectangleAround(x, y, block, 2 * outer)
        if (open < b.width()) {
          b.slab(solid, 2)
          if (height > 0) b.overAir({ ...solid, z0: l.z - l.h, z1: l.z })
        } else
          for (const s of [-1, 1]) {
            const side = rectangleAround(x, y + (s * (outer + open)) / 2, block, outer - open)
            b.slab(side, 1)
            if (height > 0) b.overAir({ ...side, z0: l.z - l.h, z1: l.z })
          }
      }
      const axle = halfChord(AXLE / 2, height)
      const cheeksTop = middle + AXLE / 2
      if (l.z - l.h < cheeksTop)
        for (const s of [-1, 1]) b.slab(rectangleAround(x + s * (inside + cheek / 2), y, cheek, AXLE + 2), 2)
      if (axle > b.width() / 2) {
        const rod = rectangleAround(x, y, 2 * inside, 2 * axle)
        const under = height - l.h <= -AXLE / 2
        if (under) b.fan(b.n('fanBridge'))
        b.fill(rod, 'x', under ? 'bridge' : 'solid')
        if (under) b.fan(b.n('fan'))
        if (height < 0) b.overAir({ ...rod, z0: l.z - l.h, z1: l.z })
      }
    },
  }
}

/** The joints of one kind: a gap each; lying tongues only as many as there are different numbers of layers. */
function jointsOf(b: Builder, shape: JointShape, gaps: readonly number[]): Joint[] {
  switch (shape) {
    case 'round-upright':
      return gaps.map((g) => roundUpright(b, g))
    case 'flat-upright':
      return gaps.map((g) => flatUpright(b, g))
    case 'round-lying':
      return gaps.map((g) => roundLying(b, g))
    case 'flat-lying': {
      const h = b.n('layerHeight')
      const counts = [...new Set(gaps.map((g) => Math.max(1, Math.round(g / h))))]
      return counts.map((n) => flatLying(b, n, Number((n * h).toFixed(3))))
    }
  }
}

/** Joints with stepped gaps, printed in place: one kind after another. */
export function jointLadder(b: Builder, plan: PiecePlan): Laid {
  const gaps = stepValues(plan.steps)
  const shapes = plan.joints ?? ['round-upright']
  const kinds = shapes.map((shape) => ({ shape, joints: jointsOf(b, shape, gaps) }))
  const all = kinds.flatMap((k) => k.joints)
  const tall = Math.max(...all.map((j) => j.tall))
  const layers = b.layers(tall)
  const pitch = 2 * Math.max(...all.flatMap((j) => j.half)) + 8
  const perRow = Math.min(gaps.length, perBed(b, pitch))
  // a row of its own for each kind, where the bed has room for so many
  const apart =
    kinds.every((k) => k.joints.length <= perRow) && kinds.length * pitch <= 0.8 * b.machine.bed.depth
  const rows = apart
    ? rowsOf(b, kinds.length * perRow, pitch, perRow)
    : rowsOf(b, all.length, pitch, perBed(b, pitch))
  let place = 0
  const placed = kinds.flatMap(({ shape, joints }, i) =>
    joints.map((joint, k) => {
      const [x, y] = rows.at(apart ? i * perRow + k : place++)
      const { half } = joint
      return { shape, joint, k, x, y, foot: rectangleAround(x, y, 2 * half[0], 2 * half[1]) }
    }),
  )
  fitsWithSkirt(b, rows.foot, tall)
  b.run(layers, rows.foot, (l) => {
    for (const { joint, k, x, y, foot } of placed) {
      if (l.z - l.h >= joint.tall - 1e-6) continue
      joint.draw(l, x, y)
      if (l.index < 3) ticks(b, foot.x0, foot.y0 - 3.4, k + 1, 1.4, 2)
    }
  })
  return {
    view: 'above',
    cells: placed.map(({ shape, joint, k, foot }) => ({
      id: shape === 'round-upright' ? `joint-${k + 1}` : `${shape}-${k + 1}`,
      name: shapes.length > 1 ? `${JOINT_WORDS[shape]} ${k + 1}` : `Joint ${k + 1}`,
      values: { gap: joint.gap },
      marks: k + 1,
      joint: shape,
      box: { ...foot, z0: 0, z1: joint.tall },
    })),
  }
}
