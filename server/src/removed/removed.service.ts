import { Injectable, Logger, type OnApplicationShutdown } from '@nestjs/common'
import { REMOVED_DAYS, type Freed, type Removable, type RemovedThing } from '@verimend/contract'
import type { Filament } from '@verimend/core/material'
import type { Machine } from '@verimend/core/machine'
import { PIECES } from '@verimend/core/trials'
import { Op, type ModelStatic, type Model } from 'sequelize'
import { BlobsService } from '../blobs/blobs.service'
import { BlobSweeper } from '../blobs/sweeper.service'
import { Database } from '../database/database.module'
import { inTransaction } from '../database/transactions'
import {
  AttemptRow,
  CaseRow,
  FilamentRow,
  FileRow,
  LinkRow,
  MachineRow,
  MarkRow,
  MeasurementRow,
  PairRow,
  PartRow,
  PhotoRow,
  PrintRow,
  TrialRow,
  VersionRow,
} from '../database/models'
import { conflict, notFound } from '../problem/problem'

const DAY_MS = 24 * 3600 * 1000
/** How often it is looked whether something's time is over, ms, and how long after the start first. */
const LOOK_MS = 6 * 3600_000
const FIRST_MS = 5 * 60_000
/** Most entries of a kind that are listed, the ones put away last. */
const MOST = 200
/** Mark in the database: the time that the last look went by. */
const LAST_LOOK = 'removed-looked-at'
/** Days after the last look that a clock is believed at most: after a start, when the application may have rested, and later on. */
const LEAP_DAYS = { first: 7, later: 1 }

/** Rows of all kinds have what is needed here. */
type Row = Model & { id: string; rev?: number; removedAt: Date | null }
const MODELS: Record<Removable, ModelStatic<Row>> = {
  case: CaseRow as unknown as ModelStatic<Row>,
  machine: MachineRow as unknown as ModelStatic<Row>,
  filament: FilamentRow as unknown as ModelStatic<Row>,
  trial: TrialRow as unknown as ModelStatic<Row>,
  measurement: MeasurementRow as unknown as ModelStatic<Row>,
  part: PartRow as unknown as ModelStatic<Row>,
  photo: PhotoRow as unknown as ModelStatic<Row>,
}
/** What hangs on others goes first: a roll goes once no case of it is left. */
const KINDS: readonly Removable[] = ['photo', 'trial', 'measurement', 'case', 'part', 'filament', 'machine']

/** Things that were put away: brought back within thirty days, and then gone with their files. */
@Injectable()
export class RemovedService implements OnApplicationShutdown {
  private readonly log = new Logger('Removed')
  private readonly timers: NodeJS.Timeout[] = []
  private looked = false

  constructor(
    private readonly database: Database,
    private readonly blobs: BlobsService,
    private readonly sweeper: BlobSweeper,
  ) {}

  /** Looks after what has been put away for long, from now on. */
  begin(): void {
    const look = () => void this.tidy().catch((e: unknown) => this.log.error(e))
    this.timers.push(setTimeout(look, FIRST_MS).unref(), setInterval(look, LOOK_MS).unref())
  }
  onApplicationShutdown(): void {
    this.timers.forEach(clearTimeout)
  }

  /** Everything that can be brought back, what was put away last first. */
  async list(): Promise<RemovedThing[]> {
    const out: RemovedThing[] = []
    for (const kind of KINDS)
      for (const row of await this.rows(kind)) {
        const removedAt = row.removedAt!
        const needed = await this.isNeeded(kind, row.id)
        out.push({
          kind,
          id: row.id,
          name: await this.nameOf(kind, row),
          removedAt: removedAt.toISOString(),
          goesAt: needed ? null : new Date(removedAt.getTime() + REMOVED_DAYS * DAY_MS).toISOString(),
          bytes: this.blobs.bytesOf(await this.filesOf(kind, row)),
        })
      }
    return out.sort((a, b) => b.removedAt.localeCompare(a.removedAt))
  }

  private async rows(kind: Removable, before?: Date): Promise<Row[]> {
    const rows = await MODELS[kind].findAll({
      where: { removedAt: before ? { [Op.lt]: before } : { [Op.ne]: null } },
      order: [['removedAt', 'DESC']],
      limit: MOST,
    })
    if (kind !== 'photo') return rows
    // with its case or trial it is put away and comes back
    const shown: Row[] = []
    for (const row of rows as unknown as PhotoRow[]) {
      const owner = row.caseId ? await CaseRow.findByPk(row.caseId) : await TrialRow.findByPk(row.trialId!)
      if (owner && !owner.removedAt) shown.push(row as unknown as Row)
    }
    return shown
  }

  private async get(kind: Removable, id: string, lock = false): Promise<Row> {
    const row = await MODELS[kind].findByPk(id, lock ? { lock: true } : {})
    if (!row?.removedAt) throw notFound('thing that was put away')
    return row
  }

  private async nameOf(kind: Removable, row: Row): Promise<string> {
    switch (kind) {
      case 'case':
        return (row as unknown as CaseRow).part
      case 'machine':
        return ((row as unknown as MachineRow).body as Machine).name
      case 'filament':
        return ((row as unknown as FilamentRow).body as Filament).name
      case 'part':
        return (row as unknown as PartRow).name
      case 'trial': {
        const { plan, number } = row as unknown as TrialRow
        return `${PIECES[plan.piece]?.name ?? plan.piece}, trial ${number}`
      }
      case 'measurement':
        return (row as unknown as MeasurementRow).note.slice(0, 80)
      case 'photo': {
        const { caseId, trialId, note } = row as unknown as PhotoRow
        if (caseId) return note.slice(0, 80) || (await CaseRow.findByPk(caseId))?.part || ''
        return note.slice(0, 80) || `trial ${(await TrialRow.findByPk(trialId!))?.number ?? ''}`
      }
    }
  }

