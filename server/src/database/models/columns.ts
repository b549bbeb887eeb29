import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
} from 'sequelize'

/** A column that holds JSON as text: MariaDB's JSON type is text, and this keeps reading it predictable. */
export function json<T>(name: string, nullable = false) {
  return {
    type: DataTypes.TEXT('long'),
    allowNull: nullable,
    get(this: Model): T | null {
      const text = this.getDataValue(name) as string | null
      return text === null || text === undefined ? null : (JSON.parse(text) as T)
    },
    set(this: Model, value: T | null): void {
      this.setDataValue(name, value === null ? null : JSON.stringify(value))
    },
  }
}
// columns are made anew for each use: the library writes into the objects it is given
export const id = () => ({ type: DataTypes.CHAR(36), primaryKey: true }) as const
export const ref = () => ({ type: DataTypes.CHAR(36), allowNull: false }) as const
export const count = () => ({ type: DataTypes.INTEGER, allowNull: false }) as const
/** Shape in which a record's JSON was written; what is older passes an upgrade when it is read. */
export const schemaVersion = () => ({ type: DataTypes.INTEGER, allowNull: false, defaultValue: 1 }) as const
export const moment = () => ({ type: DataTypes.DATE(3), allowNull: true }) as const

/** A record with the times it was made and changed. */
export abstract class Kept<M extends Model> extends Model<InferAttributes<M>, InferCreationAttributes<M>> {
  declare createdAt: CreationOptional<Date>
  declare updatedAt: CreationOptional<Date>
}

export const times = () => ({ createdAt: DataTypes.DATE(3), updatedAt: DataTypes.DATE(3) })
/** What lies on the shelf: a body that is kept whole. */
export const shelved = () => ({
  id: id(),
  rev: count(),
  schemaVersion: schemaVersion(),
  body: json('body'),
  removedAt: moment(),
  ...times(),
})

/** A model with its table and columns. */
export type Table = readonly [model: unknown, name: string, columns: () => object]
