import { Injectable } from '@nestjs/common'
import type { Attempt, ListCases } from '@verimend/contract'
import { upgradeMark, upgradeTaught, type HeightMark } from '@verimend/core/casework'
import type { Reason } from '@verimend/core/quantity'
import { READING_SCHEMA, upgradeReading, type PathReading } from '@verimend/core/toolpath'
import { literal, Op, Transaction, type CreationAttributes, type WhereOptions } from 'sequelize'
import { AttemptRow, CaseRow, FileRow, PartRow, PhotoRow } from '../database/models'
import { notFound, putAway } from '../problem/problem'

/** A path file of a case with its reading in today's shape. */
export interface KeptFile {
  row: FileRow
  reading: PathReading
}
/** What lists and lessons need of an attempt. */
export type AttemptHead = Pick<
  AttemptRow,
  'number' | 'mends' | 'signsBefore' | 'results' | 'newSigns' | 'recordedAt'
>
/** What lists need of a path file. */
export type FileHead = Pick<FileRow, 'caseId' | 'afterAttempt' | 'grams'>
export type KeptMark = HeightMark & { id: string }

const ofMany = <T extends { caseId: string }>(rows: readonly T[]): Map<string, T[]> => {
  const out = new Map<string, T[]>()
  for (const row of rows) {
    const list = out.get(row.caseId)
    if (list) list.push(row)
    else out.set(row.caseId, [row])
  }
  return out
}
/** What holds a word somewhere; signs that the database would take for others stand for themselves. */
const pieceOf = (word: string) => `%${word.replace(/[\\%_]/g, '\\$&')}%`
/** Most path files that are listed of a pair. */
const MOST_FILES = 60
/** Most closed cases a pair learns from. */
const MOST_LESSONS = 200

/** Kept cases with what hangs on them; everything comes out in today's shape. */
@Injectable()
export class CasesRepository {
  /** @param lock whether nobody else may change it until the transaction ends */
  async row(id: string, lock = false): Promise<CaseRow> {
    const row = await CaseRow.findByPk(id, lock ? { lock: Transaction.LOCK.UPDATE } : {})
    if (!row) throw notFound('case')
    return row
  }

  /** @throws ProblemException where a case was put away, with the way to bring it back */
  async present(id: string): Promise<CaseRow> {
    const row = await this.row(id)
    if (row.removedAt) throw putAway([row.part])
    return row
  }

  /** @param lock whether nobody else may change it until the transaction ends */
  find(id: string, lock = false): Promise<CaseRow | null> {
    return CaseRow.findByPk(id, lock ? { lock: Transaction.LOCK.UPDATE } : {})
  }

  create(row: CreationAttributes<CaseRow>): Promise<CaseRow> {
    return CaseRow.create(row)
  }

  /** Whether a part is kept that a case may be about. */
  async hasPart(id: string): Promise<boolean> {
    return (await PartRow.count({ where: { id, removedAt: null } })) > 0
  }

  /** A page of the cases that are not removed: open ones first, then the one changed last. */
  async page(asked: ListCases): Promise<{ rows: CaseRow[]; total: number }> {
    const { status, pairId, family, search, withPart, skip, limit } = asked
    const where: WhereOptions<CaseRow> = {
      removedAt: null,
      ...(status && { status }),
      ...(pairId && { pairId }),
      ...(withPart && { partId: { [Op.ne]: null } }),
      ...(family && { families: { [Op.substring]: `,${family},` } }),
      // every word of it
      ...(search && {
        [Op.and]: search.split(/\s+/).map((word) => ({ part: { [Op.like]: pieceOf(word) } })),
      }),
    }
    const rows = await CaseRow.findAll({
      where,
      order: [
        ['status', 'DESC'],
        ['updatedAt', 'DESC'],
        ['id', 'ASC'],
      ],
      offset: skip,
      limit,
      attributes: ['id', 'rev', 'pairId', 'part', 'partId', 'status', 'sums', 'createdAt', 'updatedAt'],
    })
    const whole = skip === 0 && rows.length < limit
    return { rows, total: whole ? rows.length : await CaseRow.count({ where }) }
  }

  /** Cases of some pairs that are not removed, the one changed last first. */
  ofPairs(pairIds: string[]): Promise<CaseRow[]> {
    return CaseRow.findAll({
      where: { removedAt: null, pairId: pairIds },
      order: [['updatedAt', 'DESC']],
      attributes: ['id', 'pairId', 'sums'],
    })
  }

  /** Closed cases, the one changed last first. */
  closed(): Promise<CaseRow[]> {
    return CaseRow.findAll({
      where: { status: 'closed', removedAt: null },
      order: [['updatedAt', 'DESC']],
      limit: MOST_LESSONS,
      attributes: ['id', 'pairId', 'part', 'learns', 'sums'],
    })
  }
  /** Of every closed case what it was about and what it cost. */
  closedSums(): Promise<CaseRow[]> {
    return CaseRow.findAll({
      where: { status: 'closed', removedAt: null },
      attributes: ['families', 'sums'],
    })
  }

