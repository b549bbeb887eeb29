import { Injectable } from '@nestjs/common'
import type { PairOnBench, PiecePlan } from '@verimend/core/trials'
import { say } from '@verimend/core/words'
import { refused } from '../problem/problem'
import { Compute } from './compute.service'

/** Test pieces, written in a thread. */
@Injectable()
export class PiecesService {
  constructor(private readonly compute: Compute) {}

  /**
   * A piece with its time and weight.
   * @throws a problem that says why it cannot be printed as planned
   */
  async write(pair: PairOnBench, plan: PiecePlan, header: string[], signal?: AbortSignal) {
    const written = await this.compute.run('writePiece', { pair, plan, header }, signal)
    if ('fault' in written) {
      const message = say(written.fault)
      throw refused('bad-plan', message, [{ path: 'plan.steps', message }])
    }
    return written
  }
}
