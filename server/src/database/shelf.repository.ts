import { Transaction, type ModelStatic } from 'sequelize'
import { notFound } from '../problem/problem'
import type { FilamentRow, MachineRow } from './models'

/** A machine or a roll as it is kept. */
export type ShelfRow<T> = (MachineRow | FilamentRow) & { body: T }

/** What machines and rolls have in common: a body in its own shape, a revision, an undoable removal. */
export interface Shelf<T> {
  model: ModelStatic<MachineRow> | ModelStatic<FilamentRow>
  /** What one is called in a sentence. */
  what: string
  /** Shape in which a body is written. */
  schema: number
  upgrade: (stored: unknown) => T
}

/** Kept machines or rolls; every body comes out in today's shape. */
export class ShelfRepository<T> {
  constructor(private readonly shelf: Shelf<T>) {}

  private get rows(): ModelStatic<ShelfRow<T>> {
    return this.shelf.model as unknown as ModelStatic<ShelfRow<T>>
  }

  /** The body of a row in today's shape. */
  bodyOf(row: ShelfRow<T>): T {
    return this.shelf.upgrade(row.body)
  }

  /** All that are not removed, oldest first. */
  all(): Promise<ShelfRow<T>[]> {
    return this.rows.findAll({
      where: { removedAt: null } as never,
      order: [
        ['createdAt', 'ASC'],
        ['id', 'ASC'],
      ],
    })
  }

  /** Those of some ids, removed ones too. */
  some(ids: readonly string[]): Promise<ShelfRow<T>[]> {
    return this.rows.findAll({ where: { id: [...ids] } as never })
  }

  find(id: string): Promise<ShelfRow<T> | null> {
    return this.rows.findByPk(id)
  }

  /**
   * The row, removed ones too; a removed roll still has its recipes.
   * @param lock whether nobody else may change it until the transaction ends
   */
  async get(id: string, lock = false): Promise<ShelfRow<T>> {
    const row = await this.rows.findByPk(id, lock ? { lock: Transaction.LOCK.UPDATE } : {})
    if (!row) throw notFound(this.shelf.what)
    return row
  }

  create(id: string, body: T): Promise<ShelfRow<T>> {
    return this.rows.create({
      id,
      rev: 1,
      schemaVersion: this.shelf.schema,
      body,
      removedAt: null,
    } as never)
  }

  /** Writes a row with its next revision. */
  async save(row: ShelfRow<T>, change: { body?: T; removedAt?: Date | null }): Promise<ShelfRow<T>> {
    if (change.body !== undefined) {
      row.body = change.body as never
      row.schemaVersion = this.shelf.schema
    }
    if (change.removedAt !== undefined) row.removedAt = change.removedAt
    row.rev += 1
    await row.save()
    return row
  }
}
