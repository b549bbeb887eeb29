import type { PairDetail } from '@verimend/contract'
import type { LayerPlan } from '@verimend/core/toolpath'
import type { PiecePlan } from '@verimend/core/trials'
import { useCallback, useEffect, useRef, useState } from 'react'
import { onBench } from '../pairs/onBench'
import { readingContext } from '../pairs/readingContext'
import type { FromPieceWorker, PieceAnswer, PieceAsk } from '../workers/makePiece.worker'
import type { LayerSource } from '../workers/readInWorker'

/** How long typing has to rest before a piece is written, ms. */
const REST = 120

/** A worker that writes pieces and keeps the last one to be looked at. */
class PieceWorker {
  private readonly worker = new Worker(new URL('../workers/makePiece.worker.ts', import.meta.url), {
    type: 'module',
  })
  private readonly layers = new Map<number, (plan: LayerPlan) => void>()
  private asked = 0

  constructor(onPiece: (answer: PieceAnswer) => void) {
    this.worker.onmessage = ({ data }: MessageEvent<FromPieceWorker>) => {
      if (data.kind === 'piece') return onPiece(data)
      this.layers.get(data.ask)?.(data.plan)
      this.layers.delete(data.ask)
    }
  }

  write(pair: PairDetail, plan: PiecePlan): void {
    this.worker.postMessage({
      kind: 'piece',
      pair: onBench(pair),
      plan,
      context: readingContext(pair),
    } satisfies PieceAsk)
  }

  layer(layer: number): Promise<LayerPlan> {
    return new Promise((resolve) => {
      const ask = ++this.asked
      this.layers.set(ask, resolve)
      this.worker.postMessage({ kind: 'layer', ask, layer } satisfies PieceAsk)
    })
  }

  end(): void {
    this.worker.terminate()
  }
}

/** Writes a piece in a worker and reads it back, anew whenever the plan changes; null while it is on its way. */
export function usePiece(
  pair: PairDetail,
  plan: PiecePlan,
): { answer: PieceAnswer | null; layer: LayerSource } {
  const worker = useRef<PieceWorker | null>(null)
  const [answer, setAnswer] = useState<PieceAnswer | null>(null)
  const key = JSON.stringify(plan)
  useEffect(() => {
    const wait = setTimeout(() => {
      // a plan that is still being written for older numbers is ended
      worker.current?.end()
      worker.current = new PieceWorker(setAnswer)
      worker.current.write(pair, JSON.parse(key) as PiecePlan)
    }, REST)
    return () => clearTimeout(wait)
  }, [key, pair])
  useEffect(() => () => worker.current?.end(), [])
  const layer = useCallback<LayerSource>((n) => worker.current!.layer(n), [])
  return { answer, layer }
}
