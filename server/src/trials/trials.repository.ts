import { Injectable } from '@nestjs/common'
import type { ReadTrial, Readings } from '@verimend/core/trials'
import { upgradeReadings } from '@verimend/core/trials'
import { Transaction, type CreationAttributes } from 'sequelize'
import { TrialRow } from '../database/models'
import { notFound } from '../problem/problem'

/** A trial with its readings in today's shape. */
export interface KeptTrial extends ReadTrial {
  row: TrialRow
  readings: Readings
}

const keptOf = (row: TrialRow): KeptTrial => ({
  row,
  number: row.number,
  plan: row.plan,
  cells: row.cells,
  readings: upgradeReadings(row.readings),
  resolution: row.resolution,
})

/** Most trials of a pair that are listed and weighed: the newest. */
const MOST_TRIALS = 60

/** Kept trials. */
@Injectable()
export class TrialsRepository {
  /** The newest trials of a pair that are not removed, the newest first. */
  async newestFirst(pairId: string): Promise<KeptTrial[]> {
    const rows = await TrialRow.findAll({
      where: { removedAt: null, pairId },
      order: [
        ['createdAt', 'DESC'],
        ['number', 'DESC'],
      ],
      limit: MOST_TRIALS,
    })
    return rows.map(keptOf)
  }

  async find(id: string): Promise<KeptTrial | null> {
    const row = await TrialRow.findByPk(id)
    return row && keptOf(row)
  }

  /** @param lock whether nobody else may change it until the transaction ends */
  async get(id: string, lock = false): Promise<KeptTrial> {
    const row = await TrialRow.findByPk(id, lock ? { lock: Transaction.LOCK.UPDATE } : {})
    if (!row) throw notFound('trial')
    return keptOf(row)
  }

  /** The number after the last one of a pair, removed ones counted. */
  async nextNumber(pairId: string): Promise<number> {
    return (((await TrialRow.max('number', { where: { pairId } })) as number | null) ?? 0) + 1
  }

  async create(trial: CreationAttributes<TrialRow>): Promise<KeptTrial> {
    return keptOf(await TrialRow.create(trial))
  }

  /** Writes a trial with its next revision. */
  async save(row: TrialRow): Promise<KeptTrial> {
    row.rev += 1
    await row.save()
    return keptOf(row)
  }
}
