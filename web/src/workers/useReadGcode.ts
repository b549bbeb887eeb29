import { startTransition, useCallback, useEffect, useRef, useState } from 'react'
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
type State =
  | { kind: 'idle' }
  | { kind: 'reading'; name: string; share: number }
  | { kind: 'failed'; name: string; message: string }

/** What came of reading: the reading, the file it came from (null for a kept one), and its layers while it is open. */
export interface Opened extends ReadFile {
  file: File | null
  layer: LayerSource
}

/**
 * Reads a G-code file in a worker, with progress and cancel. The worker keeps the moves, so that single layers can
 * be asked for, until another file is read or the screen is left.
 */
export function useReadGcode(onRead: (file: Opened) => void, keepOpen = false) {
  const [state, setState] = useState<State>({ kind: 'idle' })
  const worker = useRef<Worker | null>(null)
  const stop = useCallback(() => {
    worker.current?.terminate()
    worker.current = null
    setState({ kind: 'idle' })
  }, [])
  useEffect(() => () => worker.current?.terminate(), [])
  const read = useCallback(
    (source: File | { address: string; name: string }, context: ReadingContext) => {
      worker.current?.terminate()
      const w = new Worker(new URL('./readGcode.worker.ts', import.meta.url), { type: 'module' })
      worker.current = w
      const name = source.name
      setState({ kind: 'reading', name, share: 0 })
      const waiting = new Map<number, (plan: LayerPlan) => void>()
      let asked = 0
      const send = (message: ToWorker) => w.postMessage(message)
      const layer: LayerSource = (n) =>
        new Promise((resolve) => {
          const ask = ++asked
          waiting.set(ask, resolve)
          send({ kind: 'layer', layer: n, ask })
        })
      const end = (next: State) => {
        w.terminate()
        if (worker.current === w) worker.current = null
        setState(next)
      }
      w.onmessage = ({ data }: MessageEvent<FromWorker>) => {
        if (data.kind === 'progress') setState({ kind: 'reading', name, share: data.share })
        else if (data.kind === 'failed') end({ kind: 'failed', name, message: data.message })
        else if (data.kind === 'layer') {
          waiting.get(data.ask)?.(data.plan)
          waiting.delete(data.ask)
        } else {
          if (keepOpen) setState({ kind: 'idle' })
          else end({ kind: 'idle' })
          // a long reading is drawn in slices, so that the page goes on answering
          startTransition(() =>
            onRead({
              name,
              bytes: data.bytes,
              sha256: data.sha256,
              reading: data.reading,
              file: source instanceof File ? source : null,
              layer,
            }),
          )
        }
      }
      w.onerror = () =>
        end({
          kind: 'failed',
          name,
          message: 'The reader stopped by itself. Nothing else is lost; try the file once more.',
        })
      send({ kind: 'read', source: source instanceof File ? source : source.address, context })
    },
    [onRead, keepOpen],
  )
  return { state, read, stop, clear: () => setState({ kind: 'idle' }) }
}
