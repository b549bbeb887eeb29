import { type CreationOptional } from 'sequelize'
import type { Machine } from '@verimend/core/machine'
import type { Filament } from '@verimend/core/material'
import { Kept, shelved, type Table } from './columns'

export class MachineRow extends Kept<MachineRow> {
  declare id: string
  declare rev: number
  declare schemaVersion: CreationOptional<number>
  declare body: Machine
  declare removedAt: Date | null
}

export class FilamentRow extends Kept<FilamentRow> {
  declare id: string
  declare rev: number
  declare schemaVersion: CreationOptional<number>
  declare body: Filament
  declare removedAt: Date | null
}

/** Tables of machines and rolls. */
export const SHELF_TABLES: readonly Table[] = [
  [MachineRow, 'machines', shelved],
  [FilamentRow, 'filaments', shelved],
]
