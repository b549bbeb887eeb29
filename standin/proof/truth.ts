import { readGcode } from '@verimend/core/gcode'
import {
  desirability,
  makePiece,
  PIECES,
  TOP_GRADE,
  type CriterionId,
  type PairOnBench,
  type PieceId,
  type Steps,
} from '@verimend/core/trials'
import { gradesOf, meltLimitOf, plasticOf, printProgram, type World } from '../src'
import { convection, cooling, evening, later } from '../src/physics/thermal'

/** A piece without anybody's mistakes: how good each step really is. */
function exactly(
  pair: PairOnBench,
  world: World,
  piece: PieceId,
  steps: Steps,
  criteria: readonly CriterionId[] = PIECES[piece].criteria,
) {
  const made = makePiece(pair, { piece, steps })
  const part = printProgram(
    readGcode(new TextEncoder().encode(made.gcode), { filamentDiameter: 1.75 }),
    pair.machine,
    world,
  )
  return made.cells.map((c) => {
    const grades = Object.values(gradesOf(part, world, c.box, criteria)).map((grade) => ({
      grade,
      weight: 1,
    }))
    return {
      x: c.values[steps.key]!,
      y: grades.length === 1 ? grades[0].grade / TOP_GRADE : desirability(grades, TOP_GRADE),
    }
  })
}

/** Values between the given ones for which something is at least so good, by straight lines between them. */
function windowOf(points: { x: number; y: number }[], least: number): { low: number; high: number } {
  const sorted = [...points].sort((a, b) => a.x - b.x)
  const best = sorted.reduce((m, p, i) => (p.y > sorted[m].y ? i : m), 0)
  const edge = (step: 1 | -1) => {
    for (let i = best; ; i += step) {
      const next = sorted[i + step]
      if (!next) return sorted[i].x
      if (next.y < least) {
        const t = (sorted[i].y - least) / Math.max(1e-9, sorted[i].y - next.y)
        return sorted[i].x + t * (next.x - sorted[i].x)
      }
    }
  }
  return { low: edge(-1), high: edge(1) }
}

/** °C between which the nozzle is within 95 % of the best there is in the roll's range. */
export function nozzleWindow(pair: PairOnBench, world: World) {
  const { steps } = PIECES['temperature-tower'].propose(pair, 'nozzle')
  const points = exactly(pair, world, 'temperature-tower', { ...steps, count: 9 })
  const top = Math.max(...points.map((p) => p.y))
  return { ...windowOf(points, 0.95 * top), top }
}

/** Grades that another millimetre of pull-back brings, under which nobody would say that it helps. */
const HELPS = 0.6

/** Strings by the pull-back, the piece printed both ways up: what its height alone does falls out. */
function bothWays(pair: PairOnBench, world: World, steps: Steps) {
  const [up, down] = [steps, { ...steps, from: steps.to, to: steps.from }].map((s) =>
    exactly(pair, world, 'retraction-tower', s, ['strings']).sort((a, b) => a.x - b.x),
  )
  return up.map(({ x, y }, i) => ({ x, y: (y + down[i].y) / 2 }))
}

/** mm of pull-back from which on next to nothing is gained: where a steep gain ends, looked for twice as closely the second time. */
export function knee(pair: PairOnBench, world: World): number {
  const { steps } = PIECES['retraction-tower'].propose(pair, 'retractLength')
  let [low, high] = [Math.min(steps.from, steps.to), Math.max(steps.from, steps.to)]
  for (let closer = 0; closer < 2; closer++) {
    const points = bothWays(pair, world, { ...steps, from: low, to: high, count: 9 })
    const gain = (i: number) =>
      (TOP_GRADE * (points[i].y - points[i - 1].y)) / Math.max(1e-9, points[i].x - points[i - 1].x)
    let last = 0
    for (let i = 1; i < points.length; i++) if (gain(i) > HELPS) last = i
    if (last === 0) return low
    ;[low, high] = [points[last - 1].x, points[last].x]
  }
  return high
}

/** mm³/s that this hot end really melts with the recipe's nozzle. */
export const trueMelt = (pair: PairOnBench, world: World): number =>
  meltLimitOf(world, pair.machine, pair.recipe.nozzle.value + world.hotEnd.offset)

/** Share of what is asked that comes out, on the mean: the drive, and the roll against the recipe's diameter. */
export function trueFed(pair: PairOnBench, world: World): number {
  const { flow, diameter } = pair.recipe
  return (flow.value / 100) * world.drive.steps * (world.roll.diameter / diameter.value) ** 2
}

/** What the rest fan decides; bridges and overhangs have fans of their own. */
const BY_FAN = ['detail', 'surface', 'bonding'] as const

/** How good the recipe's fan is against the best there is, 0 to 1. */
export function fanShare(pair: PairOnBench, world: World): number {
  const { steps } = PIECES['fan-tower'].propose(pair, 'fan')
  const points = exactly(pair, world, 'fan-tower', { ...steps, count: 6 }, BY_FAN)
  const own = pair.recipe.fan.value
  const sorted = [...points].sort((a, b) => a.x - b.x)
  const after = sorted.findIndex((p) => p.x >= own)
  const at =
    after < 0
      ? sorted[sorted.length - 1].y
      : after === 0
        ? sorted[0].y
        : sorted[after - 1].y +
          ((own - sorted[after - 1].x) / (sorted[after].x - sorted[after - 1].x)) *
            (sorted[after].y - sorted[after - 1].y)
  const best = Math.max(...points.map((p) => p.y))
  return best > 0 ? at / best : 1
}

/** How soft the wall under a new line is after the recipe's shortest layer, 0 to 1; and s after which it would be firm. */
export function shortLayer(pair: PairOnBench, world: World): { soft: number; firm: number } {
  const polymer = plasticOf(world)
  const { recipe } = pair
  const [h, w] = [recipe.layerHeight.value, recipe.outerWidth.value]
  const coefficient = convection(world, recipe.fan.value / 100)
  const slow = cooling(polymer, h, w, coefficient) * 2.2
  const soon = evening(polymer, h, w, coefficient)
  const hot = recipe.nozzle.value + world.hotEnd.offset
  const softAt = (s: number) =>
    Math.max(0, Math.min(1, (later(hot, world.air.temperature, s, soon, slow) - polymer.softens) / 40))
  let firm = 0.5
  while (firm < 90 && softAt(firm) > 0.04) firm += 0.5
  return { soft: softAt(recipe.minLayerTime.value), firm }
}
