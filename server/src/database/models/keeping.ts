import { DataTypes } from 'sequelize'
import { Kept, times, type Table } from './columns'

/** Small facts about the database itself. */
export class MarkRow extends Kept<MarkRow> {
  declare name: string
  declare value: string
}

/** A sign-in: what it is kept under opens nothing by itself. */
export class SessionRow extends Kept<SessionRow> {
  declare key: string
  declare agent: string
  declare expiresAt: Date
}

/** Tables of what the application notes for itself: marks of what was done, and sessions. */
export const KEEPING_TABLES: readonly Table[] = [
  [
    MarkRow,
    'marks',
    () => ({
      name: { type: DataTypes.STRING(60), primaryKey: true },
      value: { type: DataTypes.STRING(200), allowNull: false },
      ...times(),
    }),
  ],
  [
    SessionRow,
    'sessions',
    () => ({
      key: { type: DataTypes.CHAR(64), primaryKey: true, field: 'sessionKey' },
      agent: { type: DataTypes.STRING(200), allowNull: false },
      expiresAt: { type: DataTypes.DATE(3), allowNull: false },
      ...times(),
    }),
  ],
]
