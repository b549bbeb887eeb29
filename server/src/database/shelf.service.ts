import { randomUUID } from 'node:crypto'
import { conflict, notFound } from '../problem/problem'
import type { Database } from './database.module'
import { once } from './once'
import { ShelfRepository, type Shelf, type ShelfRow } from './shelf.repository'

/** Records with a body, a revision and an undoable removal: what machines and rolls have in common. */
export class ShelfService<Key extends 'machine' | 'filament', T> {
  readonly repository: ShelfRepository<T>

  constructor(
    private readonly database: Database,
    private readonly shelf: Shelf<T>,
    private readonly key: Key,
  ) {
    this.repository = new ShelfRepository(shelf)
  }

  view(row: ShelfRow<T>) {
    const body = { [this.key]: this.repository.bodyOf(row) } as Record<Key, T>
    return { id: row.id, rev: row.rev, updatedAt: row.updatedAt.toISOString(), ...body }
  }

  async list() {
    return (await this.repository.all()).map((r) => this.view(r))
  }

  async one(id: string) {
    return this.view(await this.repository.get(id))
  }

  /** The body of a record, removed ones too. */
  async body(id: string): Promise<T> {
    return this.repository.bodyOf(await this.repository.get(id))
  }

  /** Makes a record; the same id sent again gets what is there. */
  async create(id: string | undefined, body: T) {
    const row = await once(
      async () => (id ? this.repository.find(id) : null),
      () => this.repository.create(id ?? randomUUID(), body),
    )
    return this.view(row)
  }

  async update(id: string, rev: number, body: T) {
    return this.database.transaction(async () => {
      const row = await this.repository.get(id, true)
      if (row.removedAt) throw notFound(this.shelf.what)
      if (row.rev !== rev)
        throw conflict(
          `This ${this.shelf.what} was changed in another window. Nothing of yours is lost: compare and save again.`,
          this.view(row),
        )
      return this.view(await this.repository.save(row, { body }))
    })
  }

  /** Takes a record off the shelf; nothing is lost. */
  softDelete(id: string) {
    return this.setRemovedAt(id, new Date())
  }

  restore(id: string) {
    return this.setRemovedAt(id, null)
  }

  private setRemovedAt(id: string, removedAt: Date | null) {
    return this.database.transaction(async () => {
      const row = await this.repository.get(id, true)
      return this.view(await this.repository.save(row, { removedAt }))
    })
  }
}
