import { Injectable } from '@nestjs/common'
import { Op, Transaction, type CreationAttributes } from 'sequelize'
import { MeasurementRow } from '../database/models'
import { notFound } from '../problem/problem'

export interface MeasurementsOf {
  machineId?: string
  pairId?: string
  caseId?: string
}

/** Kept measurements. */
@Injectable()
export class MeasurementsRepository {
  /** Those of a machine, of a pair (with what was measured of its machine alone), or of a case; the newest first. */
  newestFirst({ machineId, pairId, caseId }: MeasurementsOf): Promise<MeasurementRow[]> {
    return MeasurementRow.findAll({
      where: {
        removedAt: null,
        ...(machineId && { machineId }),
        ...(pairId && { [Op.or]: [{ pairId }, { pairId: null }] }),
        ...(caseId && { caseId }),
      },
      order: [['createdAt', 'DESC']],
    })
  }

  find(id: string): Promise<MeasurementRow | null> {
    return MeasurementRow.findByPk(id)
  }

  async get(id: string, lock = false): Promise<MeasurementRow> {
    const row = await MeasurementRow.findByPk(id, lock ? { lock: Transaction.LOCK.UPDATE } : {})
    if (!row) throw notFound('measurement')
    return row
  }

  create(body: CreationAttributes<MeasurementRow>): Promise<MeasurementRow> {
    return MeasurementRow.create(body)
  }

  async save(row: MeasurementRow): Promise<MeasurementRow> {
    row.rev += 1
    return row.save()
  }
}
