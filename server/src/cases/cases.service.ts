import { randomUUID } from 'node:crypto'
import { Injectable } from '@nestjs/common'
import type { CaseDetail, CasePage, CaseStatistics, CaseSummary, ListCases } from '@verimend/contract'
import { asItTurnedOut, CASE_SCHEMA, caseReason, taughtBy, type PartFacts } from '@verimend/core/casework'
import type { LookResult } from '@verimend/core/diagnosis'
import {
  FAMILIES_OF_FAULT,
  type LookId,
  type PlaceId,
  type SignId,
  type SuspectId,
} from '@verimend/core/knowledge'
import { BlobsService } from '../blobs/blobs.service'
import { Database } from '../database/database.module'
import type { AttemptRow, CaseRow, CaseSums, PhotoRow } from '../database/models'
import { once } from '../database/once'
import { PairsRepository } from '../pairs/pairs.repository'
import { VersionsService } from '../pairs/versions.service'
import { conflict, notFound, putAway, refused } from '../problem/problem'
import { CasesRepository, type KeptFile, type KeptMark } from './cases.repository'
import { SUMS_SCHEMA, SumsService } from './sums.service'

/** Most answers of checks and trials that are kept in a case. */
const MOST_ANSWERS = 200
/** Most causes that are named of a kind of fault. */
const MOST_WORKED = 3
/** Of a case that nothing was summed of yet. */
const NO_SUMS: CaseSums = { seen: [], causes: [], attempts: 0, unrecorded: false, grams: 0, cured: [] }
/** Most marked heights that are kept in a case. */
const MOST_MARKS = 20

/** What hangs on a case. */
interface HangsOnCase {
  attempts: readonly AttemptRow[]
  files: readonly KeptFile[]
  photos: readonly PhotoRow[]
}
const NOTHING: HangsOnCase = { attempts: [], files: [], photos: [] }

/** Cases: what was seen, and where each stands. */
@Injectable()
export class CasesService {
  constructor(
    private readonly database: Database,
    private readonly cases: CasesRepository,
    private readonly pairs: PairsRepository,
    private readonly versions: VersionsService,
    private readonly blobs: BlobsService,
    private readonly sums: SumsService,
  ) {}

  async list(asked: ListCases): Promise<CasePage> {
    const { rows, total } = await this.cases.page(asked)
    return { cases: rows.map((r) => this.summary(r)), total }
  }

  private summary(row: CaseRow): CaseSummary {
    const { seen, attempts, unrecorded, grams, causes } = row.sums ?? NO_SUMS
    return {
      id: row.id,
      rev: row.rev,
      pairId: row.pairId,
      part: row.part,
      status: row.status,
      partId: row.partId ?? null,
      seen,
      attempts,
      awaiting: row.status === 'open' && unrecorded,
      grams,
      causes,
      createdAt: row.createdAt.toISOString(),
      updatedAt: row.updatedAt.toISOString(),
    }
  }

  /** What closed cases cost, and what cured them, by kind of fault. */
  async statistics(): Promise<CaseStatistics> {
    const closed = await this.cases.closedSums()
    return FAMILIES_OF_FAULT.flatMap(({ id: family }) => {
      const own = closed.filter((c) => c.families.includes(`,${family},`)).map((c) => c.sums ?? NO_SUMS)
      if (!own.length) return []
      const worked = new Map<SuspectId, number>()
      for (const c of own) for (const s of c.causes) worked.set(s, (worked.get(s) ?? 0) + 1)
      return [
        {
          family,
          closed: own.length,
          attempts: own.reduce((n, c) => n + c.attempts, 0) / own.length,
          grams: own.reduce((n, c) => n + c.grams, 0),
          worked: [...worked]
            .sort((a, b) => b[1] - a[1])
            .slice(0, MOST_WORKED)
            .map(([suspect, count]) => ({ suspect, count })),
        },
      ]
    })
  }

