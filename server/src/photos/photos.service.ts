import { randomUUID } from 'node:crypto'
import type { Readable } from 'node:stream'
import { Injectable } from '@nestjs/common'
import { MAX_PHOTOS, MAX_PHOTO_BYTES, type UpdatePhoto } from '@verimend/contract'
import sharp from 'sharp'
import { Blobs } from '../blobs/blobs.service'
import { Cases } from '../cases/cases.service'
import { AttemptRow, PhotoRow } from '../database/models'
import { notFound, refused } from '../problem/problem'
import { Database } from '../database/database.module'
import { Trials } from '../trials/trials.service'
import type { Transaction } from 'sequelize'

/** Longest side of a kept photo and of its thumbnail, px. */
const LARGE = 2400
const SMALL = 360
/** More pixels than any camera at a bench makes. */
const MOST_PIXELS = 120_000_000
const KINDS = new Set(['jpeg', 'png', 'webp', 'avif', 'heif', 'gif'])

/** Photos of cases: turned upright, without what the camera wrote into them, with a thumbnail. */
@Injectable()
export class Photos {
  constructor(
    private readonly cases: Cases,
    private readonly blobs: Blobs,
    private readonly trials: Trials,
    private readonly database: Database,
  ) {}

  private async keep(body: Readable) {
    const { picture, thumbnail, width, height } = await prepare(await collect(body))
    const [sha256, thumb] = [await this.blobs.keep(picture), await this.blobs.keep(thumbnail)]
    return {
      id: randomUUID(),
      sha256,
      thumb,
      width,
      height,
      note: '',
      marks: [],
      scale: null,
      removedAt: null,
    }
  }

  /** Takes a photo into an open or closed case; it belongs to the print after the attempts made so far. */
  async add(caseId: string, body: Readable) {
    await this.cases.detail(caseId)
    const photo = await this.keep(body)
    return this.cases.touch(caseId, async (transaction) => {
      await room({ caseId }, transaction)
      const afterAttempt = await AttemptRow.count({ where: { caseId }, transaction })
      await PhotoRow.create({ ...photo, caseId, afterAttempt }, { transaction })
    })
  }

  /** Takes a photo of one place of a test piece. */
  async addToTrial(trialId: string, cell: string, body: Readable) {
    const trial = await this.trials.one(trialId)
    if (!trial.cells.some((c) => c.id === cell)) throw notFound('place of this piece')
    const photo = await this.keep(body)
    await this.database.sequelize.transaction(async (transaction) => {
      await room({ trialId }, transaction)
      await PhotoRow.create({ ...photo, caseId: null, trialId, cell, afterAttempt: 0 }, { transaction })
    })
    return this.ofTrial(trialId)
  }

  async ofTrial(trialId: string) {
    const rows = await PhotoRow.findAll({
      where: { trialId, removedAt: null },
      order: [['createdAt', 'ASC']],
    })
    return rows.map((p) => ({ id: p.id, cell: p.cell ?? '' }))
  }

  private async row(id: string): Promise<PhotoRow> {
    const row = await PhotoRow.findByPk(id)
    if (!row) throw notFound('photo')
    return row
  }

  /** A photo of a case; those of a trial carry no marks. */
  private async ofCase(id: string): Promise<PhotoRow & { caseId: string }> {
    const row = await this.row(id)
    if (!row.caseId) throw notFound('photo of a case')
    return row as PhotoRow & { caseId: string }
  }

  async update(id: string, change: UpdatePhoto) {
    const row = await this.ofCase(id)
    return this.cases.touch(row.caseId, async (transaction) => {
      await row.update(change, { transaction })
    })
  }

  async setRemoved(id: string, removed: boolean) {
    const row = await this.ofCase(id)
    return this.cases.touch(row.caseId, async (transaction) => {
      await row.update({ removedAt: removed ? new Date() : null }, { transaction })
    })
  }

  async setRemovedOfTrial(trialId: string, id: string, removed: boolean) {
    const row = await this.row(id)
    if (row.trialId !== trialId) throw notFound('photo of this trial')
    await row.update({ removedAt: removed ? new Date() : null })
    return this.ofTrial(trialId)
  }

  async read(id: string, small: boolean) {
    const row = await this.row(id)
    return this.blobs.read(small ? row.thumb : row.sha256)
  }
}

/** Refuses more photos than a case or trial holds. */
async function room(
  where: { caseId: string } | { trialId: string },
  transaction: Transaction,
): Promise<void> {
  if ((await PhotoRow.count({ where: { ...where, removedAt: null }, transaction })) >= MAX_PHOTOS)
    throw refused('too-many-photos', `At most ${MAX_PHOTOS} photos are held together. Remove one first.`)
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

/** Turned upright by what the camera noted, then written anew without any of the camera's notes (place, time). */
async function prepare(bytes: Buffer) {
  const unreadable = refused(
    'not-a-photo',
    'This is no picture that can be read here. JPEG, PNG, WebP, AVIF and GIF can.',
  )
  try {
    const open = () => sharp(bytes, { limitInputPixels: MOST_PIXELS, failOn: 'error' })
    const { format } = await open().metadata()
    if (!KINDS.has(format)) throw unreadable
    const fit = (side: number) =>
      open()
        .autoOrient()
        .resize({ width: side, height: side, fit: 'inside', withoutEnlargement: true })
        .flatten({ background: '#ffffff' })
        .jpeg({ quality: 84 })
    const { data: picture, info } = await fit(LARGE).toBuffer({ resolveWithObject: true })
    return { picture, thumbnail: await fit(SMALL).toBuffer(), width: info.width, height: info.height }
  } catch {
    throw unreadable
  }
}
