import { randomUUID } from 'node:crypto'
import type { ModelStatic, Transaction } from 'sequelize'
import { conflict, notFound } from '../problem/problem'
import type { Database } from './database.module'
import type { FilamentRow, MachineRow } from './models'
import { once } from './once'

type Row<T> = (MachineRow | FilamentRow) & { body: T }

/**
 * Records with a body, a revision and an undoable removal: what machines and filaments have in common.
 */
export class Shelved<K extends 'machine' | 'filament', T> {
  constructor(
    private readonly database: Database,
    private readonly model: ModelStatic<MachineRow> | ModelStatic<FilamentRow>,
    private readonly what: string,
    private readonly key: K,
  ) {}

  private get rows(): ModelStatic<Row<T>> {
    return this.model as unknown as ModelStatic<Row<T>>
  }

  view(row: Row<T>) {
    const body = { [this.key]: row.body } as Record<K, T>
    return { id: row.id, rev: row.rev, updatedAt: row.updatedAt.toISOString(), ...body }
  }

  async list() {
    const rows = await this.rows.findAll({
      where: { removedAt: null } as never,
      order: [
        ['createdAt', 'ASC'],
        ['id', 'ASC'],
      ],
    })
    return rows.map((r) => this.view(r))
  }

  /** The row, removed ones too; a removed filament still has its recipes. */
  async row(id: string): Promise<Row<T>> {
    const row = await this.rows.findByPk(id)
    if (!row) throw notFound(this.what)
    return row
  }

  async create(id: string | undefined, body: T, transaction?: Transaction) {
    const row = await once<Row<T>>(
      async () => (id ? await this.rows.findByPk(id) : null),
      () =>
        this.rows.create({ id: id ?? randomUUID(), rev: 1, body, removedAt: null } as never, { transaction }),
    )
    return this.view(row)
  }

  async update(id: string, rev: number, body: T) {
    return this.database.sequelize.transaction(async (transaction) => {
      const row = await this.rows.findByPk(id, { transaction, lock: true })
      if (!row || row.removedAt) throw notFound(this.what)
      if (row.rev !== rev)
        throw conflict(
          `This ${this.what} was changed in another window. Nothing of yours is lost: compare and save again.`,
          this.view(row),
        )
      row.body = body as never
      row.rev += 1
      await row.save({ transaction })
      return this.view(row)
    })
  }

  async setRemoved(id: string, removed: boolean) {
    return this.database.sequelize.transaction(async (transaction) => {
      const row = await this.rows.findByPk(id, { transaction, lock: true })
      if (!row) throw notFound(this.what)
      row.removedAt = removed ? new Date() : null
      row.rev += 1
      await row.save({ transaction })
      return this.view(row)
    })
  }
}
