import { buffer } from 'node:stream/consumers'
import { Injectable } from '@nestjs/common'
import { caseMarkdown, caseReport, type SummarisedCase } from '@verimend/core'
import { Blobs } from '../blobs/blobs.service'
import { PhotoRow } from '../database/models'
import { Pairs } from '../pairs/pairs.service'
import { Cases } from './cases.service'
import { reportSheet } from './report'

/** A case to hand on. */
@Injectable()
export class CaseReports {
  constructor(
    private readonly cases: Cases,
    private readonly pairs: Pairs,
    private readonly blobs: Blobs,
  ) {}

  /** The case to hand on, as Markdown. */
  async summary(id: string): Promise<string> {
    return caseMarkdown(await this.summarised(id))
  }

  /** The case to hand on, as PDF, with its first and last photo. */
  async report(id: string): Promise<Buffer> {
    const photos = await PhotoRow.findAll({
      where: { caseId: id, removedAt: null },
      order: [
        ['afterAttempt', 'ASC'],
        ['createdAt', 'ASC'],
      ],
    })
    const ends = photos.length > 1 ? [photos[0], photos.at(-1)!] : photos
    return reportSheet(
      caseReport(await this.summarised(id)),
      await Promise.all(
        ends.map(async (p) => ({
          jpeg: await buffer(this.blobs.read(p.sha256).stream),
          words: `${p.afterAttempt ? `After attempt ${p.afterAttempt}` : 'Before'}${p.note ? `: ${p.note}` : ''}`,
        })),
      ),
    )
  }

  private async summarised(id: string): Promise<SummarisedCase> {
    const c = await this.cases.detail(id)
    const pair = await this.pairs.detail(c.pairId)
    return {
      part: c.part,
      note: c.note,
      machine: pair.machine.machine,
      filament: pair.filament.filament,
      signs: c.signs,
      attempts: c.attempts,
      checks: c.checks,
      marks: c.marks.map((m) => m.sentence),
      keptVersion: c.keptVersion,
      learnt: c.learnt,
      begun: c.createdAt,
      closed: c.status === 'closed' ? c.updatedAt : null,
    }
  }
}
