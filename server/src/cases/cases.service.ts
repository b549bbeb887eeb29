import { randomUUID } from 'node:crypto'
import { Injectable } from '@nestjs/common'
import { Blobs } from '../blobs/blobs.service'
import {
  MAX_SIGNS_SEEN,
  lessons,
  overallOutcome,
  type CheckResult,
  type PlaceId,
  type SignId,
  type SuspectId,
} from '@verimend/core'
import { Op, type Transaction } from 'sequelize'
import { Database } from '../database/database.module'
import { AttemptRow, CaseRow, FileRow, PairRow, PhotoRow } from '../database/models'
import { once } from '../database/once'
import { Pairs } from '../pairs/pairs.service'
import { conflict, notFound, refused } from '../problem/problem'

/** Suspects whose mend made what it went for go away. */
function causesOf(attempts: AttemptRow[]): SuspectId[] {
  const out = attempts
    .filter((a) => a.results && overallOutcome({ mends: a.mends, results: a.results }) === 'gone')
    .flatMap((a) => a.mends.map((m) => m.suspect))
  return [...new Set(out)]
}

/** Grams printed over the attempts of a case, as far as its files tell. */
function printed(attempts: number, files: FileRow[]): number {
  if (!files.length) return 0
  let sum = 0
  for (let n = 0; n <= attempts; n++) {
    const at = files.filter((f) => f.afterAttempt <= n).at(-1) ?? files[0]
    sum += at.reading.filament.mass
  }
  return Number(sum.toFixed(1))
}

@Injectable()
export class Cases {
  constructor(
    private readonly database: Database,
    private readonly pairs: Pairs,
    private readonly blobs: Blobs,
  ) {}

  private attemptView(a: AttemptRow) {
    return {
      number: a.number,
      mends: a.mends,
      signsBefore: a.signsBefore,
      fromVersion: a.fromVersion,
      toVersion: a.toVersion,
      results: a.results,
      newSigns: a.newSigns,
      note: a.note,
      createdAt: a.createdAt.toISOString(),
      recordedAt: a.recordedAt?.toISOString() ?? null,
    }
  }

  async list() {
    const rows = await CaseRow.findAll({ where: { removedAt: null }, order: [['updatedAt', 'DESC']] })
    const attempts = await AttemptRow.findAll({
      where: { caseId: { [Op.in]: rows.map((r) => r.id) } },
      attributes: ['caseId', 'number', 'recordedAt', 'mends', 'results'],
    })
    const files = await FileRow.findAll({ where: { caseId: { [Op.in]: rows.map((r) => r.id) } } })
    return rows.map((r) => {
      const own = attempts.filter((a) => a.caseId === r.id)
      return {
        id: r.id,
        rev: r.rev,
        pairId: r.pairId,
        part: r.part,
        status: r.status,
        seen: (Object.keys(r.signs) as SignId[]).filter((s) => r.signs[s] === 'present'),
        attempts: own.length,
        awaiting: r.status === 'open' && own.some((a) => a.recordedAt === null),
        grams: printed(
          own.length,
          files.filter((f) => f.caseId === r.id),
        ),
        causes: causesOf(own),
        createdAt: r.createdAt.toISOString(),
        updatedAt: r.updatedAt.toISOString(),
      }
    })
  }

  private async row(id: string, transaction?: Transaction): Promise<CaseRow> {
    const row = await CaseRow.findByPk(id, transaction ? { transaction, lock: true } : {})
    if (!row) throw notFound('case')
    return row
  }

  async detail(id: string) {
    const row = await this.row(id)
    const [attempts, files, photos] = await Promise.all([
      AttemptRow.findAll({ where: { caseId: id }, order: [['number', 'ASC']] }),
      FileRow.findAll({ where: { caseId: id }, order: [['createdAt', 'ASC']] }),
      PhotoRow.findAll({ where: { caseId: id, removedAt: null }, order: [['createdAt', 'ASC']] }),
    ])
    return {
      id: row.id,
      rev: row.rev,
      pairId: row.pairId,
      part: row.part,
      note: row.note,
      status: row.status,
      signs: row.signs,
      startVersion: row.startVersion,
      keptVersion: row.keptVersion,
      learnt: row.learnt,
      marks: row.marks ?? [],
      checks: row.checks ?? [],
      cannot: row.cannot ?? [],
      sets: row.designs ?? [],
      learns: !!row.learns,
      place: row.place ?? null,
      attempts: attempts.map((a) => this.attemptView(a)),
      files: files.map((f) => ({
        id: f.id,
        name: f.name,
        bytes: Number(f.bytes),
        sha256: f.sha256,
        afterAttempt: f.afterAttempt,
        reading: f.reading,
        kept: this.blobs.has(f.sha256),
        createdAt: f.createdAt.toISOString(),
      })),
      photos: photos.map((p) => ({
        id: p.id,
        afterAttempt: p.afterAttempt,
        width: p.width,
        height: p.height,
        note: p.note,
        marks: p.marks,
        scale: p.scale,
        createdAt: p.createdAt.toISOString(),
      })),
      createdAt: row.createdAt.toISOString(),
      updatedAt: row.updatedAt.toISOString(),
    }
  }

  async create(id: string | undefined, pairId: string, part: string, place: PlaceId | null = null) {
    const row = await once(
      async () => (id ? await CaseRow.findByPk(id) : null),
      async () => {
        const pair = await this.pairs.row(pairId)
        return CaseRow.create({
          id: id ?? randomUUID(),
          rev: 1,
          pairId,
          part,
          note: '',
          status: 'open',
          signs: {},
          startVersion: pair.current,
          keptVersion: null,
          learnt: null,
          marks: [],
          place,
          removedAt: null,
        })
      },
    )
    return this.detail(row.id)
  }

