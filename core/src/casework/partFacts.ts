import { AS_IT_IS } from '../geometry/mesh/mesh'
import { scoped, type Kernel, type Solid } from '../geometry/kernel'
import { judgePlacing, piecesOf, settingsFor, smallestWall, turned, type Layout } from '../planner'
import { partSettingsOf } from '../recipe/derive'
import type { PairOnBench } from '../trials/pieces/piece'

/** What a part's mesh says of it as it is printed, whatever paths are made of it. */
export interface PartFacts {
  /** mm between the two nearest pieces that never join, with the recipe's offsets; null: one piece. */
  gap: number | null
  /** mm, its thinnest wall up to two nozzles; null: none is so thin. */
  wall: number | null
  /** mm² of the first layer, and in how many pieces. */
  contact: number
  islands: number
  /** mm² that hang past 60° from upright. */
  hanging: number
  /** mm, over air. */
  bridge: number
  /** mm */
  longest: number
  height: number
  /** Sideways push at its top that tips it by its weight, mN; null where nothing can tip it. */
  push: number | null
}

/** Looks at a part as it is put on the bed, without making its paths. */
export function partFactsOf(
  kernel: Kernel,
  solid: Solid,
  { recipe, machine }: PairOnBench,
  layout: Layout,
  onStep?: (share: number) => void,
): PartFacts {
  const settings = settingsFor(partSettingsOf(recipe), layout)
  return scoped((keep) => {
    const { scaleX, scaleY, scaleZ, firstHeight } = settings
    const stood = keep(keep(turned(solid, layout)).scale([scaleX / 100, scaleY / 100, scaleZ / 100]))
    const judged = judgePlacing(stood, AS_IT_IS, { firstHeight, density: recipe.density.value })
    onStep?.(0.2)
    const { gaps } = piecesOf(
      kernel,
      stood,
      { ...settings, scaleX: 100, scaleY: 100, scaleZ: 100 },
      onStep && ((s) => onStep(0.2 + 0.6 * s)),
    )
    const wall = smallestWall(stood, machine.nozzle.diameter)
    return {
      gap: gaps[0]?.gap ?? null,
      wall: wall?.width ?? null,
      contact: judged.contact,
      islands: judged.islands,
      hanging: judged.hanging60,
      bridge: judged.bridge,
      longest: Math.max(judged.width, judged.depth, judged.height),
      height: judged.height,
      push: Number.isFinite(judged.push) ? judged.push * 1000 : null,
    }
  })
}
