import { buffer } from 'node:stream/consumers'
import { Injectable } from '@nestjs/common'
import { caseMarkdown, caseReport, type SummarisedCase } from '@verimend/core/words'
import { measurementContext } from '@verimend/core/casework'
import { evaluate } from '@verimend/core/measurement'
import { MeasurementsRepository } from '../measurements/measurements.repository'
import { VersionsRepository } from '../pairs/versions.repository'
import { BlobsService } from '../blobs/blobs.service'
import { PairsRepository } from '../pairs/pairs.repository'
import { Compute } from '../compute/compute.service'
import { CasesRepository } from './cases.repository'

/** Cases to hand on. */
@Injectable()
export class ReportsService {
  constructor(
    private readonly cases: CasesRepository,
    private readonly pairs: PairsRepository,
    private readonly blobs: BlobsService,
    private readonly measurements: MeasurementsRepository,
    private readonly versions: VersionsRepository,
    private readonly compute: Compute,
  ) {}

  /** The case as Markdown. */
  async markdown(id: string): Promise<string> {
    return caseMarkdown(await this.summarised(id))
  }

  /** The case as PDF, with its first and last photo. */
  async pdf(id: string): Promise<Buffer> {
    const report = caseReport(await this.summarised(id))
    const photos = await this.cases.photos(id)
    const ends = photos.length > 1 ? [photos[0], photos.at(-1)!] : photos
    const shown = await Promise.all(
      ends.map(async (p) => ({
        jpeg: await buffer(this.blobs.read(p.sha256).stream),
        words: `${p.afterAttempt ? `After attempt ${p.afterAttempt}` : 'Before'}${p.note ? `: ${p.note}` : ''}`,
      })),
    )
    return Buffer.from(await this.compute.run('caseSheet', { report, photos: shown }))
  }

  private async summarised(id: string): Promise<SummarisedCase> {
    const row = await this.cases.row(id)
    const pair = await this.pairs.load(row.pairId)
    const { machine, filament } = pair
    const { recipe } = await this.versions.current(pair)
    const context = measurementContext({ machine, filament, recipe: recipe.values }, null)
    const measured = (await this.measurements.newestFirst({ caseId: id })).reverse()
    return {
      part: row.part,
      note: row.note,
      machine,
      filament,
      signs: row.signs,
      attempts: (await this.cases.attempts(id)).map((a) => this.cases.attemptOf(a)),
      checks: row.checks ?? [],
      measured: measured.map(({ measured: m, inUse }) => {
        const { outcome } = evaluate(m, { ...context, inUse: inUse ?? undefined })
        return {
          kind: m.kind,
          says: outcome.reasons,
          ...(m.kind === 'sizes' &&
            'rows' in outcome && {
              sizes: outcome.rows.flatMap(({ id, error, after }) => {
                const size = m.readings.find((r) => r.id === id)
                return size ? [{ name: size.name, nominal: size.nominal, error, after }] : []
              }),
            }),
        }
      }),
      marks: this.cases.marksOf(row).map((m) => m.reason),
      keptVersion: row.keptVersion,
      learnt: this.cases.taughtOf(row),
      begun: row.createdAt.toISOString(),
      closed: row.status === 'closed' ? row.updatedAt.toISOString() : null,
    }
  }
}
