import type { Readable } from 'node:stream'
import { Injectable } from '@nestjs/common'
import { MAX_PHOTOS, MAX_PHOTO_BYTES, type UpdatePhoto } from '@verimend/contract'
import { BlobsService } from '../blobs/blobs.service'
import { CasesRepository } from '../cases/cases.repository'
import { CasesService } from '../cases/cases.service'
import { Database } from '../database/database.module'
import { once } from '../database/once'
import { notFound, refused } from '../problem/problem'
import { TrialsService } from '../trials/trials.service'
import { PhotosRepository, type PhotoOwner } from './photos.repository'
import { preparePhoto } from './prepare'

/** A photo on its way: its id, its bytes, and whether anybody still waits for the answer. */
export interface SentPhoto {
  id: string
  body: Readable
  gone: AbortSignal
}

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

  /** It arrives in a file, and waits there for its turn to be decoded: however many come at once, few are in memory. */
  private async keep(id: string, body: Readable, gone: AbortSignal) {
    const { picture, thumbnail, width, height } = await this.blobs.arrive(
      body,
      MAX_PHOTO_BYTES,
      () => refused('photo-too-large', `A photo has at most ${MAX_PHOTO_BYTES / 1e6} MB.`),
      (path) => preparePhoto(path, gone),
    )
    return {
      id,
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

  /**
   * Makes a photo once: sent again, because its answer was lost or at the same moment, it is there already. What its sender has
   * given up is not kept.
   */
  private once(
    { id, body, gone }: SentPhoto,
    keep: (photo: Awaited<ReturnType<PhotosService['keep']>>) => Promise<unknown>,
  ) {
    return once(
      () => this.photos.find(id),
      async () => {
        const photo = await this.keep(id, body, gone)
        gone.throwIfAborted()
        await keep(photo)
        return this.photos.get(id)
      },
    )
  }

  /** Takes a photo into an open or closed case; it belongs to the print after the attempts made so far. */
  async add(caseId: string, sent: SentPhoto) {
    await this.cases.row(caseId)
    await this.once(sent, (photo) =>
      this.changeCase(caseId, async () => {
        await this.refuseCrowd({ caseId })
        const afterAttempt = await this.cases.countAttempts(caseId)
        await this.photos.create({ ...photo, caseId, afterAttempt })
      }),
    )
    return this.casesService.detail(caseId)
  }

  /** Takes a photo of one place of a test piece. */
  async addToTrial(trialId: string, cell: string, sent: SentPhoto) {
    const trial = await this.trials.one(trialId)
    if (!trial.cells.some((c) => c.id === cell)) throw notFound('place of this piece')
    await this.once(sent, (photo) =>
      this.database.transaction(async () => {
        await this.refuseCrowd({ trialId })
        await this.photos.create({ ...photo, caseId: null, trialId, cell, afterAttempt: 0 })
      }),
    )
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
