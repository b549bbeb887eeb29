import { scoped, type Kernel, type Solid } from '../geometry/kernel'
import { planMotion } from '../motion/timeline'
import { layPart } from '../planner/layout'
import { PlanError } from '../planner/planError'
import { writePlan } from '../planner/program'
import { partSettingsOf } from '../recipe/derive'
import { recipeWith } from '../recipe/tried'
import { readGcode } from '../gcode/reader/reader'
import { pieceFault } from './reasons'
import { PieceError, planFault } from './plan'
import { PIECES } from './pieces'
import type { PairOnBench } from './pieces/piece'
import {
  stepValues,
  type Cell,
  type OnPart,
  type Piece,
  type PieceId,
  type PiecePlan,
  type VariedKey,
} from './types'
import { variedOf } from './varied'

/** What can be stepped on a part, and the trial that reads it. */
export const STEPPED_ON_PART: readonly { piece: PieceId; key: VariedKey }[] = [
  { piece: 'temperature-tower', key: 'nozzle' },
  { piece: 'fan-tower', key: 'fan' },
  { piece: 'speed-fins', key: 'outerSpeed' },
  { piece: 'speed-fins', key: 'outerAcceleration' },
]
/** A band has at least so many layers, or nothing can be told of it. Common practice, no source. */
const LEAST_LAYERS = 5

/**
 * Writes a trial on a person's own part: bands of its height at stepped heat, fan or speed.
 * @throws PieceError when the plan is at fault or the part cannot be laid
 */
export function makeOnPart(
  kernel: Kernel,
  solid: Solid,
  pair: PairOnBench,
  plan: PiecePlan & { onPart: OnPart },
  header: readonly string[] = [],
): Piece {
  const { piece, steps, onPart } = plan
  if (!STEPPED_ON_PART.some((s) => s.piece === piece && s.key === steps.key))
    throw new PieceError(pieceFault('not-on-part', { piece }))
  const fault = planFault(pair, plan)
  if (fault) throw new PieceError(fault)
  const settings = partSettingsOf(recipeWith(pair, onPart.own))
  try {
    const laid = scoped(() => layPart(kernel, solid, pair.machine, settings, { ...onPart.layout, copies: 1 }))
    const values = stepValues(steps)
    const { layers } = laid.plan
    const top = layers.at(-1)!.z
    const [from, to] = [Math.max(settings.firstHeight, onPart.from), Math.min(top, onPart.to)]
    const each = (to - from) / values.length
    if (!(each >= LEAST_LAYERS * settings.layerHeight - 1e-9))
      throw new PieceError(
        pieceFault('bands-too-low', { count: values.length, least: LEAST_LAYERS * settings.layerHeight }),
      )
    const bandOf = (z: number) =>
      z <= from + 1e-6 || z > to + 1e-6
        ? -1
        : Math.min(values.length - 1, Math.floor((z - from - 1e-6) / each))
    const { label, unit } = variedOf(steps.key)
    const gcode = writePlan(
      laid.plan,
      pair.machine,
      laid.settings,
      {
        title:
          `${PIECES[piece].name.toLowerCase()} on ${onPart.name}, ${label}: ${values.join(', ')} ${unit}`.trim(),
        notes: header,
      },
      {
        at: (z) => {
          const band = bandOf(z)
          return { [steps.key]: band < 0 ? settings[steps.key as 'nozzle'] : values[band] }
        },
      },
    )
    const places = layers.flatMap((l) => l.strokes.flatMap((t) => (t.kind === 'outer' ? t.points : [])))
    const span = (k: 0 | 1) => {
      let [low, high] = [Infinity, -Infinity]
      for (const p of places) {
        low = Math.min(low, p[k])
        high = Math.max(high, p[k])
      }
      return [low, high] as const
    }
    const [[x0, x1], [y0, y1]] = [span(0), span(1)]
    const cells = values.map((value, i): Cell => {
      const own = layers.filter((l) => bandOf(l.z) === i)
      return {
        id: `band-${i + 1}`,
        name: `Band ${i + 1}`,
        values: { [steps.key]: value },
        box: { x0, x1, y0, y1, z0: own[0].z - own[0].h, z1: own.at(-1)!.z },
        marks: 0,
      }
    })
    const program = readGcode(new TextEncoder().encode(gcode), { filamentDiameter: settings.diameter })
    return {
      id: piece,
      gcode,
      cells,
      view: 'front',
      box: { x0, x1, y0, y1, z0: 0, z1: top },
      open: [],
      seconds: planMotion(program, pair.machine.limits).total,
    }
  } catch (error) {
    if (error instanceof PlanError) throw new PieceError(error.reason)
    throw error
  }
}
