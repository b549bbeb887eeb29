import {
  GcodeReader,
  analysePath,
  layerPlan,
  makePiece,
  summarise,
  type Analysis,
  type Cell,
  type LayerPlan,
  type PairOnBench,
  type PathReading,
  type PiecePlan,
  type ReadingContext,
} from '@verimend/core'

export type PieceAsk =
  | { kind: 'piece'; ask: number; pair: PairOnBench; plan: PiecePlan; context: ReadingContext }
  | { kind: 'layer'; ask: number; layer: number }
export type PieceAnswer =
  | { kind: 'piece'; ask: number; ok: true; cells: Cell[]; view: 'front' | 'above'; reading: PathReading }
  | { kind: 'piece'; ask: number; ok: false; message: string }
export type FromPieceWorker = PieceAnswer | { kind: 'layer'; ask: number; plan: LayerPlan }

const say = (a: FromPieceWorker, transfer: Transferable[] = []) =>
  (self as unknown as Worker).postMessage(a, transfer)
let analysis: Analysis | null = null

self.onmessage = ({ data }: MessageEvent<PieceAsk>) => {
  if (data.kind === 'layer') {
    if (!analysis) return
    const plan = layerPlan(analysis, Math.min(Math.max(0, data.layer), analysis.index.z.length - 1))
    say({ kind: 'layer', ask: data.ask, plan }, [plan.lines.buffer, plan.travels.buffer, plan.starts.buffer])
    return
  }
  try {
    const piece = makePiece(data.pair, data.plan)
    // what the file says is read back, not believed
    const reader = new GcodeReader({ filamentDiameter: data.context.filamentDiameter })
    reader.push(new TextEncoder().encode(piece.gcode))
    analysis = analysePath(reader.finish(), data.context)
    say({
      kind: 'piece',
      ask: data.ask,
      ok: true,
      cells: piece.cells,
      view: piece.view,
      reading: summarise(analysis),
    })
  } catch (error) {
    say({
      kind: 'piece',
      ask: data.ask,
      ok: false,
      message: error instanceof RangeError ? error.message : 'This piece could not be written.',
    })
  }
}
