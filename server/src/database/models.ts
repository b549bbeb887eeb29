import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type ModelAttributes,
  type Sequelize,
} from 'sequelize'
import type {
  ChosenMend,
  MeasurementAct,
  PaceName,
  PartPlanRecord,
  PartVersion,
  PhotoMark,
  PRINT_KINDS,
  PrintState,
} from '@verimend/contract'
import type { DesignedSet, SignResults, StoredMark } from '@verimend/core/casework'
import type { LookResult, SignStates } from '@verimend/core/diagnosis'
import type { PlaceId, SignId, SuspectId } from '@verimend/core/knowledge'
import type { Machine } from '@verimend/core/machine'
import type { Filament } from '@verimend/core/material'
import type { Measured, SizesInUse } from '@verimend/core/measurement'
import type { Layout } from '@verimend/core/planner'
import type { Changes, Difference, SettingKey, StoredRecipe } from '@verimend/core/recipe'
import type { StoredReading } from '@verimend/core/toolpath'
import type { Cell, PiecePlan } from '@verimend/core/trials'

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

/** A column that holds JSON as text: MariaDB's JSON type is text, and this keeps reading it predictable. */
function json<T>(name: string, nullable = false) {
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
// made anew for each use: the library writes into the objects it is given
const id = () => ({ type: DataTypes.CHAR(36), primaryKey: true }) as const
const ref = () => ({ type: DataTypes.CHAR(36), allowNull: false }) as const
const count = () => ({ type: DataTypes.INTEGER, allowNull: false }) as const
/** Shape in which a record's JSON was written; what is older passes an upgrade when it is read. */
const schemaVersion = () => ({ type: DataTypes.INTEGER, allowNull: false, defaultValue: 1 }) as const
const moment = () => ({ type: DataTypes.DATE(3), allowNull: true }) as const

abstract class Kept<M extends Model> extends Model<InferAttributes<M>, InferCreationAttributes<M>> {
  declare createdAt: CreationOptional<Date>
  declare updatedAt: CreationOptional<Date>
}

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
export class PairRow extends Kept<PairRow> {
  declare id: string
  declare machineId: string
  declare filamentId: string
  declare nozzle: string
  declare current: number
  /** Warnings the person has acknowledged, by fingerprint. */
  declare acknowledged: string[] | null
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
export class CaseRow extends Kept<CaseRow> {
  declare id: string
  declare rev: number
  declare pairId: string
  declare part: string
  declare note: string
  declare status: 'open' | 'closed'
  declare schemaVersion: CreationOptional<number>
  declare signs: SignStates
  declare startVersion: number
  declare keptVersion: number | null
  /** What the case taught: reasons as JSON, or the text that was kept before there were codes. */
  declare learnt: string | null
  /** Heights marked on the part, as evidence. */
  declare marks: StoredMark[] | null
  declare checks: LookResult[] | null
  declare cannot: string[] | null
  declare designs: DesignedSet[] | null
  declare learns: CreationOptional<boolean>
  /** Where on the part the fault was said to be when the case began. */
  declare place: PlaceId | null
  /** mm, the part's longest side as the person said. */
  declare longest: number | null
  /** The kept part it is about. */
  declare partId: CreationOptional<string | null>
  /** What lists show of it; made whenever it changes. */
  declare sums: CreationOptional<CaseSums | null>
  /** Kinds of fault it is about, each between commas. */
  declare families: CreationOptional<string>
  /** Shape the sums were made in; 0: not made yet. */
  declare sumsSchema: CreationOptional<number>
  declare removedAt: Date | null
}
/** What lists show of a case. */
export interface CaseSums {
  seen: SignId[]
  /** Suspects whose mend made it go away. */
  causes: SuspectId[]
  attempts: number
  /** Whether an attempt waits to be looked at. */
  unrecorded: boolean
  /** Grams printed over its attempts, as far as files tell. */
  grams: number
  /** Settings whose change made it go away. */
  cured: SettingKey[]
}
export class AttemptRow extends Kept<AttemptRow> {
  declare id: CreationOptional<number>
  declare caseId: string
  declare number: number
  declare mends: ChosenMend[]
  declare signsBefore: SignStates
  declare fromVersion: number
  declare toVersion: number
  declare results: SignResults | null
  declare newSigns: SignId[]
  declare note: string
  declare recordedAt: Date | null
}
export class FileRow extends Kept<FileRow> {
  declare id: string
  declare caseId: string
  declare name: string
  declare bytes: number
  declare sha256: string
  declare afterAttempt: number
  declare schemaVersion: CreationOptional<number>
  declare reading: StoredReading
  /** Of the reading, for lists: grams of filament and seconds of printing. */
  declare grams: number
  declare seconds: number
}

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
export class PhotoRow extends Kept<PhotoRow> {
  declare id: string
  /** The case it belongs to; or the trial, and the place of its piece. */
  declare caseId: string | null
  declare trialId: CreationOptional<string | null>
  declare cell: CreationOptional<string | null>
  declare afterAttempt: number
  declare sha256: string
  declare thumb: string
  declare width: number
  declare height: number
  declare note: string
  declare marks: PhotoMark[]
  declare scale: number | null
  declare removedAt: Date | null
}

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

/** A sign-in: what it is kept under opens nothing by itself. */
export class SessionRow extends Kept<SessionRow> {
  declare key: string
  declare agent: string
  declare expiresAt: Date
}

/** Small facts about the database itself. */
export class MarkRow extends Kept<MarkRow> {
  declare name: string
  declare value: string
}

/** Binds the models to a connection. */
export function defineModels(sequelize: Sequelize): void {
  const times = () => ({ createdAt: DataTypes.DATE(3), updatedAt: DataTypes.DATE(3) })
  const shelved = () => ({
    id: id(),
    rev: count(),
    schemaVersion: schemaVersion(),
    body: json('body'),
    removedAt: moment(),
    ...times(),
  })
  const init = (model: unknown, tableName: string, attributes: object) =>
    (model as { init(a: ModelAttributes, o: object): void }).init(attributes as ModelAttributes, {
      sequelize,
      tableName,
    })
  init(MachineRow, 'machines', shelved())
  init(FilamentRow, 'filaments', shelved())
  init(MarkRow, 'marks', {
    name: { type: DataTypes.STRING(60), primaryKey: true },
    value: { type: DataTypes.STRING(200), allowNull: false },
    ...times(),
  })
  init(SessionRow, 'sessions', {
    key: { type: DataTypes.CHAR(64), primaryKey: true, field: 'sessionKey' },
    agent: { type: DataTypes.STRING(200), allowNull: false },
    expiresAt: { type: DataTypes.DATE(3), allowNull: false },
    ...times(),
  })
  init(PairRow, 'pairs', {
    id: id(),
    machineId: ref(),
    filamentId: ref(),
    nozzle: { type: DataTypes.DECIMAL(5, 3), allowNull: false },
    current: count(),
    acknowledged: json('acknowledged', true),
    ...times(),
  })
  init(VersionRow, 'recipe_versions', {
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
  })
  init(CaseRow, 'cases', {
    id: id(),
    rev: count(),
    pairId: ref(),
    part: { type: DataTypes.STRING(200), allowNull: false },
    note: { type: DataTypes.TEXT, allowNull: false },
    status: { type: DataTypes.STRING(10), allowNull: false },
    schemaVersion: schemaVersion(),
    signs: json('signs'),
    startVersion: count(),
    keptVersion: { type: DataTypes.INTEGER, allowNull: true },
    learnt: { type: DataTypes.TEXT, allowNull: true },
    marks: json('marks', true),
    checks: json('checks', true),
    cannot: json('cannot', true),
    designs: json('designs', true),
    learns: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: true },
    place: { type: DataTypes.STRING(20), allowNull: true },
    longest: { type: DataTypes.DOUBLE, allowNull: true },
    partId: { type: DataTypes.CHAR(36), allowNull: true },
    sums: json('sums', true),
    families: { type: DataTypes.STRING(120), allowNull: false, defaultValue: '' },
    sumsSchema: { type: DataTypes.INTEGER, allowNull: false, defaultValue: 0 },
    removedAt: moment(),
    ...times(),
  })
  init(AttemptRow, 'attempts', {
    id: { type: DataTypes.BIGINT, primaryKey: true, autoIncrement: true },
    caseId: ref(),
    number: count(),
    mends: json('mends'),
    signsBefore: json('signsBefore'),
    fromVersion: count(),
    toVersion: count(),
    results: json('results', true),
    newSigns: json('newSigns'),
    note: { type: DataTypes.TEXT, allowNull: false },
    recordedAt: moment(),
    ...times(),
  })
  init(MeasurementRow, 'measurements', {
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
  })
  init(PartRow, 'parts', {
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
  })
  init(PhotoRow, 'case_photos', {
    id: id(),
    caseId: { type: DataTypes.CHAR(36), allowNull: true },
    trialId: { type: DataTypes.CHAR(36), allowNull: true },
    cell: { type: DataTypes.STRING(40), allowNull: true },
    afterAttempt: count(),
    sha256: { type: DataTypes.CHAR(64), allowNull: false },
    thumb: { type: DataTypes.CHAR(64), allowNull: false },
    width: count(),
    height: count(),
    note: { type: DataTypes.STRING(500), allowNull: false },
    marks: json('marks'),
    scale: { type: DataTypes.DOUBLE, allowNull: true },
    removedAt: moment(),
    ...times(),
  })
  init(TrialRow, 'trials', {
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
  })
  init(LinkRow, 'machine_links', {
    machineId: { type: DataTypes.CHAR(36), primaryKey: true },
    pace: { type: DataTypes.STRING(20), allowNull: false },
    practice: json('practice', true),
    ...times(),
  })
  init(PrintRow, 'prints', {
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
  })
  init(FileRow, 'case_files', {
    id: id(),
    caseId: ref(),
    name: { type: DataTypes.STRING(255), allowNull: false },
    bytes: { type: DataTypes.BIGINT, allowNull: false },
    sha256: { type: DataTypes.CHAR(64), allowNull: false },
    afterAttempt: count(),
    schemaVersion: schemaVersion(),
    reading: json('reading'),
    grams: { type: DataTypes.DOUBLE, allowNull: false, defaultValue: 0 },
    seconds: { type: DataTypes.DOUBLE, allowNull: false, defaultValue: 0 },
    ...times(),
  })
}