  marksOf(row: CaseRow): KeptMark[] {
    return (row.marks ?? []).map(upgradeMark)
  }
  taughtOf(row: CaseRow): Reason[] | null {
    return upgradeTaught(row.learnt)
  }

  // ---- attempts
  attemptOf(row: AttemptRow): Attempt {
    return {
      number: row.number,
      // mends once carried a sentence
      mends: row.mends.map((m) => {
        const { why: _, ...mend } = m as typeof m & { why?: string }
        return mend
      }),
      signsBefore: row.signsBefore,
      fromVersion: row.fromVersion,
      toVersion: row.toVersion,
      results: row.results,
      newSigns: row.newSigns,
      note: row.note,
      createdAt: row.createdAt.toISOString(),
      recordedAt: row.recordedAt?.toISOString() ?? null,
    }
  }

  attempts(caseId: string): Promise<AttemptRow[]> {
    return AttemptRow.findAll({ where: { caseId }, order: [['number', 'ASC']] })
  }
  attempt(caseId: string, number: number): Promise<AttemptRow | null> {
    return AttemptRow.findOne({ where: { caseId, number } })
  }
  /** The attempt nobody has looked at yet. */
  openAttempt(caseId: string): Promise<AttemptRow | null> {
    return AttemptRow.findOne({ where: { caseId, recordedAt: null } })
  }
  countAttempts(caseId: string): Promise<number> {
    return AttemptRow.count({ where: { caseId } })
  }
  /** What lists and lessons need of the attempts of many cases, in one request. */
  async attemptsOf(cases: readonly CaseRow[]): Promise<Map<string, AttemptRow[]>> {
    return ofMany(
      await AttemptRow.findAll({
        where: { caseId: { [Op.in]: cases.map((c) => c.id) } },
        order: [['number', 'ASC']],
        attributes: ['caseId', 'number', 'recordedAt', 'mends', 'signsBefore', 'results', 'newSigns'],
      }),
    )
  }

  // ---- path files
  async files(caseId: string): Promise<KeptFile[]> {
    const rows = await FileRow.findAll({ where: { caseId }, order: [['createdAt', 'ASC']] })
    return rows.map((row) => ({ row, reading: upgradeReading(row.reading) }))
  }
  async file(caseId: string, id: string): Promise<KeptFile> {
    const row = await FileRow.findOne({ where: { id, caseId } })
    if (!row) throw notFound('path file')
    return { row, reading: upgradeReading(row.reading) }
  }
  /** What lists need of the files of many cases, in one request and without their readings. */
  async fileHeadsOf(cases: readonly CaseRow[]): Promise<Map<string, FileHead[]>> {
    return ofMany(
      await FileRow.findAll({
        where: { caseId: { [Op.in]: cases.map((c) => c.id) } },
        order: [['createdAt', 'ASC']],
        attributes: ['caseId', 'afterAttempt', 'grams'],
      }),
    )
  }
  /** Path files of a pair's cases without their readings, the newest first. */
  async filesOfPair(pairId: string): Promise<{ file: FileRow; part: string }[]> {
    const files = await FileRow.findAll({
      where: {
        caseId: { [Op.in]: literal('(SELECT id FROM cases WHERE pairId = :pairId AND removedAt IS NULL)') },
      },
      replacements: { pairId },
      order: [['createdAt', 'DESC']],
      limit: MOST_FILES,
      attributes: { exclude: ['reading'] },
    })
    const cases = await CaseRow.findAll({
      where: { id: [...new Set(files.map((f) => f.caseId))] },
      attributes: ['id', 'part'],
    })
    const partOf = new Map(cases.map((c) => [c.id, c.part]))
    return files.map((file) => ({ file, part: partOf.get(file.caseId)! }))
  }
  fileOf(caseId: string, sha256: string, afterAttempt: number): Promise<FileRow | null> {
    return FileRow.findOne({ where: { caseId, sha256, afterAttempt }, attributes: ['id'] })
  }
  async addFile(
    file: Pick<FileRow, 'id' | 'caseId' | 'name' | 'bytes' | 'sha256' | 'afterAttempt'>,
    reading: PathReading,
  ): Promise<void> {
    await FileRow.create({
      ...file,
      reading,
      schemaVersion: READING_SCHEMA,
      grams: reading.filament.mass,
      seconds: reading.seconds,
    })
  }
  async removeFile(caseId: string, id: string): Promise<void> {
    await FileRow.destroy({ where: { id, caseId } })
  }

  // ---- photos
  photos(caseId: string): Promise<PhotoRow[]> {
    return PhotoRow.findAll({
      where: { caseId, removedAt: null },
      order: [
        ['afterAttempt', 'ASC'],
        ['createdAt', 'ASC'],
      ],
    })
  }
}
