import { GcodeReader } from '@verimend/core/gcode'
import {
  analysePath,
  layerPlan,
  summarise,
  type Analysis,
  type LayerPlan,
  type PathReading,
  type ReadingContext,
} from '@verimend/core/toolpath'
import { PieceError, makePiece, type Cell, type PairOnBench, type PiecePlan } from '@verimend/core/trials'
import { say } from '@verimend/core/words'

export type PieceAsk =
  | { kind: 'piece'; pair: PairOnBench; plan: PiecePlan; context: ReadingContext }
  | { kind: 'layer'; ask: number; layer: number }
export type PieceAnswer =
  | { kind: 'piece'; ok: true; cells: Cell[]; view: 'front' | 'above'; reading: PathReading }
  | { kind: 'piece'; ok: false; message: string }
export type FromPieceWorker = PieceAnswer | { kind: 'layer'; ask: number; plan: LayerPlan }

const send = (a: FromPieceWorker, transfer: Transferable[] = []) =>
  (self as unknown as Worker).postMessage(a, transfer)
let analysis: Analysis | null = null

self.onmessage = ({ data }: MessageEvent<PieceAsk>) => {
  if (data.kind === 'layer') {
    if (!analysis) return
    const plan = layerPlan(analysis, Math.min(Math.max(0, data.layer), analysis.index.z.length - 1))
    send({ kind: 'layer', ask: data.ask, plan }, [plan.lines.buffer, plan.travels.buffer, plan.starts.buffer])
    return
  }
  try {
    const piece = makePiece(data.pair, data.plan)
    // what the file says is read back, not believed
    const reader = new GcodeReader({ filamentDiameter: data.context.filamentDiameter })
    reader.push(new TextEncoder().encode(piece.gcode))
    analysis = analysePath(reader.finish(), data.context)
    send({
      kind: 'piece',
      ok: true,
      cells: piece.cells,
      view: piece.view,
      reading: summarise(analysis),
    })
  } catch (error) {
    send({
      kind: 'piece',
      ok: false,
      message: error instanceof PieceError ? say(error.reason) : 'This piece could not be written.',
    })
  }
}
