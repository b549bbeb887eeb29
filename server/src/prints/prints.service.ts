import { randomUUID } from 'node:crypto'
import { readFile, stat } from 'node:fs/promises'
import { Injectable, Logger, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common'
import { printEnded, type CreatePrint, type Print } from '@verimend/contract'
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

/**
 * What is sent to machines, and how far it is. A print is written down before it is sent: whatever is killed in between, it
 * is sent again under the same id, or told to have failed.
 */
@Injectable()
export class PrintsService implements OnApplicationBootstrap, OnApplicationShutdown {
  /** Every change of a print. */
  readonly changes = new Subject<Print>()
  private readonly log = new Logger(PrintsService.name)
  /** The newest word of what runs, between two writes. */
  private readonly newest = new Map<string, DeviceStatus>()
  private unwatch: () => void = () => undefined

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
        if (up) void this.reconcile().catch((e: unknown) => this.log.error(e))
      },
    )
  }
  onApplicationShutdown(): void {
    this.unwatch()
    this.changes.complete()
  }

  /** What a machine told: written where its state changed, else only passed on. */
  private async told(status: DeviceStatus): Promise<void> {
    const before = this.newest.get(status.id)
    this.newest.set(status.id, status)
    const row = await this.prints.find(status.id)
    if (!row || printEnded(row.state)) return
    if (row.state === status.state && before) {
      this.changes.next({ ...printView(row), ...toldOf(status) })
      return
    }
    await this.write(status.id, status)
  }

  private async write(id: string, status: DeviceStatus): Promise<PrintRow> {
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
    if (printEnded(row.state)) this.newest.delete(id)
    this.changes.next(printView(row))
    return row
  }

  /** After either side was away: what was on its way is sent again, what ran meanwhile is asked after. */
  private async reconcile(): Promise<void> {
    for (const row of await this.prints.open()) {
      if (row.link !== 'standin') continue
      try {
        const status = await this.links.standin.status(row.id)
        if (status && !(row.state === 'sending' && status.state === 'waiting'))
          await this.write(row.id, status)
        else if (row.state === 'sending') await this.dispatch(row)
        else await this.write(row.id, failed(row, 'The machine no longer knows this print.'))
      } catch (error) {
        if (!(error instanceof ProblemException)) throw error
        if (error.problem.code === 'machine-away') return
        await this.write(row.id, failed(row, error.problem.detail ?? error.message))
      }
    }
  }

  /** As it stands now: what was told last, even where it is not written yet. */
  view(row: PrintRow): Print {
    const now = this.newest.get(row.id)
    if (!now || printEnded(row.state)) return printView(row)
    const view = { ...printView(row), ...toldOf(now), state: now.state }
    return printEnded(now.state) ? { ...view, left: null } : view
  }
  async list(where: { trialId?: string; caseId?: string; machineId?: string }): Promise<Print[]> {
    return (await this.prints.list(where)).map((row) => this.view(row))
  }
  async one(id: string): Promise<Print> {
    return this.view(await this.prints.get(id))
  }
  async running(): Promise<Print[]> {
    return (await this.prints.open()).map((row) => this.view(row))
  }

  /** Writes a print down, sends it, and begins as soon as its machine is free. */
  async create({ id = randomUUID(), pairId, caseId, what }: CreatePrint): Promise<Print> {
    const row = await once(
      () => this.prints.find(id),
      async () => {
        const pair = await this.pairs.load(pairId)
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
      return this.view(await this.dispatch(row))
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
    const row = await this.prints.get(id)
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
