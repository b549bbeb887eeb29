import { Injectable } from '@nestjs/common'
import type { CreationAttributes } from 'sequelize'
import { PhotoRow } from '../database/models'
import { notFound } from '../problem/problem'

/** What a photo belongs to. */
export type PhotoOwner = { caseId: string } | { trialId: string }

/** Kept photos. */
@Injectable()
export class PhotosRepository {
  find(id: string): Promise<PhotoRow | null> {
    return PhotoRow.findByPk(id)
  }

  async get(id: string): Promise<PhotoRow> {
    const row = await PhotoRow.findByPk(id)
    if (!row) throw notFound('photo')
    return row
  }

  count(owner: PhotoOwner): Promise<number> {
    return PhotoRow.count({ where: { ...owner, removedAt: null } })
  }

  ofTrial(trialId: string): Promise<PhotoRow[]> {
    return PhotoRow.findAll({ where: { trialId, removedAt: null }, order: [['createdAt', 'ASC']] })
  }

  async create(photo: CreationAttributes<PhotoRow>): Promise<void> {
    await PhotoRow.create(photo)
  }
}
