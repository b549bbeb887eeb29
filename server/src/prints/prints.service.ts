import { randomUUID } from 'node:crypto'
import { readFile, stat } from 'node:fs/promises'
import { Injectable, Logger, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common'
import { printEnded, type CreatePrint, type ListPrints, type Print, type PrintPage } from '@verimend/contract'
import type { PathReading } from '@verimend/core/toolpath'
import { Subject } from 'rxjs'
import { BlobsService } from '../blobs/blobs.service'
import { CasesRepository } from '../cases/cases.repository'
import { CasesService } from '../cases/cases.service'
import { FilesService } from '../cases/files.service'
import { PiecesService } from '../compute/pieces.service'
import { Database } from '../database/database.module'
import type { PrintRow } from '../database/models'
import { once } from '../database/once'
import { NOT_BEGUN, toldOf, type DeviceStatus } from '../links/device'
import { LinksService, rollOf } from '../links/links.service'
import { PairsRepository, type KeptPair } from '../pairs/pairs.repository'
import { VersionsRepository } from '../pairs/versions.repository'
import { ProblemException, refused } from '../problem/problem'
import { TrialsService } from '../trials/trials.service'
import { TrialsRepository } from '../trials/trials.repository'
import { PrintsRepository, printView } from './prints.repository'

/** A file that is ready to be sent. */
interface Prepared {
  name: string
  sha256: string
  trialId: string | null
  version: number
  grams: number
  /** Of a file that the application has written for the case. */
  reading?: PathReading
}

/** ms between looks at what has not ended, and after which the last word of a machine is asked for again. */
const BEAT = 2000
/** ms that a reader waits for a machine's word. */
const READER_WAITS = 1000

/**
 * What is sent to machines, and how far it is. A print is written down before it is sent: whatever is killed in between, it
 * is sent again under the same id, or told to have failed. What is written follows what the machine says, on a beat and
 * whenever it is read: a word that was missed, or could not be written, is asked for again.
 */
@Injectable()
export class PrintsService implements OnApplicationBootstrap, OnApplicationShutdown {
  /** Every change of a print. */
  readonly changes = new Subject<Print>()
  private readonly log = new Logger(PrintsService.name)
  /** The newest word of what runs, between two writes. */
  private readonly newest = new Map<string, DeviceStatus>()
  /** When the newest word of each was heard, by a clock that nobody sets. */
  private readonly heard = new Map<string, number>()
  /** What is being sent or asked after, each once at a time. */
  private readonly underWay = new Map<string, Promise<PrintRow>>()
  private unwatch: () => void = () => undefined
  private beat: NodeJS.Timeout | undefined
  private beating: Promise<void> | null = null
  private open: Promise<PrintRow[]> | null = null

  constructor(
    private readonly database: Database,
    private readonly prints: PrintsRepository,
    private readonly links: LinksService,
    private readonly pairs: PairsRepository,
    private readonly versions: VersionsRepository,
    private readonly files: FilesService,
    private readonly trials: TrialsService,
    private readonly trialsKept: TrialsRepository,
    private readonly cases: CasesService,
    private readonly casesKept: CasesRepository,
    private readonly pieces: PiecesService,
    private readonly blobs: BlobsService,
  ) {}

  onApplicationBootstrap(): void {
    this.unwatch = this.links.standin.watch(
      (status) => void this.told(status).catch((e: unknown) => this.log.error(e)),
      (up) => {
        this.links.reachable = up
        if (up) void this.look()
      },
    )
    this.beat = setInterval(() => void this.look(), BEAT).unref()
  }
  async onApplicationShutdown(): Promise<void> {
    this.unwatch()
    clearInterval(this.beat)
    this.changes.complete()
    await this.beating
  }

  /** What a machine told: written where its state changed, else only passed on. */
  private async told(status: DeviceStatus): Promise<void> {
    const before = this.newest.get(status.id)
    this.hear(status)
    const row = await this.prints.find(status.id)
    if (!row || printEnded(row.state)) return this.forget(status.id)
    if (row.state === status.state && before) {
      this.changes.next({ ...printView(row), ...toldOf(status) })
      return
    }
    await this.write(status.id, status)
  }
  private hear(status: DeviceStatus): void {
    this.newest.set(status.id, status)
    this.heard.set(status.id, performance.now())
  }
  private forget(id: string): void {
    this.newest.delete(id)
    this.heard.delete(id)
  }

  private async write(id: string, status: DeviceStatus): Promise<PrintRow> {
    this.hear(status)
    const row = await this.database.transaction(async () => {
      const kept = await this.prints.get(id, true)
      // what has ended stays as it ended
      if (printEnded(kept.state)) return kept
      kept.state = status.state
      kept.reason = status.reason
      kept.told = toldOf(status)
      if (printEnded(status.state)) kept.endedAt = new Date()
      await kept.save()
      return kept
    })
    if (printEnded(row.state)) this.forget(id)
    this.changes.next(printView(row))
    return row
  }

  /** Asks after all that has not ended; one look at a time, and one that fails is made up for by the next. */
  private look(): Promise<void> {
    this.beating ??= this.lookAtAll()
      .catch((e: unknown) => this.log.warn(`what is printing could not be looked at: ${String(e)}`))
      .finally(() => (this.beating = null))
    return this.beating
  }
  private async lookAtAll(): Promise<void> {
    for (const row of await this.prints.open()) {
      // one that cannot be written now keeps none of the others waiting
      await this.settle(row).catch((e: unknown) => this.log.warn(`print ${row.id}: ${String(e)}`))
    }
  }

  /** Whether what is written of a print may be older than what its machine would say. */
  private mayBeOld(row: PrintRow): boolean {
    if (printEnded(row.state) || row.state === 'handed-over') return false
    return performance.now() - (this.heard.get(row.id) ?? -Infinity) > BEAT || this.differs(row)
  }
  private differs(row: PrintRow): boolean {
    const now = this.newest.get(row.id)
    return !!now && now.state !== row.state
  }

  /** One thing at a time with each print: who comes meanwhile gets what comes of it. */
  private alone(id: string, work: () => Promise<PrintRow>): Promise<PrintRow> {
    const running = this.underWay.get(id)
    if (running) return running
    const own = work().finally(() => this.underWay.delete(id))
    this.underWay.set(id, own)
    return own
  }

  /** Brings what is written of a print to what its machine says of it; what never arrived there is sent again. */
  private async settle(row: PrintRow): Promise<PrintRow> {
    if (!this.mayBeOld(row)) return row
    if (row.link === 'standin' && !this.links.reachable) return row
    try {
      return await this.alone(row.id, () => this.settleAlone(row))
    } catch (error) {
      if (!(error instanceof ProblemException)) throw error
      if (error.problem.code === 'machine-away') return row
      return this.write(row.id, failed(row, error.problem.detail ?? error.message))
    }
  }
  private async settleAlone(row: PrintRow): Promise<PrintRow> {
    const status = await this.links.device(row.link).status(row.id)
    if (!status && row.state !== 'sending')
      return this.write(row.id, failed(row, 'The machine no longer knows this print.'))
    if (!status || (row.state === 'sending' && status.state === 'waiting')) return this.dispatch(row)
    if (row.state !== status.state || !this.newest.has(row.id)) return this.write(row.id, status)
    this.hear(status)
    return row
  }

  /** Rows as their machines would tell them now; one that does not answer at once keeps nobody waiting. */
  private async fresh(rows: PrintRow[]): Promise<PrintRow[]> {
    if (!rows.some((row) => this.mayBeOld(row))) return rows
    const patience = new Promise<null>((r) => setTimeout(r, READER_WAITS, null).unref())
    return Promise.all(
      rows.map(async (row) => {
        const settled = this.settle(row).catch(() => row)
        return (await Promise.race([settled, patience])) ?? row
      }),
    )
  }

  /** As it stands now: what was told last, even where it is not written yet. */
  view(row: PrintRow): Print {
    const now = this.newest.get(row.id)
    if (!now || printEnded(row.state)) return printView(row)
    const view = { ...printView(row), ...toldOf(now), state: now.state }
    return printEnded(now.state) ? { ...view, left: null } : view
  }
  async list({ skip, limit, ...where }: ListPrints): Promise<PrintPage> {
    const { rows, count } = await this.prints.page(where, skip, limit)
    return { prints: (await this.fresh(rows)).map((row) => this.view(row)), total: count }
  }
  /** A print as its machine would tell it now. */
  async current(id: string): Promise<PrintRow> {
    return (await this.fresh([await this.prints.get(id)]))[0]
  }
  async one(id: string): Promise<Print> {
    return this.view(await this.current(id))
  }
  /** What has not ended; asked for by many at once it is read once. */
  async running(): Promise<Print[]> {
    this.open ??= this.prints.open().finally(() => (this.open = null))
    return (await this.open).map((row) => this.view(row))
  }

  /** Writes a print down, sends it, and begins as soon as its machine is free. */
  async create({ id = randomUUID(), pairId, caseId, what }: CreatePrint): Promise<Print> {
    const row = await once(
      () => this.prints.find(id),
      async () => {
        const pair = await this.pairs.forNew(pairId)
        if (caseId) await this.casesKept.present(caseId)
        const link = (await this.links.find(pair.machineRow.id)) ? 'standin' : 'download'
        const prepared = await this.prepare(pair, what)
        const attempts = caseId ? await this.casesKept.countAttempts(caseId) : null
        if (caseId && link === 'standin' && !(await this.prints.ofCase(caseId)))
          await this.cases.setLearns(caseId, false)
        // what its paths show is known to the case, as if it had been dropped in
        if (caseId && prepared.reading) {
          const { name, sha256, reading } = prepared
          const { size } = await stat(this.blobs.path(sha256))
          await this.files.add(caseId, { name, sha256, bytes: size, reading })
        }
        return this.prints.create({
          id,
          machineId: pair.machineRow.id,
          pairId,
          kind: what.kind,
          name: prepared.name,
          trialId: prepared.trialId,
          caseId,
          afterAttempt: attempts,
          version: prepared.version,
          link,
          sha256: prepared.sha256,
          state: 'sending',
          reason: null,
          told: NOT_BEGUN,
          grams: prepared.grams,
          enteredAt: null,
          endedAt: null,
        })
      },
    )
    if (row.state !== 'sending') return this.view(row)
    try {
      return this.view(await this.alone(row.id, () => this.dispatch(row)))
    } catch (error) {
      if (!(error instanceof ProblemException)) throw error
      // a machine that is away gets it as soon as it is back; what it refuses is over
      if (error.problem.code === 'machine-away') return this.view(row)
      const reason = error.problem.detail ?? error.message
      await this.write(row.id, failed(row, reason))
      throw refused('print-refused', `The machine does not take this file: ${reason}`)
    }
  }

  private async prepare(pair: KeptPair, what: CreatePrint['what']): Promise<Prepared> {
    const { number: version, recipe } = await this.versions.current(pair)
    if (what.kind === 'trial') {
      const trial = await this.trialsKept.get(what.trialId)
      const { name, text } = await this.trials.gcode(what.trialId)
      return {
        name,
        sha256: await this.blobs.keep(Buffer.from(text)),
        trialId: what.trialId,
        version: trial.row.version,
        grams: trial.row.grams,
      }
    }
    if (what.kind === 'practice') {
      const { gcode, reading } = await this.pieces.practice({
        machine: pair.machine,
        filament: pair.filament,
        recipe: recipe.values,
      })
      return {
        name: `practice-piece-${version}.gcode`,
        sha256: await this.blobs.keep(Buffer.from(gcode)),
        trialId: null,
        version,
        grams: reading.filament.mass,
        reading,
      }
    }
    if (!this.blobs.claim(what.sha256))
      throw refused('file-not-there', 'The file itself has not arrived. Please put it in again.', [
        { path: 'what.sha256', message: 'That file is not kept here.' },
      ])
    return { name: what.name, sha256: what.sha256, trialId: null, version, grams: 0 }
  }

  private async dispatch(row: PrintRow): Promise<PrintRow> {
    const pair = await this.pairs.load(row.pairId)
    if (row.link === 'standin') await this.links.refresh(row.machineId, pair.machine)
    const status = await this.links.device(row.link).send({
      id: row.id,
      machineId: row.machineId,
      name: row.name,
      path: this.blobs.path(row.sha256),
      roll: rollOf(pair),
    })
    return this.write(row.id, status)
  }

  async steer(id: string, what: 'pause' | 'resume' | 'stop'): Promise<Print> {
    const row = await this.current(id)
    if (printEnded(row.state)) return this.view(row)
    if (row.state === 'sending' && what === 'stop') {
      const known = await this.links
        .device(row.link)
        .status(id)
        .catch(() => null)
      if (!known)
        return this.view(await this.write(id, { ...failed(row, ''), state: 'cancelled', reason: null }))
    }
    return this.view(await this.write(id, await this.links.device(row.link)[what](id)))
  }

  async file(id: string): Promise<{ name: string; bytes: Buffer }> {
    const row = await this.prints.get(id)
    return { name: row.name, bytes: await readFile(this.blobs.path(row.sha256)) }
  }

  async still(id: string): Promise<Buffer | null> {
    const row = await this.prints.get(id)
    return this.links.device(row.link).still(id)
  }

  /** Remembers that readings were taken over. */
  async entered(id: string): Promise<Print> {
    const row = await this.prints.get(id)
    row.enteredAt ??= new Date()
    await row.save()
    const view = this.view(row)
    this.changes.next(view)
    return view
  }
}

const failed = (row: PrintRow, reason: string): DeviceStatus => ({
  id: row.id,
  state: 'failed',
  reason,
  ...row.told,
})
