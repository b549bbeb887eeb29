import { Injectable } from '@nestjs/common'
import { Op, Transaction, type CreationAttributes } from 'sequelize'
import { CaseRow, PartRow } from '../database/models'
import { notFound } from '../problem/problem'

/** Kept parts. */
@Injectable()
export class PartsRepository {
  newestFirst(): Promise<PartRow[]> {
    return PartRow.findAll({ where: { removedAt: null }, order: [['updatedAt', 'DESC']] })
  }

  find(id: string): Promise<PartRow | null> {
    return PartRow.findByPk(id)
  }

  async get(id: string, lock = false): Promise<PartRow> {
    const row = await PartRow.findByPk(id, lock ? { lock: Transaction.LOCK.UPDATE } : {})
    if (!row) throw notFound('part')
    return row
  }

  create(body: CreationAttributes<PartRow>): Promise<PartRow> {
    return PartRow.create(body)
  }

  async save(row: PartRow): Promise<PartRow> {
    row.rev += 1
    return row.save()
  }

  /** Cases that are about a part, the newest first. */
  casesOf(id: string): Promise<CaseRow[]> {
    return CaseRow.findAll({
      where: { partId: id, removedAt: null },
      attributes: ['id', 'pairId', 'part', 'status', 'updatedAt'],
      order: [['updatedAt', 'DESC']],
    })
  }

  /** How many cases each part has. */
  async caseCounts(): Promise<Map<string, number>> {
    const rows = await CaseRow.count({
      where: { removedAt: null, partId: { [Op.ne]: null } },
      group: ['partId'],
    })
    return new Map(rows.map((r) => [String(r.partId), r.count]))
  }
}
