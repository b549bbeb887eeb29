import { DataTypes, type CreationOptional } from 'sequelize'
import type { ChosenMend, PhotoMark } from '@verimend/contract'
import type { DesignedSet, PartFacts, SignResults, StoredMark } from '@verimend/core/casework'
import type { LookResult, SignStates } from '@verimend/core/diagnosis'
import type { PlaceId, SignId, SuspectId } from '@verimend/core/knowledge'
import type { SettingKey } from '@verimend/core/recipe'
import type { StoredReading } from '@verimend/core/toolpath'
import { Kept, count, id, json, moment, ref, schemaVersion, times, type Table } from './columns'

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
  /** What the mesh of that part says. */
  declare about: CreationOptional<PartFacts | null>
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

/** Tables of cases, with their attempts, files and photos. */
export const CASES_TABLES: readonly Table[] = [
  [
    CaseRow,
    'cases',
    () => ({
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
      about: json('about', true),
      sums: json('sums', true),
      families: { type: DataTypes.STRING(120), allowNull: false, defaultValue: '' },
      sumsSchema: { type: DataTypes.INTEGER, allowNull: false, defaultValue: 0 },
      removedAt: moment(),
      ...times(),
    }),
  ],
  [
    AttemptRow,
    'attempts',
    () => ({
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
    }),
  ],
  [
    FileRow,
    'case_files',
    () => ({
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
    }),
  ],
  [
    PhotoRow,
    'case_photos',
    () => ({
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
    }),
  ],
]
