import { DataTypes, type CreationOptional } from 'sequelize'
import type { PartPlanRecord, PartVersion } from '@verimend/contract'
import type { Layout } from '@verimend/core/planner'
import type { Changes } from '@verimend/core/recipe'
import { Kept, count, id, json, moment, schemaVersion, times, type Table } from './columns'

/** A part: its meshes, and how it is put on the bed. */
export class PartRow extends Kept<PartRow> {
  declare id: string
  declare rev: number
  declare schemaVersion: CreationOptional<number>
  declare name: string
  declare note: string
  declare versions: PartVersion[]
  declare layout: Layout
  /** What of a recipe is otherwise for this part. */
  declare own: Changes
  declare plans: PartPlanRecord[]
  declare removedAt: Date | null
}

/** Tables of parts. */
export const PARTS_TABLES: readonly Table[] = [
  [
    PartRow,
    'parts',
    () => ({
      id: id(),
      rev: count(),
      schemaVersion: schemaVersion(),
      name: { type: DataTypes.STRING(120), allowNull: false },
      note: { type: DataTypes.TEXT, allowNull: false },
      versions: json('versions'),
      layout: json('layout'),
      own: json('own'),
      plans: json('plans'),
      removedAt: moment(),
      ...times(),
    }),
  ],
]
