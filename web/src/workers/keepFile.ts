import { MAX_BLOB_PART, type BlobState } from '@verimend/contract'
import { api } from '../api/client'
import { ApiProblem } from '../api/http'

const TRIES = 5
/** Sending it again would change nothing; with a conflict the server says from where to go on. */
const isFinal = (error: unknown) =>
  error instanceof ApiProblem &&
  error.problem.status >= 400 &&
  error.problem.status < 500 &&
  error.problem.status !== 409

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
  const begin = () => api.blobs.begin(sha256, file.size)
  let state: BlobState = await begin()
  for (let failures = 0; !state.done;) {
    signal.throwIfAborted()
    const { have } = state
    try {
      state =
        have < file.size
          ? await api.blobs.part(sha256, have, file.slice(have, have + MAX_BLOB_PART), signal)
          : await api.blobs.finish(sha256, file.size)
      failures = 0
      onStep(state.have / file.size)
    } catch (error) {
      signal.throwIfAborted()
      if (isFinal(error) || ++failures >= TRIES) throw error
      await new Promise((r) => setTimeout(r, 400 * 2 ** failures))
      state = await begin()
    }
  }
  onStep(1)
}
