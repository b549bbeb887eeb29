import type { PairDetail } from '@verimend/contract'
import type { LayerPlan, PairOnBench, PiecePlan } from '@verimend/core'
import { useCallback, useEffect, useRef, useState } from 'react'
import { readingContext } from '../pairs/readingContext'
import type { FromPieceWorker, PieceAnswer, PieceAsk } from '../workers/makePiece.worker'
import type { LayerSource } from '../workers/useReadGcode'

export const onBench = (pair: PairDetail): PairOnBench => ({
  machine: pair.machine.machine,
  filament: pair.filament.filament,
  recipe: pair.version.values,
})

/** Writes a piece in a worker and reads it back, anew whenever the plan changes; null while it is on its way. */
export function usePiece(
  pair: PairDetail,
  plan: PiecePlan,
): { answer: PieceAnswer | null; layer: LayerSource } {
  const worker = useRef<Worker | null>(null)
  const asked = useRef(0)
  const layers = useRef(new Map<number, (plan: LayerPlan) => void>())
  const [answer, setAnswer] = useState<PieceAnswer | null>(null)
  useEffect(() => {
    const w = new Worker(new URL('../workers/makePiece.worker.ts', import.meta.url), { type: 'module' })
    worker.current = w
    const waiting = layers.current
    let newest = 0
    w.onmessage = ({ data }: MessageEvent<FromPieceWorker>) => {
      if (data.kind === 'layer') {
        waiting.get(data.ask)?.(data.plan)
        waiting.delete(data.ask)
      } else if (data.ask > newest) {
        newest = data.ask
        setAnswer(data)
      }
    }
    return () => w.terminate()
  }, [])
  const key = JSON.stringify(plan)
  useEffect(() => {
    const wait = setTimeout(() => {
      const ask: PieceAsk = {
        kind: 'piece',
        ask: ++asked.current,
        pair: onBench(pair),
        plan: JSON.parse(key) as PiecePlan,
        context: readingContext(pair),
      }
      worker.current?.postMessage(ask)
    }, 120)
    return () => clearTimeout(wait)
  }, [key, pair])
  const layer = useCallback<LayerSource>(
    (n) =>
      new Promise((resolve) => {
        const ask = ++asked.current
        layers.current.set(ask, resolve)
        worker.current?.postMessage({ kind: 'layer', ask, layer: n } satisfies PieceAsk)
      }),
    [],
  )
  return { answer, layer }
}
