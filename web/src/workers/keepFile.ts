import { MAX_BLOB_PART, type BlobState } from '@verimend/contract'
import { api } from '../api/client'

const TRIES = 5

/**
 * Sends a file to be kept, in parts. Goes on where an earlier try ended; parts that are lost are sent again.
 * @param onStep share done, 0 to 1
 * @param signal stops between parts; what is there stays for the next try
 */
export async function keepFile(
  file: File,
  sha256: string,
  onStep: (share: number) => void,
  signal: AbortSignal,
): Promise<void> {
  let state: BlobState = await api.blobs.begin(sha256, file.size)
  let failures = 0
  while (!state.done && state.have < file.size) {
    signal.throwIfAborted()
    try {
      state = await api.blobs.part(
        sha256,
        state.have,
        file.slice(state.have, state.have + MAX_BLOB_PART),
        signal,
      )
      failures = 0
    } catch (error) {
      signal.throwIfAborted()
      if (++failures >= TRIES) throw error
      await new Promise((r) => setTimeout(r, 400 * 2 ** failures))
      state = await api.blobs.begin(sha256, file.size)
    }
    onStep(state.have / file.size)
  }
  if (!state.done) await api.blobs.finish(sha256, file.size)
  onStep(1)
}
