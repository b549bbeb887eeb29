import { DataTypes, type CreationOptional } from 'sequelize'
import type { MeasurementAct } from '@verimend/contract'
import type { Measured, SizesInUse } from '@verimend/core/measurement'
import { Kept, count, id, json, moment, ref, schemaVersion, times, type Table } from './columns'

export class MeasurementRow extends Kept<MeasurementRow> {
  declare id: string
  declare rev: number
  declare schemaVersion: CreationOptional<number>
  declare machineId: string
  declare pairId: string | null
  declare caseId: string | null
  /** Recipe version the measured part was printed with, and the corrections in it. */
  declare version: number | null
  declare inUse: SizesInUse | null
  declare measured: Measured
  declare note: string
  /** What was done with it: a recipe version, or a word for what was changed on machine or roll. */
  declare acted: MeasurementAct | null
  declare removedAt: Date | null
}

/** Tables of measurements. */
export const MEASUREMENTS_TABLES: readonly Table[] = [
  [
    MeasurementRow,
    'measurements',
    () => ({
      id: id(),
      rev: count(),
      schemaVersion: schemaVersion(),
      machineId: ref(),
      pairId: { type: DataTypes.CHAR(36), allowNull: true },
      caseId: { type: DataTypes.CHAR(36), allowNull: true },
      version: { type: DataTypes.INTEGER, allowNull: true },
      inUse: json('inUse', true),
      measured: json('measured'),
      note: { type: DataTypes.TEXT, allowNull: false },
      acted: json('acted', true),
      removedAt: moment(),
      ...times(),
    }),
  ],
]
