import type { ChangedFile, ChangeFileAsk, FromChangeWorker } from './changeFile.worker'

/**
 * Writes a file with changes in a worker of its own.
 * @throws Error with a sentence where it cannot be done; AbortError where it was ended
 */
export function changeInWorker(
  ask: ChangeFileAsk,
  onShare: (share: number) => void,
  signal: AbortSignal,
): Promise<ChangedFile> {
  return new Promise((resolve, reject) => {
    const w = new Worker(new URL('./changeFile.worker.ts', import.meta.url), { type: 'module' })
    const fail = (error: unknown) => {
      w.terminate()
      reject(error)
    }
    signal.addEventListener('abort', () => fail(signal.reason), { once: true })
    w.onmessage = ({ data }: MessageEvent<FromChangeWorker>) => {
      if (data.kind === 'progress') return onShare(data.share)
      if (data.kind === 'failed') return fail(new Error(data.message))
      w.terminate()
      const { kind: _, ...changed } = data
      resolve(changed)
    }
    w.onerror = () =>
      fail(new Error('The writer stopped by itself. Your file is untouched; try it once more.'))
    w.postMessage(ask)
  })
}
