import type { Place } from '../geometry/hull'
import { scoped, type Kernel, type Solid } from '../geometry/kernel'
import type { Placement } from '../geometry/mesh/mesh'
import type { Machine } from '../machine/machine'
import { downFaces, standing } from './placing'
import { planPart, type PartPlan, type PlanOptions } from './plan'
import { PlanError, planFault } from './planError'
import type { UncarriedPlace } from './supports'
import type { PartSettings } from './settings'

/** How a part is put on the bed. */
export interface Layout {
  /** Which way it is turned, before it is turned about the upright axis; null stands it on its flattest face. */
  placement: Placement | null
  /** About the upright axis, degrees, counter-clockwise from above. */
  turn: number
  /** %, besides the recipe's own scales. */
  scale: number
  /** Whether the recipe's scales for shrinking act. */
  withShrink: boolean
  copies: number
  /** All copies layer by layer, or one whole copy after another. */
  order: 'together' | 'one-by-one'
  /** Corners without a tab, and patches that are not carried, mm from the middle of a copy. */
  withoutTab: Place[]
  uncarried: UncarriedPlace[]
  /** Way the part will be loaded, as it is drawn in its file. */
  load: readonly [number, number, number] | null
}

/** On its flattest face, once, as it is drawn. */
export const USUAL_LAYOUT: Layout = {
  placement: null,
  turn: 0,
  scale: 100,
  withShrink: true,
  copies: 1,
  order: 'together',
  withoutTab: [],
  uncarried: [],
  load: null,
}

/** Most copies on a bed. */
export const MOST_COPIES = 64
/** Between copies that are laid together, besides what lies round each, mm. Common practice, no source. */
const BETWEEN = 6
/** How far a head reaches to its sides, and how high a part may be under its bars, mm. Common practice, no source. */
export const HEAD = { reach: 45, under: 25 }

/** The settings with what a layout changes of them: its own scale, and the recipe's only where it is wanted. */
export const settingsFor = (s: PartSettings, { withShrink, scale }: Layout): PartSettings => {
  const own = (recipe: number) => ((withShrink ? recipe : 100) * scale) / 100
  return { ...s, scaleX: own(s.scaleX), scaleY: own(s.scaleY), scaleZ: own(s.scaleZ) }
}

/** One copy as it is turned, its lowest point at nought; to be given back with `delete()`. */
export function turned(solid: Solid, { placement, turn }: Pick<Layout, 'placement' | 'turn'>): Solid {
  return scoped((keep) => {
    const way = placement ?? downFaces(solid, 1)[0]?.placement
    const stood = way ? keep(standing(solid, way)) : keep(solid.translate([0, 0, 0]))
    return stood.rotate([0, 0, turn])
  })
}

/** Whether a part fits a machine as it is laid out, and if not the scale at which it does, %. */
export function fittingScale(solid: Solid, machine: Machine, s: PartSettings): number | null {
  const { min, max } = solid.boundingBox()
  const size = [0, 1, 2].map((k) => max[k] - min[k])
  const [w, d, h] = [size[0] * (s.scaleX / 100), size[1] * (s.scaleY / 100), size[2] * (s.scaleZ / 100)]
  const { bed, height } = machine
  const factor = Math.min(
    (height - 1) / h,
    ...(bed.shape === 'round'
      ? [(bed.width - 2) / Math.hypot(w, d)]
      : [(bed.width - 2) / w, (bed.depth - 2) / d]),
  )
  return factor >= 1 ? null : Math.floor(factor * 1000) / 10
}

/** A part laid out and planned. */
export interface LaidPart {
  plan: PartPlan
  /** What it was planned with: the settings as the layout changes them. */
  settings: PartSettings
  /** Where one whole copy after another stands, mm from where the plan has it; one place where all are laid together. */
  places: Place[]
}

/**
 * Turns, scales and copies a part and lays its lines.
 * @throws PlanError where it does not fit the machine
 */
export function layPart(
  kernel: Kernel,
  solid: Solid,
  machine: Machine,
  recipe: PartSettings,
  layout: Layout,
  onStep?: PlanOptions['onStep'],
): LaidPart {
  const settings = settingsFor(recipe, layout)
  return scoped((keep) => {
    const one = keep(turned(solid, layout))
    const { min, max } = one.boundingBox()
    const [w, d, h] = [0, 1, 2].map(
      (k) => ((max[k] - min[k]) * [settings.scaleX, settings.scaleY, settings.scaleZ][k]) / 100,
    )
    const { uncarried, withoutTab, copies, order } = layout
    if (copies <= 1)
      return {
        plan: planPart(kernel, one, machine, settings, { onStep, uncarried, withoutTab }),
        settings,
        places: [{ x: 0, y: 0 }],
      }
    const round = surroundingReach(settings)
    if (order === 'one-by-one') {
      if (h > HEAD.under)
        throw new PlanError(planFault('too-tall-one-by-one', { height: h, under: HEAD.under }))
      const plan = planPart(kernel, one, machine, settings, { onStep, uncarried, withoutTab })
      const apart = Math.max(HEAD.reach, 2 * round + BETWEEN)
      return {
        plan,
        settings,
        places: grid(copies, w + apart, d + apart, machine, w + 2 * round, d + 2 * round),
      }
    }
    const apart = BETWEEN + 2 * round
    const places = grid(copies, w + apart, d + apart, machine, w, d)
    // the plan scales what it is given: places are told before that
    const all = keep(
      kernel.Manifold.compose(
        places.map(({ x, y }) =>
          keep(one.translate([(x * 100) / settings.scaleX, (y * 100) / settings.scaleY, 0])),
        ),
      ),
    )
    const each = <P extends Place>(list: readonly P[]): P[] =>
      places.flatMap(({ x, y }) => list.map((p) => ({ ...p, x: p.x + x, y: p.y + y })))
    return {
      plan: planPart(kernel, all, machine, settings, {
        onStep,
        uncarried: each(uncarried),
        withoutTab: each(withoutTab),
      }),
      settings,
      places: [{ x: 0, y: 0 }],
    }
  })
}

/** How far what lies round each copy reaches, mm. */
const surroundingReach = (s: PartSettings): number =>
  Math.max(
    s.raft ? s.raftMargin : s.brimLines > 0 ? s.brimGap + s.brimLines * s.brimWidth : 0,
    s.cornerTabs / 2,
  )

/** Places in rows, round the middle, mm; the front ones first. @throws PlanError where the bed has no room for them */
function grid(copies: number, stepX: number, stepY: number, machine: Machine, w: number, d: number): Place[] {
  const { bed } = machine
  const [roomX, roomY] = bed.shape === 'round' ? [bed.width * 0.7, bed.width * 0.7] : [bed.width, bed.depth]
  const most = Math.max(1, Math.floor((roomX - 4 - w) / stepX + 1 + 1e-9))
  // as square as it can be
  const columns = Math.min(most, Math.max(1, Math.round(Math.sqrt((copies * stepY) / stepX))))
  const fit = (n: number) => (Math.ceil(copies / n) - 1) * stepY + d <= roomY - 4
  const own = fit(columns) ? columns : most
  if (!fit(own)) throw new PlanError(planFault('no-room-for-copies', { copies }))
  const rows = Math.ceil(copies / own)
  const across = Math.min(own, copies)
  return Array.from({ length: copies }, (_, i): Place => ({
    x: ((i % own) - (across - 1) / 2) * stepX,
    y: (Math.floor(i / own) - (rows - 1) / 2) * stepY,
  }))
}
