import type { LayerPlan, PathReading, ReadingContext } from '@verimend/core/toolpath'
import type { FromWorker, ToWorker } from './readGcode.worker'

export interface ReadFile {
  name: string
  bytes: number
  sha256: string
  reading: PathReading
}
/** Asks for one layer of the file that is open in the worker. */
export type LayerSource = (layer: number) => Promise<LayerPlan>

/** What came of reading: the reading, the file it came from (null for a kept one), and its layers while it is open. */
export interface Opened extends ReadFile {
  file: File | null
  layer: LayerSource
  /** Ends the worker that holds its moves. */
  close: () => void
}
export type PathSource = File | { address: string; name: string }

/**
 * Reads a G-code file in a worker of its own, which keeps the moves, so that single layers can be asked for, until it is
 * closed.
 * @throws Error with a sentence where it cannot be read; AbortError where it was ended
 */
export function readInWorker(
  source: PathSource,
  context: ReadingContext,
  onShare: (share: number) => void,
  signal: AbortSignal,
): Promise<Opened> {
  return new Promise((resolve, reject) => {
    const w = new Worker(new URL('./readGcode.worker.ts', import.meta.url), { type: 'module' })
    const waiting = new Map<number, (plan: LayerPlan) => void>()
    let asked = 0
    const send = (message: ToWorker) => w.postMessage(message)
    const layer: LayerSource = (n) =>
      new Promise((answer) => {
        const ask = ++asked
        waiting.set(ask, answer)
        send({ kind: 'layer', layer: n, ask })
      })
    const fail = (error: unknown) => {
      w.terminate()
      reject(error)
    }
    signal.addEventListener('abort', () => fail(signal.reason), { once: true })
    w.onmessage = ({ data }: MessageEvent<FromWorker>) => {
      if (data.kind === 'progress') onShare(data.share)
      else if (data.kind === 'failed') fail(new Error(data.message))
      else if (data.kind === 'layer') {
        waiting.get(data.ask)?.(data.plan)
        waiting.delete(data.ask)
      } else
        resolve({
          name: source.name,
          bytes: data.bytes,
          sha256: data.sha256,
          reading: data.reading,
          file: source instanceof File ? source : null,
          layer,
          close: () => w.terminate(),
        })
    }
    w.onerror = () =>
      fail(new Error('The reader stopped by itself. Nothing else is lost; try the file once more.'))
    send({ kind: 'read', source: source instanceof File ? source : source.address, context })
  })
}
