import { randomUUID } from 'node:crypto'
import { buffer } from 'node:stream/consumers'
import { Injectable } from '@nestjs/common'
import type { ChosenMend } from '@verimend/contract'
import { Blobs } from '../blobs/blobs.service'
import {
  DESIGNS,
  MAX_SIGNS_SEEN,
  caseMarkdown,
  caseReport,
  correlate,
  deriveRecipe,
  faultOf,
  isSettingKey,
  lessons,
  makePiece,
  mendOf,
  mendText,
  overallOutcome,
  pinsOf,
  runValues,
  signsAfter,
  type CheckResult,
  type DesignId,
  type SuspectId,
  type PathReading,
  type Pins,
  type PlaceId,
  type ProcedureId,
  type SettingKey,
  type SettingValue,
  type SignId,
  type SignResults,
  type SummarisedCase,
} from '@verimend/core'
import { Op, type Transaction } from 'sequelize'
import { Database } from '../database/database.module'
import { AttemptRow, CaseRow, FileRow, PairRow, PhotoRow } from '../database/models'
import { Pairs } from '../pairs/pairs.service'
import { conflict, notFound, refused } from '../problem/problem'
import { reportSheet } from './report'

export interface MendChoice {
  proposal: string
  to?: SettingValue
  asHandling?: ProcedureId
}

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
    if (id && (await CaseRow.findByPk(id))) return this.detail(id)
    const pair = await this.pairs.row(pairId)
    const row = await CaseRow.create({
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
    return this.detail(row.id)
  }

  /** Refuses more seen signs than can be weighed. */
  private room(row: CaseRow, more: number): void {
    const seen = Object.values(row.signs).filter((s) => s === 'present').length
    if (more > 0 && seen + more > MAX_SIGNS_SEEN)
      throw refused(
        'too-many-signs',
        `At most ${MAX_SIGNS_SEEN} signs can be seen at once. Begin another case for the rest.`,
      )
  }

  /** Runs a change on a locked, open case in one transaction and answers with the whole case. */
  private async change(
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

  addFile(id: string, file: { name: string; bytes: number; sha256: string; reading: PathReading }) {
    return this.change(id, async (row, transaction) => {
      const afterAttempt = await AttemptRow.count({ where: { caseId: id }, transaction })
      const same = await FileRow.findOne({
        where: { caseId: id, sha256: file.sha256, afterAttempt },
        transaction,
      })
      if (same) return
      await FileRow.create({ id: randomUUID(), caseId: row.id, afterAttempt, ...file }, { transaction })
    })
  }

  removeFile(id: string, fileId: string) {
    return this.change(id, async (row, transaction) => {
      await FileRow.destroy({ where: { id: fileId, caseId: id }, transaction })
      row.marks = (row.marks ?? []).filter((m) => m.fileId !== fileId)
    })
  }

  /** Makes the match between marked heights and a quantity of a path file evidence in the case. */
  addMark(id: string, fileId: string, marks: { from: number; to: number }[], quantity: string) {
    return this.change(id, async (row, transaction) => {
      const file = await FileRow.findOne({ where: { id: fileId, caseId: id }, transaction })
      if (!file) throw notFound('path file')
      const match = correlate(file.reading.layers, marks).find((c) => c.id === quantity)
      if (!match)
        throw refused('no-match', 'Nothing of that kind changes at these heights.', [
          { path: 'quantity', message: 'It does not differ between marked and unmarked layers.' },
        ])
      const others = (row.marks ?? []).filter((m) => m.quantity !== quantity || m.fileId !== fileId)
      row.marks = [
        ...others.slice(-19),
        {
          id: randomUUID(),
          fileId,
          marks,
          quantity,
          sentence: match.sentence,
          strength: match.strength,
          p: match.p,
        },
      ]
    })
  }

  removeMark(id: string, markId: string) {
    return this.change(id, async (row) => {
      row.marks = (row.marks ?? []).filter((m) => m.id !== markId)
    })
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

  /** Begins a designed set from mends of the knowledge. */
  addSet(
    id: string,
    body: { design: DesignId; sign: SignId; factors: { proposal: string; levels: SettingValue[] }[] },
  ) {
    return this.change(id, async (row) => {
      const { runs, factors: wanted } = DESIGNS[body.design]
      if (body.factors.length !== wanted)
        throw refused('bad-set', `${DESIGNS[body.design].name}: it takes ${wanted} settings.`)
      const factors = body.factors.map((f, i) => {
        const found = mendOf(f.proposal)
        const wrong = (message: string) => refused('bad-set', message, [{ path: `factors.${i}`, message }])
        if (found?.mend.kind !== 'setting') throw wrong('There is no such mend.')
        const { key } = found.mend
        const fault = f.levels.map((v) => faultOf(key, v)).find(Boolean)
        if (fault) throw wrong(fault)
        if (new Set(f.levels).size !== (body.design === 'l9' ? 3 : 2))
          throw wrong('Its levels have to differ.')
        return { proposal: f.proposal, suspect: found.suspect, key, levels: f.levels }
      })
      if (new Set(factors.map((f) => f.key)).size < factors.length)
        throw refused('twice', 'Two of these changes move the same setting.')
      row.designs = [
        ...(row.designs ?? []).slice(-9),
        { id: randomUUID(), design: body.design, sign: body.sign, factors, grades: runs.map(() => null) },
      ]
    })
  }

  gradeRun(id: string, setId: string, run: number, grade: number | null) {
    return this.change(id, async (row) => {
      const set = (row.designs ?? []).find((s) => s.id === setId)
      if (!set || run < 1 || run > set.grades.length) throw notFound('print of a set')
      row.designs = (row.designs ?? []).map((s) =>
        s.id === setId ? { ...s, grades: s.grades.map((g, i) => (i === run - 1 ? grade : g)) } : s,
      )
    })
  }

  removeSet(id: string, setId: string) {
    return this.change(id, async (row) => {
      row.designs = (row.designs ?? []).filter((s) => s.id !== setId)
    })
  }

  /** String posts with the settings of one print of a set, as G-code. */
  async runFile(id: string, setId: string, run: number): Promise<string> {
    const c = await this.detail(id)
    const set = c.sets.find((s) => s.id === setId)
    if (!set || run < 1 || run > set.grades.length) throw notFound('print of a set')
    const pair = await this.pairs.detail(c.pairId)
    const { machine } = pair.machine
    const { filament } = pair.filament
    const own = Object.fromEntries(
      Object.entries(runValues(set, run - 1)).map(([k, value]) => [
        k,
        { value, source: 'hand', words: 'Of the set.' },
      ]),
    ) as Pins
    const recipe = deriveRecipe({ machine, filament, pins: { ...pinsOf(pair.version.values), ...own } })
    return makePiece(
      { machine, filament, recipe },
      { piece: 'string-posts', steps: { key: 'span', from: 40, to: 40, count: 1 } },
      [
        `${filament.name} on ${machine.name}, recipe version ${pair.current}`,
        `${c.part}, print ${run} of a set`,
      ],
    ).gcode
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

  /** The case to hand on, as Markdown. */
  async summary(id: string): Promise<string> {
    return caseMarkdown(await this.summarised(id))
  }

  /** The case to hand on, as PDF, with its first and last photo. */
  async report(id: string): Promise<Buffer> {
    const photos = await PhotoRow.findAll({
      where: { caseId: id, removedAt: null },
      order: [
        ['afterAttempt', 'ASC'],
        ['createdAt', 'ASC'],
      ],
    })
    const ends = photos.length > 1 ? [photos[0], photos.at(-1)!] : photos
    return reportSheet(
      caseReport(await this.summarised(id)),
      await Promise.all(
        ends.map(async (p) => ({
          jpeg: await buffer(this.blobs.read(p.sha256).stream),
          words: `${p.afterAttempt ? `After attempt ${p.afterAttempt}` : 'Before'}${p.note ? `: ${p.note}` : ''}`,
        })),
      ),
    )
  }

  private async summarised(id: string): Promise<SummarisedCase> {
    const c = await this.detail(id)
    const pair = await this.pairs.detail(c.pairId)
    return {
      part: c.part,
      note: c.note,
      machine: pair.machine.machine,
      filament: pair.filament.filament,
      signs: c.signs,
      attempts: c.attempts,
      checks: c.checks,
      marks: c.marks.map((m) => m.sentence),
      keptVersion: c.keptVersion,
      learnt: c.learnt,
      begun: c.createdAt,
      closed: c.status === 'closed' ? c.updatedAt : null,
    }
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

  /** Accepts one to three mends: a new recipe version when settings change, and an attempt to look at later. */
  attempt(id: string, base: number, choices: MendChoice[]) {
    return this.change(id, async (row, transaction) => {
      const open = await AttemptRow.findOne({ where: { caseId: id, recordedAt: null }, transaction })
      if (open) throw refused('attempt-open', `Record first what came of attempt ${open.number}.`)
      const number = (await AttemptRow.count({ where: { caseId: id }, transaction })) + 1
      const pair = await this.pairs.row(row.pairId, transaction)
      const current = await this.pairs.version(row.pairId, pair.current)
      const mends: ChosenMend[] = choices.map((choice, i) => this.chosen(choice, current.values, i))
      const set: Record<string, SettingValue> = {}
      for (const m of mends) {
        if (m.kind !== 'setting') continue
        if (m.key in set) throw refused('twice', `Two of these changes move the same setting.`)
        set[m.key] = m.to
      }
      let toVersion = pair.current
      if (Object.keys(set).length) {
        const words = mends
          .filter((m) => m.kind === 'setting')
          .map(mendText)
          .join('; ')
        const version = await this.pairs.write(transaction, row.pairId, base, {
          set,
          source: 'mend',
          words: `Attempt ${number} on “${row.part}”: ${mends[0].why}`,
          reason: `“${row.part}”, attempt ${number}: ${words}`.slice(0, 480),
          caseId: id,
        })
        toVersion = version.number
      } else if (pair.current !== base) {
        throw conflict(
          `This recipe has moved on to version ${pair.current}. Look at the new advice first.`,
          current,
        )
      }
      await AttemptRow.create(
        {
          caseId: id,
          number,
          mends,
          signsBefore: row.signs,
          fromVersion: pair.current === toVersion ? toVersion : base,
          toVersion,
          results: null,
          newSigns: [],
          note: '',
          recordedAt: null,
        },
        { transaction },
      )
    })
  }

  private chosen(choice: MendChoice, values: Record<string, { value: SettingValue }>, i: number): ChosenMend {
    const found = mendOf(choice.proposal)
    if (!found)
      throw refused('no-such-mend', 'There is no such mend.', [
        { path: `mends.${i}.proposal`, message: 'There is no such mend.' },
      ])
    const { suspect, mend } = found
    if (mend.kind === 'handling')
      return {
        kind: 'handling',
        proposal: choice.proposal,
        suspect,
        procedure: mend.procedure,
        why: mend.why,
      }
    if (choice.asHandling)
      return {
        kind: 'handling',
        proposal: choice.proposal,
        suspect,
        procedure: choice.asHandling,
        why: mend.why,
      }
    const fault =
      choice.to === undefined ? 'Say which value the setting should get.' : faultOf(mend.key, choice.to)
    if (fault || !isSettingKey(mend.key))
      throw refused('bad-value', fault ?? 'There is no such setting.', [
        { path: `mends.${i}.to`, message: fault ?? '' },
      ])
    const from = values[mend.key as SettingKey].value
    if (from === choice.to)
      throw refused('no-change', 'That is the value it has already: nothing would change.', [
        { path: `mends.${i}.to`, message: 'Nothing would change.' },
      ])
    return {
      kind: 'setting',
      proposal: choice.proposal,
      suspect,
      key: mend.key,
      from,
      to: choice.to!,
      why: mend.why,
    }
  }

  /** Takes back an attempt that was not printed yet; its recipe version stays and the one before it returns. */
  withdraw(id: string, number: number) {
    return this.change(id, async (row, transaction) => {
      const attempt = await AttemptRow.findOne({ where: { caseId: id, number }, transaction })
      if (!attempt) throw notFound('attempt')
      if (attempt.recordedAt)
        throw refused('recorded', 'This attempt has been looked at; it stays in the notebook.')
      if (attempt.toVersion !== attempt.fromVersion) {
        const pair = await this.pairs.row(row.pairId, transaction)
        if (pair.current === attempt.toVersion)
          await this.pairs.goBack(
            transaction,
            row.pairId,
            attempt.fromVersion,
            `“${row.part}”: attempt ${number} taken back.`,
            id,
          )
      }
      await attempt.destroy({ transaction })
    })
  }

  record(
    id: string,
    number: number,
    outcome: { results: SignResults; newSigns: SignId[]; notThere: SignId[]; note: string },
  ) {
    return this.change(id, async (row, transaction) => {
      const attempt = await AttemptRow.findOne({ where: { caseId: id, number }, transaction })
      if (!attempt) throw notFound('attempt')
      if (attempt.recordedAt) throw refused('recorded', `Attempt ${number} has been recorded already.`)
      const seen = (Object.keys(row.signs) as SignId[]).filter((s) => row.signs[s] === 'present')
      const missing = seen.filter((s) => !outcome.results[s])
      if (missing.length)
        throw refused(
          'incomplete',
          'Say for each sign whether it is gone, better, the same or worse.',
          missing.map((s) => ({ path: `results.${s}`, message: 'Not answered yet.' })),
        )
      this.room(row, outcome.newSigns.filter((s) => !seen.includes(s)).length)
      const results = Object.fromEntries(seen.map((s) => [s, outcome.results[s]])) as SignResults
      attempt.results = results
      attempt.newSigns = outcome.newSigns
      attempt.note = outcome.note
      attempt.recordedAt = new Date()
      await attempt.save({ transaction })
      row.signs = signsAfter(row.signs, results, outcome.newSigns, outcome.notThere)
    })
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
