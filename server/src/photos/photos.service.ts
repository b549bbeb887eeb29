import { randomUUID } from 'node:crypto'
import type { Readable } from 'node:stream'
import { Injectable } from '@nestjs/common'
import { MAX_PHOTOS, MAX_PHOTO_BYTES, type UpdatePhoto } from '@verimend/contract'
import { BlobsService } from '../blobs/blobs.service'
import { CasesRepository } from '../cases/cases.repository'
import { CasesService } from '../cases/cases.service'
import { Database } from '../database/database.module'
import { notFound, refused } from '../problem/problem'
import { TrialsService } from '../trials/trials.service'
import { PhotosRepository, type PhotoOwner } from './photos.repository'
import { preparePhoto } from './prepare'

/** Photos of cases and trials: turned upright, without what the camera wrote into them, with a thumbnail. */
@Injectable()
export class PhotosService {
  constructor(
    private readonly photos: PhotosRepository,
    private readonly cases: CasesRepository,
    private readonly casesService: CasesService,
    private readonly blobs: BlobsService,
    private readonly trials: TrialsService,
    private readonly database: Database,
  ) {}

  private async keep(body: Readable) {
    const { picture, thumbnail, width, height } = await preparePhoto(await collect(body))
    return {
      id: randomUUID(),
      sha256: await this.blobs.keep(picture),
      thumb: await this.blobs.keep(thumbnail),
      width,
      height,
      note: '',
      marks: [],
      scale: null,
      removedAt: null,
    }
  }

  /** Refuses more photos than a case or trial holds. */
  private async refuseCrowd(owner: PhotoOwner): Promise<void> {
    if ((await this.photos.count(owner)) >= MAX_PHOTOS)
      throw refused('too-many-photos', `At most ${MAX_PHOTOS} photos are held together. Remove one first.`)
  }

  /** Takes a photo into an open or closed case; it belongs to the print after the attempts made so far. */
  async add(caseId: string, body: Readable) {
    await this.cases.row(caseId)
    const photo = await this.keep(body)
    return this.changeCase(caseId, async () => {
      await this.refuseCrowd({ caseId })
      const afterAttempt = await this.cases.countAttempts(caseId)
      await this.photos.create({ ...photo, caseId, afterAttempt })
    })
  }

  /** Takes a photo of one place of a test piece. */
  async addToTrial(trialId: string, cell: string, body: Readable) {
    const trial = await this.trials.one(trialId)
    if (!trial.cells.some((c) => c.id === cell)) throw notFound('place of this piece')
    const photo = await this.keep(body)
    await this.database.transaction(async () => {
      await this.refuseCrowd({ trialId })
      await this.photos.create({ ...photo, caseId: null, trialId, cell, afterAttempt: 0 })
    })
    return this.ofTrial(trialId)
  }

  async ofTrial(trialId: string) {
    return (await this.photos.ofTrial(trialId)).map((p) => ({ id: p.id, cell: p.cell ?? '' }))
  }

  /** Changes what hangs on a case, open or closed, and answers with the whole case. */
  private changeCase(caseId: string, work: () => Promise<void>) {
    return this.casesService.change(caseId, work, { closedToo: true })
  }

  /** Changes a photo of a case; those of a trial carry no marks. */
  private async change(id: string, change: Partial<UpdatePhoto> & { removedAt?: Date | null }) {
    const row = await this.photos.get(id)
    if (!row.caseId) throw notFound('photo of a case')
    return this.changeCase(row.caseId, async () => {
      await row.update(change)
    })
  }

  update(id: string, change: UpdatePhoto) {
    return this.change(id, change)
  }

  /** Takes a photo away; nothing is lost. */
  softDelete(id: string) {
    return this.change(id, { removedAt: new Date() })
  }

  restore(id: string) {
    return this.change(id, { removedAt: null })
  }

  softDeleteOfTrial(trialId: string, id: string) {
    return this.setRemovedAtOfTrial(trialId, id, new Date())
  }

  restoreOfTrial(trialId: string, id: string) {
    return this.setRemovedAtOfTrial(trialId, id, null)
  }

  private async setRemovedAtOfTrial(trialId: string, id: string, removedAt: Date | null) {
    const row = await this.photos.get(id)
    if (row.trialId !== trialId) throw notFound('photo of this trial')
    await row.update({ removedAt })
    return this.ofTrial(trialId)
  }

  async read(id: string, small: boolean) {
    const row = await this.photos.get(id)
    return this.blobs.read(small ? row.thumb : row.sha256)
  }
}

async function collect(body: Readable): Promise<Buffer> {
  const chunks: Buffer[] = []
  let size = 0
  for await (const chunk of body as AsyncIterable<Buffer>) {
    size += chunk.length
    if (size > MAX_PHOTO_BYTES)
      throw refused('photo-too-large', `A photo has at most ${MAX_PHOTO_BYTES / 1e6} MB.`)
    chunks.push(chunk)
  }
  return Buffer.concat(chunks)
}
