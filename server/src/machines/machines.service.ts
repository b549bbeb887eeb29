import { Injectable } from '@nestjs/common'
import { MACHINE_SCHEMA, upgradeMachine, type Machine } from '@verimend/core/machine'
import { Database } from '../database/database.module'
import { MachineRow } from '../database/models'
import { ShelfService } from '../database/shelf.service'

/** The machines at the bench. */
@Injectable()
export class MachinesService extends ShelfService<'machine', Machine> {
  constructor(database: Database) {
    super(
      database,
      { model: MachineRow, what: 'machine', schema: MACHINE_SCHEMA, upgrade: upgradeMachine },
      'machine',
    )
  }
}
