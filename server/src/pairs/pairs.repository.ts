import { randomUUID } from 'node:crypto'
import { Injectable } from '@nestjs/common'
import type { Machine } from '@verimend/core/machine'
import type { Filament } from '@verimend/core/material'
import { literal, Op, Transaction } from 'sequelize'
import { PairRow } from '../database/models'
import type { ShelfRow } from '../database/shelf.repository'
import { inTransaction } from '../database/transactions'
import { FilamentsService } from '../filaments/filaments.service'
import { MachinesService } from '../machines/machines.service'
import { notFound, putAway } from '../problem/problem'

/** A pair with what it is made of, in today's shape. */
export interface KeptPair {
  row: PairRow
  machineRow: ShelfRow<Machine>
  filamentRow: ShelfRow<Filament>
  machine: Machine
  filament: Filament
}

/** Kept pairs. */
@Injectable()
export class PairsRepository {
  constructor(
    private readonly machines: MachinesService,
    private readonly filaments: FilamentsService,
  ) {}

  /** Pairs that were changed last, first. */
  newestFirst(): Promise<PairRow[]> {
    return PairRow.findAll({ order: [['updatedAt', 'DESC']] })
  }

  /** Pairs of other rolls than this one of which something was tested. */
  testedOfOtherRolls(filamentId: string): Promise<PairRow[]> {
    return PairRow.findAll({
      where: { filamentId: { [Op.ne]: filamentId }, tested: { [Op.notLike]: '{"tested":{}%' } as never },
    })
  }

  /** Pairs of some ids, with their machines and rolls. */
  async some(ids: readonly string[]): Promise<KeptPair[]> {
    return this.wholes(await PairRow.findAll({ where: { id: [...ids] } }))
  }

  find(machineId: string, filamentId: string, nozzle: number, lock = false): Promise<PairRow | null> {
    return PairRow.findOne({
      where: { machineId, filamentId, nozzle: String(nozzle) },
      ...(lock && { lock: Transaction.LOCK.UPDATE }),
    })
  }

  /** @param lock whether nobody else may change it until the transaction ends */
  async row(id: string, lock = false): Promise<PairRow> {
    const row = await PairRow.findByPk(id, lock ? { lock: Transaction.LOCK.UPDATE } : {})
    if (!row) throw notFound('pair')
    return row
  }

  /** A pair with its machine and roll. */
  async load(id: string, lock = false): Promise<KeptPair> {
    return this.whole(await this.row(id, lock))
  }

  /**
   * A pair that something new is made on. It stays as it is until the transaction ends, so that nobody deletes it meanwhile.
   * @throws ProblemException where its machine or its roll was put away, with the way to bring it back
   */
  async forNew(id: string): Promise<KeptPair> {
    const pair = await this.load(id, inTransaction())
    const away = [
      ...(pair.machineRow.removedAt ? [pair.machine.name] : []),
      ...(pair.filamentRow.removedAt ? [pair.filament.name] : []),
    ]
    if (away.length) throw putAway(away)
    return pair
  }

  /** The number of its current version, where something new may be made on it; the same as `forNew` for less. */
  async currentForNew(id: string): Promise<number> {
    const row = await PairRow.findByPk(id, {
      attributes: [
        'current',
        [literal('(SELECT removedAt IS NULL FROM machines m WHERE m.id = machineId)'), 'machineThere'],
        [literal('(SELECT removedAt IS NULL FROM filaments f WHERE f.id = filamentId)'), 'filamentThere'],
      ],
    })
    if (!row) throw notFound('pair')
    if (Number(row.get('machineThere')) && Number(row.get('filamentThere'))) return row.current
    return (await this.forNew(id)).row.current
  }

  async whole(row: PairRow): Promise<KeptPair> {
    const machineRow = await this.machines.repository.get(row.machineId)
    const filamentRow = await this.filaments.repository.get(row.filamentId)
    return { row, ...this.machineOf(machineRow), ...this.filamentOf(filamentRow) }
  }

  /** Many pairs with their machines and rolls, in three requests. */
  async wholes(rows: readonly PairRow[]): Promise<KeptPair[]> {
    const machines = await this.machines.repository.some([...new Set(rows.map((r) => r.machineId))])
    const filaments = await this.filaments.repository.some([...new Set(rows.map((r) => r.filamentId))])
    // brought to today's shape once, however many pairs it is in
    const machineOf = new Map(machines.map((m) => [m.id, this.machineOf(m)]))
    const filamentOf = new Map(filaments.map((f) => [f.id, this.filamentOf(f)]))
    return rows.flatMap((row) => {
      const machine = machineOf.get(row.machineId)
      const filament = filamentOf.get(row.filamentId)
      return machine && filament ? [{ row, ...machine, ...filament }] : []
    })
  }

  private machineOf(machineRow: ShelfRow<Machine>) {
    return { machineRow, machine: this.machines.repository.bodyOf(machineRow) }
  }
  private filamentOf(filamentRow: ShelfRow<Filament>) {
    return { filamentRow, filament: this.filaments.repository.bodyOf(filamentRow) }
  }

  create(machineId: string, filamentId: string, nozzle: number): Promise<PairRow> {
    return PairRow.create({
      id: randomUUID(),
      machineId,
      filamentId,
      nozzle: String(nozzle),
      current: 1,
      acknowledged: [],
      tested: null,
    })
  }
}
