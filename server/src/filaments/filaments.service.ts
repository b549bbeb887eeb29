import { Injectable } from '@nestjs/common'
import { FILAMENT_SCHEMA, upgradeFilament, type Filament } from '@verimend/core/material'
import { Database } from '../database/database.module'
import { FilamentRow } from '../database/models'
import { ShelfService } from '../database/shelf.service'

/** The rolls on the shelf. */
@Injectable()
export class FilamentsService extends ShelfService<'filament', Filament> {
  constructor(database: Database) {
    super(
      database,
      { model: FilamentRow, what: 'filament', schema: FILAMENT_SCHEMA, upgrade: upgradeFilament },
      'filament',
    )
  }
}
