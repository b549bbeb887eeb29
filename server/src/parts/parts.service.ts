import { randomUUID } from 'node:crypto'
import { Injectable } from '@nestjs/common'
import type { CreatePart, PartPlanRecord, PartRecord, PartSummary, PartVersion } from '@verimend/contract'
import { USUAL_LAYOUT, type Layout } from '@verimend/core/planner'
import type { Changes } from '@verimend/core/recipe'
import { BlobsService } from '../blobs/blobs.service'
import { Database } from '../database/database.module'
import type { PartRow } from '../database/models'
import { once } from '../database/once'
import { PairsRepository } from '../pairs/pairs.repository'
import { conflict, refused } from '../problem/problem'
import { PartsRepository } from './parts.repository'

/** Shape in which parts are kept now. */
const PART_SCHEMA = 1
/** Plans that are remembered, the newest. */
const MOST_PLANS = 200

interface PartEdit {
  rev: number
  name: string
  note: string
  layout: Layout
  own: Changes
}

/** Parts: their meshes by version, how they are put on the bed, and where they were used. */
@Injectable()
export class PartsService {
  constructor(
    private readonly database: Database,
    private readonly parts: PartsRepository,
    private readonly pairs: PairsRepository,
    private readonly blobs: BlobsService,
  ) {}

  async list(): Promise<PartSummary[]> {
    const counts = await this.parts.caseCounts()
    return (await this.parts.newestFirst()).map((p) => ({
      id: p.id,
      rev: p.rev,
      name: p.name,
      size: p.versions.at(-1)!.size,
      versions: p.versions.length,
      cases: counts.get(p.id) ?? 0,
      plans: p.plans.length,
      updatedAt: p.updatedAt.toISOString(),
    }))
  }

  private async view(p: PartRow): Promise<PartRecord> {
    return {
      id: p.id,
      rev: p.rev,
      name: p.name,
      note: p.note,
      versions: p.versions,
      // what came to layouts later has its usual value in older ones
      layout: { ...USUAL_LAYOUT, ...p.layout },
      own: p.own,
      plans: p.plans,
      cases: (await this.parts.casesOf(p.id)).map(({ id, pairId, part, status }) => ({
        id,
        pairId,
        part,
        status,
      })),
      createdAt: p.createdAt.toISOString(),
      updatedAt: p.updatedAt.toISOString(),
    }
  }

  async one(id: string) {
    return this.view(await this.parts.get(id))
  }

  private versionOf(mesh: CreatePart['mesh'], number: number): PartVersion {
    if (!this.blobs.claim(mesh.sha256))
      throw refused('file-not-there', 'The file itself has not arrived. Please put it in again.', [
        { path: 'mesh.sha256', message: 'That file is not kept here.' },
      ])
    return { ...mesh, number, createdAt: new Date().toISOString() }
  }

  async create({ id, name, mesh }: CreatePart) {
    const row = await once(
      async () => (id ? await this.parts.find(id) : null),
      () =>
        this.parts.create({
          id: id ?? randomUUID(),
          rev: 1,
          schemaVersion: PART_SCHEMA,
          name,
          note: '',
          versions: [this.versionOf(mesh, 1)],
          layout: USUAL_LAYOUT,
          own: {},
          plans: [],
          removedAt: null,
        }),
    )
    return this.view(row)
  }

  private change(id: string, work: (row: PartRow) => Promise<void> | void) {
    return this.database.transaction(async () => {
      const row = await this.parts.get(id, true)
      await work(row)
      return this.view(await this.parts.save(row))
    })
  }

  /** @throws 409 where another window was first */
  update(id: string, { rev, name, note, layout, own }: PartEdit) {
    return this.change(id, async (row) => {
      if (row.rev !== rev)
        throw conflict('This part was changed in another window. Yours is kept here.', await this.view(row))
      Object.assign(row, { name, note, layout, own, schemaVersion: PART_SCHEMA })
    })
  }

  /** Another mesh of the same part; the same file again is no new version. */
  addVersion(id: string, mesh: CreatePart['mesh']) {
    return this.change(id, (row) => {
      const last = row.versions.at(-1)!
      if (last.sha256 === mesh.sha256 && last.unit === mesh.unit) return
      row.versions = [...row.versions, this.versionOf(mesh, last.number + 1)]
      // places told from the old mesh mean nothing on the new one
      row.layout = { ...row.layout, placement: null, withoutTab: [], uncarried: [] }
    })
  }

  /** Remembers that a plan was taken away; sent again it is there once. */
  addPlan(id: string, plan: Omit<PartPlanRecord, 'id' | 'createdAt'> & { id?: string }) {
    return this.change(id, async (row) => {
      await this.pairs.row(plan.pairId)
      if (plan.id && row.plans.some((p) => p.id === plan.id)) return
      row.plans = [
        ...row.plans,
        { ...plan, id: plan.id ?? randomUUID(), createdAt: new Date().toISOString() },
      ].slice(-MOST_PLANS)
    })
  }

  softDelete(id: string) {
    return this.change(id, (row) => {
      row.removedAt = new Date()
    })
  }

  restore(id: string) {
    return this.change(id, (row) => {
      row.removedAt = null
    })
  }
}
