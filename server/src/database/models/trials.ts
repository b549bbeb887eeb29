import { DataTypes, type CreationOptional } from 'sequelize'
import type { Cell, PiecePlan } from '@verimend/core/trials'
import { Kept, count, id, json, moment, ref, schemaVersion, times, type Table } from './columns'

export class TrialRow extends Kept<TrialRow> {
  declare id: string
  declare rev: number
  declare pairId: string
  declare caseId: string | null
  declare number: number
  declare plan: PiecePlan
  declare cells: Cell[]
  declare view: 'front' | 'above'
  declare version: number
  declare schemaVersion: CreationOptional<number>
  declare readings: Record<string, unknown>
  declare resolution: number
  declare note: string
  declare seconds: number
  declare grams: number
  declare adoptedVersion: number | null
  /** Its readings were taken from a simulated print. */
  declare simulated: CreationOptional<boolean>
  declare removedAt: Date | null
}

/** Tables of trials. */
export const TRIALS_TABLES: readonly Table[] = [
  [
    TrialRow,
    'trials',
    () => ({
      id: id(),
      rev: count(),
      pairId: ref(),
      caseId: { type: DataTypes.CHAR(36), allowNull: true },
      number: count(),
      plan: json('plan'),
      cells: json('cells'),
      view: { type: DataTypes.STRING(10), allowNull: false },
      version: count(),
      schemaVersion: schemaVersion(),
      readings: json('readings'),
      resolution: { type: DataTypes.DOUBLE, allowNull: false },
      note: { type: DataTypes.TEXT, allowNull: false },
      seconds: count(),
      grams: { type: DataTypes.DOUBLE, allowNull: false },
      adoptedVersion: { type: DataTypes.INTEGER, allowNull: true },
      simulated: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
      removedAt: moment(),
      ...times(),
    }),
  ],
]