  /** Kept files that a thing and what hangs on it name. */
  private async filesOf(kind: Removable, row: Row): Promise<string[]> {
    const photos = (where: { caseId: string } | { trialId: string }) =>
      PhotoRow.findAll({ where, attributes: ['sha256', 'thumb'] })
    switch (kind) {
      case 'photo': {
        const { sha256, thumb } = row as unknown as PhotoRow
        return [sha256, thumb]
      }
      case 'case': {
        const files = await FileRow.findAll({ where: { caseId: row.id }, attributes: ['sha256'] })
        return [
          ...files.map((f) => f.sha256),
          ...(await photos({ caseId: row.id })).flatMap((p) => [p.sha256, p.thumb]),
        ]
      }
      case 'trial':
        return (await photos({ trialId: row.id })).flatMap((p) => [p.sha256, p.thumb])
      case 'part':
        return (row as unknown as PartRow).versions.map((v) => v.sha256)
      default:
        return []
    }
  }

  /** Whether something else tells of it: cases teach, and a recipe has its machine and its roll. */
  private async isNeeded(kind: Removable, id: string): Promise<boolean> {
    if (kind !== 'machine' && kind !== 'filament') return false
    const where = kind === 'machine' ? { machineId: id } : { filamentId: id }
    // nobody writes a version, or begins anything, on its pairs until this is decided
    const pairs = (
      await PairRow.findAll({ where, attributes: ['id'], ...(inTransaction() && { lock: true }) })
    ).map((p) => p.id)
    if (kind === 'machine' && (await MeasurementRow.count({ where: { machineId: id } }))) return true
    for (const model of [CaseRow, TrialRow, MeasurementRow, PrintRow] as unknown as ModelStatic<Row>[])
      if (await model.count({ where: { pairId: pairs } as never })) return true
    return false
  }

  async restore(kind: Removable, id: string): Promise<void> {
    await this.database.transaction(async () => {
      const row = await this.get(kind, id, true)
      await row.update({ removedAt: null, ...(row.rev !== undefined && { rev: row.rev + 1 }) })
    })
  }

  /** Deletes something that was put away, with all that hangs on it, for good. */
  async purge(kind: Removable, id: string): Promise<Freed> {
    const files = await this.database.transaction(async () => {
      const row = await this.get(kind, id, true)
      if (await this.isNeeded(kind, id))
        throw conflict('Cases, trials or measurements still tell of it. It goes once they are gone.', null)
      const named = await this.filesOf(kind, row)
      await this.deleteRows(kind, id)
      return named
    })
    return { bytes: await this.sweeper.release(files) }
  }

  private async deleteRows(kind: Removable, id: string): Promise<void> {
    const none = { where: { caseId: id } }
    switch (kind) {
      case 'case':
        for (const model of [MeasurementRow, TrialRow, PrintRow, VersionRow] as unknown as ModelStatic<Row>[])
          await model.update({ caseId: null } as never, none as never)
        for (const model of [AttemptRow, FileRow, PhotoRow] as unknown as ModelStatic<Row>[])
          await model.destroy(none as never)
        break
      case 'trial':
        await PrintRow.update({ trialId: null }, { where: { trialId: id } })
        await PhotoRow.destroy({ where: { trialId: id } })
        break
      case 'part':
        await CaseRow.update({ partId: null }, { where: { partId: id } })
        break
      case 'machine':
      case 'filament': {
        const where = kind === 'machine' ? { machineId: id } : { filamentId: id }
        const pairs = (await PairRow.findAll({ where, attributes: ['id'] })).map((p) => p.id)
        await VersionRow.destroy({ where: { pairId: pairs } })
        await PairRow.destroy({ where: { id: pairs } })
        if (kind === 'machine') await LinkRow.destroy({ where: { machineId: id } })
        break
      }
    }
    await MODELS[kind].destroy({ where: { id } })
  }

  /**
   * Deletes what is due by a time that is only so far after that of the last look: a clock that leaps ahead takes nothing away
   * before somebody can have set it right.
   */
  async tidy(clock = Date.now()): Promise<number> {
    const last = Date.parse((await MarkRow.findByPk(LAST_LOOK))?.value ?? '')
    const leap = this.looked ? LEAP_DAYS.later : LEAP_DAYS.first
    this.looked = true
    const now = Math.min(clock, (Number.isNaN(last) ? clock : last) + leap * DAY_MS)
    await MarkRow.upsert({ name: LAST_LOOK, value: new Date(now).toISOString() })
    return this.purgeOld(now)
  }

  /** Deletes what was put away more than thirty days ago, then files that nothing names. @returns how many things went */
  async purgeOld(now: number): Promise<number> {
    const before = new Date(now - REMOVED_DAYS * DAY_MS)
    let gone = 0
    for (const kind of KINDS)
      for (const row of await MODELS[kind].findAll({
        where: { removedAt: { [Op.lt]: before } },
        attributes: ['id'],
        limit: MOST,
      })) {
        // brought back, or needed, meanwhile: it stays
        const done = await this.purge(kind, row.id).catch(() => null)
        if (done) gone++
      }
    const { bytes } = await this.sweeper.sweep()
    if (gone || bytes) this.log.log(`${gone} things went for good; ${bytes} bytes of files were freed`)
    return gone
  }
}
