import { DataTypes } from 'sequelize'
import type { PaceName, PRINT_KINDS, PrintState } from '@verimend/contract'
import { Kept, count, id, json, moment, ref, times, type Table } from './columns'

/** How far a print is, as its machine told last. */
export interface ToldOfPrint {
  done: number
  total: number
  left: number | null
  layer: number
  layerCount: number
  nozzle: number
  bed: number
  waitsFor: number
}

/** How a machine is reached: a simulated one, and what it hides for practice. */
export class LinkRow extends Kept<LinkRow> {
  declare machineId: string
  declare pace: PaceName
  declare practice: { hidden: number; startedAt: string; revealedAt: string | null } | null
}

/** Something that was sent to a machine. */
export class PrintRow extends Kept<PrintRow> {
  declare id: string
  declare machineId: string
  declare pairId: string
  declare kind: (typeof PRINT_KINDS)[number]
  declare name: string
  declare trialId: string | null
  declare caseId: string | null
  declare afterAttempt: number | null
  declare version: number
  declare link: 'standin' | 'download'
  /** Fingerprint of the kept file. */
  declare sha256: string
  declare state: PrintState
  declare reason: string | null
  /** What was told of it last. */
  declare told: ToldOfPrint
  declare grams: number
  declare enteredAt: Date | null
  declare endedAt: Date | null
}

/** Tables of the links of machines, and prints. */
export const PRINTS_TABLES: readonly Table[] = [
  [
    LinkRow,
    'machine_links',
    () => ({
      machineId: { type: DataTypes.CHAR(36), primaryKey: true },
      pace: { type: DataTypes.STRING(20), allowNull: false },
      practice: json('practice', true),
      ...times(),
    }),
  ],
  [
    PrintRow,
    'prints',
    () => ({
      id: id(),
      machineId: ref(),
      pairId: ref(),
      kind: { type: DataTypes.STRING(10), allowNull: false },
      name: { type: DataTypes.STRING(200), allowNull: false },
      trialId: { type: DataTypes.CHAR(36), allowNull: true },
      caseId: { type: DataTypes.CHAR(36), allowNull: true },
      afterAttempt: { type: DataTypes.INTEGER, allowNull: true },
      version: count(),
      link: { type: DataTypes.STRING(10), allowNull: false },
      sha256: { type: DataTypes.CHAR(64), allowNull: false },
      state: { type: DataTypes.STRING(12), allowNull: false },
      reason: { type: DataTypes.STRING(400), allowNull: true },
      told: json('told'),
      grams: { type: DataTypes.DOUBLE, allowNull: false, defaultValue: 0 },
      enteredAt: moment(),
      endedAt: moment(),
      ...times(),
    }),
  ],
]
