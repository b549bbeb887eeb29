import { DataTypes, type CreationOptional } from 'sequelize'
import type { Difference, StoredRecipe, TestedValues } from '@verimend/core/recipe'
import { Kept, count, id, json, ref, schemaVersion, times, type Table } from './columns'

export class PairRow extends Kept<PairRow> {
  declare id: string
  declare machineId: string
  declare filamentId: string
  declare nozzle: string
  declare current: number
  /** Warnings the person has acknowledged, by fingerprint. */
  declare acknowledged: string[] | null
  /** What others may take over of its current recipe; made anew where its schema is not today’s. */
  declare tested: TestedValues | null
  declare testedSchema: CreationOptional<number>
}

export class VersionRow extends Kept<VersionRow> {
  declare id: CreationOptional<number>
  declare pairId: string
  declare number: number
  declare parent: number | null
  declare schemaVersion: CreationOptional<number>
  declare values: StoredRecipe['values']
  declare variants: StoredRecipe['variants'] | null
  declare changes: Difference[]
  /** A reason as JSON, or the sentence that was kept before there were codes. */
  declare reason: string
  declare caseId: string | null
}

/** Tables of pairs and the versions of their recipes. */
export const RECIPES_TABLES: readonly Table[] = [
  [
    PairRow,
    'pairs',
    () => ({
      id: id(),
      machineId: ref(),
      filamentId: ref(),
      nozzle: { type: DataTypes.DECIMAL(5, 3), allowNull: false },
      current: count(),
      acknowledged: json('acknowledged', true),
      tested: json('tested', true),
      testedSchema: { type: DataTypes.INTEGER, allowNull: false, defaultValue: 0 },
      ...times(),
    }),
  ],
  [
    VersionRow,
    'recipe_versions',
    () => ({
      id: { type: DataTypes.BIGINT, primaryKey: true, autoIncrement: true },
      pairId: ref(),
      number: count(),
      parent: { type: DataTypes.INTEGER, allowNull: true },
      schemaVersion: schemaVersion(),
      values: { ...json('values'), field: 'settings' },
      variants: json('variants', true),
      changes: json('changes'),
      reason: { type: DataTypes.TEXT, allowNull: false },
      caseId: { type: DataTypes.CHAR(36), allowNull: true },
      ...times(),
    }),
  ],
]
