import { Injectable } from '@nestjs/common'
import { PRINT_STATES, printEnded, type Print } from '@verimend/contract'
import { Op, Transaction, type CreationAttributes } from 'sequelize'
import { PrintRow } from '../database/models'
import { notFound } from '../problem/problem'

/** Most prints of a case that are looked back on. */
const MOST = 100
const ENDED = PRINT_STATES.filter(printEnded)

/** Prints: what was sent to which machine. */
@Injectable()
export class PrintsRepository {
  find(id: string): Promise<PrintRow | null> {
    return PrintRow.findByPk(id)
  }
  async get(id: string, lock = false): Promise<PrintRow> {
    const row = await PrintRow.findByPk(id, lock ? { lock: Transaction.LOCK.UPDATE } : {})
    if (!row) throw notFound('print')
    return row
  }
  /** The newest first. */
  page(
    where: { trialId?: string; caseId?: string; machineId?: string },
    skip: number,
    limit: number,
  ): Promise<{ rows: PrintRow[]; count: number }> {
    return PrintRow.findAndCountAll({
      where,
      order: [
        ['createdAt', 'DESC'],
        ['id', 'ASC'],
      ],
      offset: skip,
      limit,
    })
  }
  /** Those of a case, the newest first, as many as one looks back on. */
  async newestOf(caseId: string): Promise<PrintRow[]> {
    return (await this.page({ caseId }, 0, MOST)).rows
  }
  /** Those that have not ended. */
  open(): Promise<PrintRow[]> {
    return PrintRow.findAll({ where: { state: { [Op.notIn]: ENDED } }, order: [['createdAt', 'ASC']] })
  }
  create(row: CreationAttributes<PrintRow>): Promise<PrintRow> {
    return PrintRow.create(row)
  }
  /** Simulated prints of a case. */
  ofCase(caseId: string): Promise<number> {
    return PrintRow.count({ where: { caseId, link: 'standin' } })
  }
  /** Prints of a machine that came to an end, and their sums. */
  async sums(machineId: string): Promise<{ prints: number; grams: number; minutes: number }> {
    const rows = await PrintRow.findAll({ where: { machineId, state: ['done', 'cancelled', 'failed'] } })
    const share = (r: PrintRow) => (r.told.total ? r.told.done / r.told.total : 0)
    return {
      prints: rows.length,
      grams: rows.reduce((s, r) => s + r.grams * share(r), 0),
      minutes: rows.reduce((s, r) => s + r.told.done / 60, 0),
    }
  }
}

/** A print as it is told. */
export const printView = (row: PrintRow): Print => ({
  id: row.id,
  machineId: row.machineId,
  pairId: row.pairId,
  kind: row.kind,
  name: row.name,
  trialId: row.trialId,
  caseId: row.caseId,
  afterAttempt: row.afterAttempt,
  version: row.version,
  link: row.link,
  simulated: row.link === 'standin',
  state: row.state,
  reason: row.reason,
  ...row.told,
  ...(printEnded(row.state) && { left: null }),
  enteredAt: row.enteredAt?.toISOString() ?? null,
  createdAt: row.createdAt.toISOString(),
  endedAt: row.endedAt?.toISOString() ?? null,
})