  /** Refuses more seen signs than can be weighed. */
  room(row: CaseRow, more: number): void {
    const seen = Object.values(row.signs).filter((s) => s === 'present').length
    if (more > 0 && seen + more > MAX_SIGNS_SEEN)
      throw refused(
        'too-many-signs',
        `At most ${MAX_SIGNS_SEEN} signs can be seen at once. Begin another case for the rest.`,
      )
  }

  /** Runs a change on a locked, open case in one transaction and answers with the whole case. */
  async change(
    id: string,
    work: (row: CaseRow, transaction: Transaction) => Promise<void>,
    closedToo = false,
  ) {
    await this.database.sequelize.transaction(async (transaction) => {
      const row = await this.row(id, transaction)
      if (row.removedAt) throw notFound('case')
      if (row.status === 'closed' && !closedToo)
        throw refused('closed', 'This case is closed. Reopen it to go on.')
      await work(row, transaction)
      row.rev += 1
      row.changed('updatedAt', true)
      await row.save({ transaction })
    })
    return this.detail(id)
  }

  /** Changes something that hangs on a case, open or closed, and answers with the whole case. */
  touch(id: string, work: (transaction: Transaction) => Promise<void>) {
    return this.change(id, (_, transaction) => work(transaction), true)
  }

  /** Changes the words of a case. Signs and attempts may move on meanwhile; other words are a conflict. */
  update(id: string, was: { part: string; note: string }, part: string, note: string) {
    return this.change(
      id,
      async (row) => {
        if (row.part !== was.part || row.note !== was.note)
          throw conflict(
            'This case was changed in another window. Nothing of yours is lost: compare and save again.',
            {
              part: row.part,
              note: row.note,
            },
          )
        row.part = part
        row.note = note
      },
      true,
    )
  }

  setSign(id: string, sign: SignId, state: 'present' | 'absent' | null) {
    return this.change(id, async (row) => {
      if (state === 'present' && row.signs[sign] !== 'present') this.room(row, 1)
      const signs = { ...row.signs }
      if (state === null) delete signs[sign]
      else signs[sign] = state
      row.signs = signs
    })
  }

  async setRemoved(id: string, removed: boolean) {
    await this.database.sequelize.transaction(async (transaction) => {
      const row = await this.row(id, transaction)
      row.removedAt = removed ? new Date() : null
      row.rev += 1
      await row.save({ transaction })
    })
    return this.detail(id)
  }

  /** What a check or trial found of its suspects; null takes an answer back. */
  recordChecks(
    id: string,
    by: CheckResult['by'],
    results: { suspect: CheckResult['suspect']; found: boolean | null }[],
  ) {
    return this.change(id, async (row) => {
      const now = new Map(results.map((r) => [r.suspect, r.found]))
      const kept = (row.checks ?? []).filter((c) => c.by !== by || !now.has(c.suspect))
      row.checks = [
        ...kept,
        ...results.flatMap((r) => (r.found === null ? [] : [{ by, suspect: r.suspect, found: r.found }])),
      ].slice(-200)
    })
  }

  setCannot(id: string, cannot: string[]) {
    return this.change(id, async (row) => {
      row.cannot = [...new Set(cannot)]
    })
  }

  /** Whether a closed case moves priors: what was learnt can be taken back. */
  setLearns(id: string, learns: boolean) {
    return this.change(
      id,
      async (row) => {
        row.learns = learns
      },
      true,
    )
  }

  /** Closed cases that teach about a pair: its own, its machine's, its filament family's. */
  async lessons(pairId: string) {
    const pair = await this.pairs.detail(pairId)
    const all = await CaseRow.findAll({
      where: { status: 'closed', removedAt: null },
      order: [['updatedAt', 'DESC']],
      limit: 200,
    })
    const out = await Promise.all(
      all.map(async (c) => {
        const other = await this.pairs.detail(c.pairId)
        const attempts = await AttemptRow.findAll({ where: { caseId: c.id } })
        return {
          caseId: c.id,
          part: c.part,
          causes: causesOf(attempts),
          samePair: c.pairId === pairId,
          sameMachine: other.machineId === pair.machineId,
          sameFamily: other.filament.filament.family === pair.filament.filament.family,
          learns: !!c.learns,
        }
      }),
    )
    return out.filter((l) => l.causes.length && (l.samePair || l.sameMachine || l.sameFamily))
  }

  /** Closes the case on the version that won; another one than the current is copied to the top. */
  close(id: string, rev: number, keep: number) {
    return this.change(id, async (row, transaction) => {
      if (row.rev !== rev)
        throw conflict(
          'This case was changed in another window. Look again before closing it.',
          await this.detail(id),
        )
      const open = await AttemptRow.findOne({ where: { caseId: id, recordedAt: null }, transaction })
      if (open)
        throw refused('attempt-open', `Record first what came of attempt ${open.number}, or take it back.`)
      const pair: PairRow = await this.pairs.row(row.pairId, transaction)
      if (keep !== pair.current) {
        const back = await this.pairs.goBack(
          transaction,
          row.pairId,
          keep,
          `“${row.part}” closed: back to version ${keep}.`,
          id,
        )
        row.keptVersion = back.number
      } else row.keptVersion = keep
      const attempts = await AttemptRow.findAll({
        where: { caseId: id },
        order: [['number', 'ASC']],
        transaction,
      })
      row.learnt = lessons(
        `“${row.part}”`,
        attempts.map((a) => this.attemptView(a)),
        row.signs,
      )
      row.status = 'closed'
    })
  }

  reopen(id: string) {
    return this.change(
      id,
      async (row) => {
        row.status = 'open'
        row.keptVersion = null
        row.learnt = null
      },
      true,
    )
  }
}
