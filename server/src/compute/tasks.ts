import { readFileSync } from 'node:fs'
import {
  diagnoseCase,
  readinessOf,
  readingContextOf,
  writePractice,
  type CaseOnBench,
  type DiagnosisContext,
  type ReadinessInput,
} from '@verimend/core/casework'
import { DRAWN_UNITS, joined, meshFault, placed, readMeshes, solidOf } from '@verimend/core/geometry'
import { filamentMass } from '@verimend/core/extrusion'
import { readGcode } from '@verimend/core/gcode'
import { planMotion } from '@verimend/core/motion'
import type { Exported, Grade } from '@verimend/core/recipe'
import type { CaseReport } from '@verimend/core/words'
import type { Reason } from '@verimend/core/quantity'
import {
  correlate,
  readPath,
  type HeightRange,
  type LayerTable,
  type PathReading,
} from '@verimend/core/toolpath'
import {
  PieceError,
  makeOnFile,
  makeOnPart,
  makePiece,
  type OnPart,
  type PairOnBench,
  type Piece,
  type PiecePlan,
} from '@verimend/core/trials'
import type { ReportPhoto } from '../pdf/caseSheet'
import { loadKernel } from './kernel'

/** A piece with its time and weight on its machine; or why it cannot be printed. */
export type WrittenPiece = { piece: Piece; seconds: number; grams: number } | { fault: Reason }

/** What a piece is written from. */
interface PieceToWrite {
  pair: PairOnBench
  plan: PiecePlan
  header: string[]
  /** Path of the mesh of a person's own part, or of the finished file, where it is made of one. */
  source?: string
}

/** A trial on a person's own part, whose mesh lies in a file. */
async function pieceOnPart(
  pair: PairOnBench,
  plan: PiecePlan & { onPart: OnPart },
  header: string[],
  mesh: string,
): Promise<Piece> {
  const kernel = await loadKernel()
  const { unit, name } = plan.onPart
  const drawn = joined(readMeshes(readFileSync(mesh), name).map((m) => m.mesh))
  const by = DRAWN_UNITS[unit]
  const { solid } = solidOf(kernel, by === 1 ? drawn : placed(drawn, [by, 0, 0, 0, 0, by, 0, 0, 0, 0, by, 0]))
  if (!solid) throw new PieceError(meshFault('mesh-no-inside', { open: 0, crowded: 0 }))
  try {
    return makeOnPart(kernel, solid, pair, plan, header)
  } finally {
    solid.delete()
  }
}

/** What is too heavy for the event loop. Everything crosses to a thread and back as plain data. */
export const TASKS = {
  /** Writes a test piece, and plans its motion. */
  async writePiece({ pair, plan, header, source }: PieceToWrite): Promise<WrittenPiece> {
    const { onPart, onFile } = plan
    try {
      const piece =
        onPart && source
          ? await pieceOnPart(pair, { ...plan, onPart }, header, source)
          : onFile && source
            ? makeOnFile(readFileSync(source), pair, { ...plan, onFile }, header)
            : makePiece(pair, plan, header)
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
  /** Writes the piece that is printed for practice: two stepped blocks with a gap to cross. */
  writePractice({ machine, recipe }: PairOnBench): { gcode: string; reading: PathReading } {
    const gcode = writePractice(machine, recipe)
    const reading = readPath(readGcode(Buffer.from(gcode)), readingContextOf(machine, recipe))
    return { gcode, reading }
  },
  diagnose: ({ bench, context }: { bench: CaseOnBench; context: DiagnosisContext }) =>
    diagnoseCase(bench, context),
  readiness: (pairs: ReadinessInput[]) => pairs.map(readinessOf),
  /** A recipe on one page to pin up, as PDF. */
  async recipeSheet({ exported, grade }: { exported: Exported; grade: Grade }): Promise<Uint8Array> {
    const { recipeSheet } = await import('../pdf/recipeSheet')
    return recipeSheet(exported, grade)
  },
  /** A case to hand on, as PDF. */
  async caseSheet({ report, photos }: { report: CaseReport; photos: ReportPhoto[] }): Promise<Uint8Array> {
    const { caseSheet } = await import('../pdf/caseSheet')
    return caseSheet(report, photos)
  },
  correlate: ({ layers, ranges }: { layers: LayerTable; ranges: HeightRange[] }) => correlate(layers, ranges),
}
export type JobName = keyof typeof TASKS
export type JobInput<Name extends JobName> = Parameters<(typeof TASKS)[Name]>[0]
export type JobOutput<Name extends JobName> = Awaited<ReturnType<(typeof TASKS)[Name]>>
