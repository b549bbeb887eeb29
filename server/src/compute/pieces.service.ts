import { Injectable } from '@nestjs/common'
import type { PairOnBench, PiecePlan } from '@verimend/core/trials'
import { say } from '@verimend/core/words'
import { BlobsService } from '../blobs/blobs.service'
import { notFound, refused } from '../problem/problem'
import { Compute } from './compute.service'
import type { JobOutput } from './tasks'

/** Test pieces, written in a thread. */
@Injectable()
export class PiecesService {
  constructor(
    private readonly compute: Compute,
    private readonly blobs: BlobsService,
  ) {}

  /**
   * A piece with its time and weight.
   * @throws a problem that says why it cannot be printed as planned
   */
  async write(pair: PairOnBench, plan: PiecePlan, header: string[], signal?: AbortSignal) {
    const sha256 = plan.onPart?.sha256 ?? plan.onFile?.sha256
    if (sha256 && !this.blobs.has(sha256)) throw notFound(plan.onPart ? 'mesh of this part' : 'file')
    const source = sha256 && this.blobs.path(sha256)
    const written = await this.compute.run(
      'writePiece',
      { pair, plan, header, ...(source && { source }) },
      signal,
    )
    if ('fault' in written) {
      const message = say(written.fault)
      throw refused('bad-plan', message, [{ path: 'plan.steps', message }])
    }
    return written
  }

  /** The piece that is printed for practice, and how its paths read. */
  practice(pair: PairOnBench): Promise<JobOutput<'writePractice'>> {
    return this.compute.run('writePractice', pair)
  }
}
