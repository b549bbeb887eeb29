import { randomUUID } from 'node:crypto'
import { Injectable } from '@nestjs/common'
import type { CaseFileHead } from '@verimend/contract'
import type { HeightRange, PathReading, QuantityId } from '@verimend/core/toolpath'
import { BlobsService } from '../blobs/blobs.service'
import { Compute } from '../compute/compute.service'
import { refused } from '../problem/problem'
import { CasesRepository } from './cases.repository'
import { CasesService } from './cases.service'

/** The path files of a case, and the heights marked in them. */
@Injectable()
export class FilesService {
  constructor(
    private readonly cases: CasesRepository,
    private readonly casesService: CasesService,
    private readonly compute: Compute,
    private readonly blobs: BlobsService,
  ) {}

  /** Path files of a pair's cases, the newest first. */
  async ofPair(pairId: string): Promise<CaseFileHead[]> {
    return (await this.cases.filesOfPair(pairId)).map(({ file: f, part }) => ({
      id: f.id,
      caseId: f.caseId,
      part,
      name: f.name,
      afterAttempt: f.afterAttempt,
      grams: f.grams,
      seconds: f.seconds,
      kept: this.blobs.has(f.sha256),
      createdAt: f.createdAt.toISOString(),
    }))
  }

  /** Takes a path file in; the same file after the same attempt is there once. */
  add(
    id: string,
    file: { name: string; bytes: number; sha256: string; reading: PathReading; afterAttempt?: number },
  ) {
    const { reading, afterAttempt: after = Infinity, ...head } = file
    return this.casesService.change(id, async () => {
      const afterAttempt = Math.min(after, await this.cases.countAttempts(id))
      if (await this.cases.fileOf(id, file.sha256, afterAttempt)) return
      // kept whole, it stays as long as the case names it
      this.blobs.claim(file.sha256)
      await this.cases.addFile({ id: randomUUID(), caseId: id, afterAttempt, ...head }, reading)
    })
  }

  remove(id: string, fileId: string) {
    return this.casesService.change(id, async (row) => {
      await this.cases.removeFile(id, fileId)
      this.casesService.dropMarks(row, (m) => m.fileId === fileId)
    })
  }

  /** Makes the match between marked heights and a quantity of a path file evidence in the case. */
  async addMark(
    id: string,
    fileId: string,
    heightRanges: HeightRange[],
    quantity: QuantityId,
    signal?: AbortSignal,
  ) {
    const { reading } = await this.cases.file(id, fileId)
    const matches = await this.compute.run(
      'correlate',
      { layers: reading.layers, ranges: heightRanges },
      signal,
    )
    const match = matches.find((c) => c.id === quantity)
    if (!match)
      throw refused('no-match', 'Nothing of that kind changes at these heights.', [
        { path: 'quantity', message: 'It does not differ between marked and unmarked layers.' },
      ])
    return this.casesService.change(id, async (row) => {
      // it may have been removed meanwhile
      await this.cases.file(id, fileId)
      const { reason, strength, p } = match
      this.casesService.keepMark(row, {
        id: randomUUID(),
        fileId,
        heightRanges,
        quantity,
        reason,
        strength,
        p,
      })
    })
  }

  removeMark(id: string, markId: string) {
    return this.casesService.change(id, (row) => this.casesService.dropMarks(row, (m) => m.id === markId))
  }
}
