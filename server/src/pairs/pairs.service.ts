import { Injectable } from '@nestjs/common'
import { caseReason } from '@verimend/core/casework'
import type { Reason } from '@verimend/core/quantity'
import { deriveGraded, type GradedRecipe } from '@verimend/core/recipe'
import { literal, Op } from 'sequelize'
import { Database } from '../database/database.module'
import { CaseRow, FileRow, type PairRow } from '../database/models'
import { once } from '../database/once'
import { FilamentsService } from '../filaments/filaments.service'
import { MachinesService } from '../machines/machines.service'
import { notFound } from '../problem/problem'
import { PairsRepository, type KeptPair } from './pairs.repository'
import { RelativesService } from './relatives.service'
import { VersionsRepository } from './versions.repository'
import { VersionsService } from './versions.service'

/** Most acknowledged warnings that are kept for a pair. */
const MOST_ACKNOWLEDGED = 200

/** Pairs of a machine and a roll. */
@Injectable()
export class PairsService {
  constructor(
    private readonly database: Database,
    private readonly machines: MachinesService,
    private readonly filaments: FilamentsService,
    private readonly pairs: PairsRepository,
    private readonly versions: VersionsRepository,
    private readonly versionsService: VersionsService,
    private readonly relatives: RelativesService,
  ) {}

  private summary(row: PairRow) {
    return {
      id: row.id,
      machineId: row.machineId,
      filamentId: row.filamentId,
      nozzle: Number(row.nozzle),
      current: row.current,
      createdAt: row.createdAt.toISOString(),
      updatedAt: row.updatedAt.toISOString(),
    }
  }

  /** Pairs whose machine and roll are both on the shelf, the one changed last first. */
  async onShelf(): Promise<KeptPair[]> {
    const pairs = await this.pairs.wholes(await this.pairs.newestFirst())
    return pairs.filter((p) => !p.machineRow.removedAt && !p.filamentRow.removedAt)
  }

  async list() {
    return (await this.onShelf()).map((p) => this.summary(p.row))
  }

  async detail(id: string) {
    const pair = await this.pairs.load(id)
    return {
      ...this.summary(pair.row),
      machine: this.machines.view(pair.machineRow),
      filament: this.filaments.view(pair.filamentRow),
      version: this.versionsService.view(await this.versions.current(pair)),
      acknowledged: pair.row.acknowledged ?? [],
      lastPart: await this.lastPart(id),
    }
  }

  /** Grams and time of the part whose path file was read last in a case of the pair. */
  private async lastPart(pairId: string) {
    const file = await FileRow.findOne({
      where: {
        caseId: { [Op.in]: literal('(SELECT id FROM cases WHERE pairId = :pairId AND removedAt IS NULL)') },
      },
      replacements: { pairId },
      order: [['createdAt', 'DESC']],
      attributes: ['caseId', 'grams', 'seconds'],
    })
    const kase = file && (await CaseRow.findByPk(file.caseId, { attributes: ['part'] }))
    return kase && { name: kase.part, grams: file.grams, seconds: file.seconds }
  }

  /** Acknowledges a warning, or takes that back. */
  async acknowledge(id: string, fingerprint: string, acknowledged: boolean) {
    await this.database.transaction(async () => {
      const row = await this.pairs.row(id, true)
      const others = (row.acknowledged ?? []).filter((f) => f !== fingerprint)
      row.acknowledged = acknowledged ? [...others, fingerprint].slice(-MOST_ACKNOWLEDGED) : others
      await row.save()
    })
    return this.detail(id)
  }

  /** The pair of a machine and a roll; makes it, with its first recipe, where it does not exist. */
  async open(machineId: string, filamentId: string, relative?: string | null) {
    const machineRow = await this.machines.repository.get(machineId)
    const filamentRow = await this.filaments.repository.get(filamentId)
    if (machineRow.removedAt) throw notFound('machine')
    if (filamentRow.removedAt) throw notFound('filament')
    const machine = this.machines.repository.bodyOf(machineRow)
    const filament = this.filaments.repository.bodyOf(filamentRow)
    const id = await once(
      async () => (await this.pairs.find(machineId, filamentId, machine.nozzle.diameter))?.id ?? null,
      async () => {
        const brings = await this.relatives.brought(machineId, filamentId, relative)
        const recipe = deriveGraded({ machine, filament, relative: brings })
        const reason = caseReason(Object.keys(brings).length ? 'derived-from-relative' : 'derived-first')
        return this.database.transaction(() =>
          this.begin(machineId, filamentId, machine.nozzle.diameter, recipe, reason),
        )
      },
    )
    return this.detail(id)
  }

  /** Makes a pair with its first version; inside a running transaction. */
  async begin(
    machineId: string,
    filamentId: string,
    nozzle: number,
    recipe: GradedRecipe,
    reason: Reason,
  ): Promise<string> {
    const row = await this.pairs.create(machineId, filamentId, nozzle)
    await this.versions.create(await this.pairs.whole(row), {
      number: 1,
      parent: null,
      recipe,
      changes: [],
      reason,
      caseId: null,
    })
    return row.id
  }
}
