import type { ModelAttributes, Sequelize } from 'sequelize'
import { CASES_TABLES } from './cases'
import { KEEPING_TABLES } from './keeping'
import { MEASUREMENTS_TABLES } from './measurements'
import { PARTS_TABLES } from './parts'
import { PRINTS_TABLES } from './prints'
import { RECIPES_TABLES } from './recipes'
import { SHELF_TABLES } from './shelf'
import { TRIALS_TABLES } from './trials'

export * from './cases'
export * from './keeping'
export * from './measurements'
export * from './parts'
export * from './prints'
export * from './recipes'
export * from './shelf'
export * from './trials'

/** Binds the models to a connection. */
export function defineModels(sequelize: Sequelize): void {
  const all = [
    ...SHELF_TABLES,
    ...RECIPES_TABLES,
    ...CASES_TABLES,
    ...TRIALS_TABLES,
    ...MEASUREMENTS_TABLES,
    ...PARTS_TABLES,
    ...PRINTS_TABLES,
    ...KEEPING_TABLES,
  ]
  for (const [model, tableName, columns] of all)
    (model as { init(attributes: ModelAttributes, options: object): void }).init(
      columns() as ModelAttributes,
      {
        sequelize,
        tableName,
      },
    )
}
