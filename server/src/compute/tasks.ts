import {
  diagnoseCase,
  readinessOf,
  type CaseOnBench,
  type DiagnosisContext,
  type ReadinessInput,
} from '@verimend/core/casework'
import { filamentMass } from '@verimend/core/extrusion'
import { readGcode } from '@verimend/core/gcode'
import { planMotion } from '@verimend/core/motion'
import type { Reason } from '@verimend/core/quantity'
import { correlate, type HeightRange, type LayerTable } from '@verimend/core/toolpath'
import { PieceError, makePiece, type PairOnBench, type Piece, type PiecePlan } from '@verimend/core/trials'

/** A piece with its time and weight on its machine; or why it cannot be printed. */
export type WrittenPiece = { piece: Piece; seconds: number; grams: number } | { fault: Reason }

/** What is too heavy for the event loop. Everything crosses to a thread and back as plain data. */
export const TASKS = {
  /** Writes a test piece, and plans its motion. */
  writePiece({ pair, plan, header }: { pair: PairOnBench; plan: PiecePlan; header: string[] }): WrittenPiece {
    try {
      const piece = makePiece(pair, plan, header)
      const program = readGcode(Buffer.from(piece.gcode))
      const fed = program.e.subarray(0, program.count).reduce((s, e) => s + e, 0)
      return {
        piece,
        seconds: planMotion(program, pair.machine.limits).total,
        grams: filamentMass(fed, pair.recipe.diameter.value, pair.recipe.density.value),
      }
    } catch (error) {
      if (error instanceof PieceError) return { fault: error.reason }
      throw error
    }
  },
  diagnose: ({ bench, context }: { bench: CaseOnBench; context: DiagnosisContext }) =>
    diagnoseCase(bench, context),
  readiness: (pairs: ReadinessInput[]) => pairs.map(readinessOf),
  correlate: ({ layers, ranges }: { layers: LayerTable; ranges: HeightRange[] }) => correlate(layers, ranges),
}
export type JobName = keyof typeof TASKS
export type JobInput<Name extends JobName> = Parameters<(typeof TASKS)[Name]>[0]
export type JobOutput<Name extends JobName> = ReturnType<(typeof TASKS)[Name]>