  async detail(id: string): Promise<CaseDetail> {
    return this.whole(await this.cases.row(id))
  }
  private async whole(row: CaseRow): Promise<CaseDetail> {
    return this.view(row, {
      attempts: await this.cases.attempts(row.id),
      files: await this.cases.files(row.id),
      photos: await this.cases.photos(row.id),
    })
  }
  private view(row: CaseRow, { attempts, files, photos }: HangsOnCase): CaseDetail {
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
      learnt: this.cases.taughtOf(row),
      marks: this.cases.marksOf(row),
      checks: row.checks ?? [],
      cannot: row.cannot ?? [],
      sets: row.designs ?? [],
      learns: !!row.learns,
      place: row.place ?? null,
      longest: row.longest ?? null,
      partId: row.partId ?? null,
      about: row.about ?? null,
      attempts: attempts.map((a) => this.cases.attemptOf(a)),
      files: files.map(({ row: f, reading }) => ({
        id: f.id,
        name: f.name,
        bytes: Number(f.bytes),
        sha256: f.sha256,
        afterAttempt: f.afterAttempt,
        reading,
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

  async create({
    id,
    pairId,
    part,
    place = null,
    longest = null,
    partId = null,
  }: {
    id?: string
    pairId: string
    part: string
    place?: PlaceId | null
    longest?: number | null
    partId?: string | null
  }) {
    let made: CaseRow | null = null
    const row = await once(
      async () => (id ? await this.cases.find(id) : null),
      async () => {
        const current = await this.pairs.currentForNew(pairId)
        made = await this.cases.create({
          id: id ?? randomUUID(),
          rev: 1,
          schemaVersion: CASE_SCHEMA,
          pairId,
          part,
          note: '',
          status: 'open',
          signs: {},
          startVersion: current,
          keptVersion: null,
          learnt: null,
          marks: [],
          checks: [],
          cannot: [],
          designs: [],
          place,
          longest,
          partId,
          sums: NO_SUMS,
          sumsSchema: SUMS_SCHEMA,
          removedAt: null,
        })
        return made
      },
    )
    // nothing hangs on one that was made this moment
    return row === made ? this.view(row, NOTHING) : this.detail(row.id)
  }

  /**
   * Runs a change on a locked case in one transaction and answers with the whole case.
   * @param closedToo whether a closed case may be changed like that
   */
  async change(
    id: string,
    work: (row: CaseRow) => Promise<void> | void,
    { closedToo = false } = {},
  ): Promise<CaseDetail> {
    const changed = await this.database.transaction(async () => {
      const row = await this.cases.row(id, true)
      if (row.removedAt) throw putAway([row.part])
      if (row.status === 'closed' && !closedToo)
        throw refused('closed', 'This case is closed. Reopen it to go on.')
      await work(row)
      await this.sums.put(row)
      row.rev += 1
      row.changed('updatedAt', true)
      return row.save()
    })
    return this.whole(changed)
  }

  /** Changes the words of a case. Signs and attempts may move on meanwhile; other words are a conflict. */
  update(id: string, was: { part: string; note: string }, part: string, note: string) {
    return this.change(
      id,
      (row) => {
        if (row.part !== was.part || row.note !== was.note)
          throw conflict(
            'This case was changed in another window. Nothing of yours is lost: compare and save again.',
            { part: row.part, note: row.note },
          )
        row.part = part
        row.note = note
      },
      { closedToo: true },
    )
  }

  setSign(id: string, sign: SignId, state: 'present' | 'absent' | null) {
    return this.change(id, (row) => {
      const signs = { ...row.signs }
      if (state === null) delete signs[sign]
      else signs[sign] = state
      row.signs = signs
    })
  }

  /** Marks many signs at once. What was seen before stays seen. */
  setSigns(id: string, present: readonly SignId[], absent: readonly SignId[]) {
    return this.change(id, (row) => {
      const signs = { ...row.signs }
      for (const s of absent) signs[s] ??= 'absent'
      for (const s of present) signs[s] = 'present'
      row.signs = signs
    })
  }

  /** Takes a case off the list; nothing is lost. */
  softDelete(id: string) {
    return this.setRemovedAt(id, new Date())
  }

  restore(id: string) {
    return this.setRemovedAt(id, null)
  }

  private async setRemovedAt(id: string, removedAt: Date | null) {
    await this.database.transaction(async () => {
      const row = await this.cases.row(id, true)
      row.removedAt = removedAt
      row.rev += 1
      await row.save()
    })
    return this.detail(id)
  }

  /** What a check or trial found of its suspects; null takes an answer back. */
  recordLooks(
    id: string,
    by: LookId,
    results: readonly { suspect: LookResult['suspect']; found: boolean | null }[],
  ) {
    return this.change(id, (row) => {
      const answered = new Set(results.map((r) => r.suspect))
      const kept = (row.checks ?? []).filter((c) => c.by !== by || !answered.has(c.suspect))
      row.checks = [
        ...kept,
        ...results.flatMap((r) => (r.found === null ? [] : [{ by, suspect: r.suspect, found: r.found }])),
      ].slice(-MOST_ANSWERS)
    })
  }

  setCannot(id: string, cannot: readonly string[]) {
    return this.change(id, (row) => {
      row.cannot = [...new Set(cannot)]
    })
  }

  setLongest(id: string, longest: number | null) {
    return this.change(id, (row) => {
      row.longest = longest
    })
  }

  /** Which kept part it is about, and what its mesh says. */
  setPart(id: string, partId: string | null, about: PartFacts | null = null) {
    return this.change(
      id,
      async (row) => {
        if (partId && !(await this.cases.hasPart(partId))) throw notFound('part')
        row.partId = partId
        row.about = partId ? about : null
      },
      { closedToo: true },
    )
  }

  /** Whether a closed case moves priors: what was learnt can be taken back. */
  setLearns(id: string, learns: boolean) {
    return this.change(
      id,
      (row) => {
        row.learns = learns
      },
      { closedToo: true },
    )
  }

  /** Keeps a mark of heights in place of one of the same quantity and file. */
  keepMark(row: CaseRow, mark: KeptMark): void {
    const others = this.cases
      .marksOf(row)
      .filter((m) => m.quantity !== mark.quantity || m.fileId !== mark.fileId)
    row.marks = [...others, mark].slice(-MOST_MARKS)
    row.schemaVersion = CASE_SCHEMA
  }

  /** Drops marks of heights. */
  dropMarks(row: CaseRow, which: (mark: KeptMark) => boolean): void {
    row.marks = this.cases.marksOf(row).filter((m) => !which(m))
  }

  /** Closes the case on the version that won; another one than the current is copied to the top. */
  close(id: string, rev: number, keep: number) {
    return this.change(id, async (row) => {
      if (row.rev !== rev)
        throw conflict(
          'This case was changed in another window. Look again before closing it.',
          await this.detail(id),
        )
      const open = await this.cases.openAttempt(id)
      if (open)
        throw refused('attempt-open', `Record first what came of attempt ${open.number}, or take it back.`)
      const pair = await this.pairs.row(row.pairId, true)
      row.keptVersion =
        keep === pair.current
          ? keep
          : (
              await this.versions.goBack(
                row.pairId,
                keep,
                caseReason('closed-back-to', { part: row.part, version: keep }),
                id,
              )
            ).number
      const attempts = (await this.cases.attempts(id)).map((a) => this.cases.attemptOf(a))
      row.learnt = JSON.stringify(taughtBy(row.part, asItTurnedOut(attempts, row.signs), row.signs))
      row.schemaVersion = CASE_SCHEMA
      row.status = 'closed'
    })
  }

  /** Takes a closed case up again, with signs that were found again on a later part. */
  reopen(id: string, back: readonly SignId[]) {
    return this.change(
      id,
      (row) => {
        row.signs = { ...row.signs, ...Object.fromEntries(back.map((sign) => [sign, 'present'])) }
        row.status = 'open'
        row.keptVersion = null
        row.learnt = null
      },
      { closedToo: true },
    )
  }
}
