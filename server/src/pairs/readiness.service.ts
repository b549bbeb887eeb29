import { Injectable } from '@nestjs/common'
import type { PairReadiness, ReadinessPage } from '@verimend/contract'
import type { SettingKey } from '@verimend/core/recipe'
import { CaseRow } from '../database/models'
import { Compute } from '../compute/compute.service'
import { today } from '../http/day'
import type { KeptPair } from './pairs.repository'
import { PairsService } from './pairs.service'
import { VersionsRepository } from './versions.repository'

/** The day each setting of a pair was verified by a closed case. */
type Verified = Partial<Record<SettingKey, string>>

/** How ready pairs are. */
@Injectable()
export class ReadinessService {
  constructor(
    private readonly pairs: PairsService,
    private readonly versions: VersionsRepository,
    private readonly compute: Compute,
  ) {}

  /** How ready pairs are, the ones changed last first, and what is most worth their time. */
  async page(
    { pairId, skip, limit }: { pairId?: string; skip: number; limit: number },
    signal?: AbortSignal,
  ): Promise<ReadinessPage> {
    const all = await this.pairs.onShelf()
    const asked = pairId ? all.filter((p) => p.row.id === pairId) : all
    return { pairs: await this.of(asked.slice(skip, skip + limit), signal), total: asked.length }
  }

  private async of(pairs: readonly KeptPair[], signal?: AbortSignal): Promise<PairReadiness[]> {
    const versions = await this.versions.currentOf(pairs)
    const verified = await this.verified(pairs.map((p) => p.row.id))
    const known = pairs.filter((p) => versions.has(p.row.id))
    const states = await this.compute.run(
      'readiness',
      known.map((p) => ({
        machine: p.machine,
        filament: p.filament,
        values: versions.get(p.row.id)!.recipe.values,
        today: today(),
        verified: verified.get(p.row.id) ?? {},
      })),
      signal,
    )
    return states.map((state, i) => ({ pairId: known[i].row.id, ...state }))
  }

  /** Settings closed cases changed so that their fault went away, by pair. */
  private async verified(pairIds: string[]): Promise<Map<string, Verified>> {
    const cases = await CaseRow.findAll({
      where: { status: 'closed', removedAt: null, pairId: pairIds },
      attributes: ['pairId', 'updatedAt', 'sums'],
      order: [['updatedAt', 'ASC']],
    })
    const out = new Map<string, Verified>()
    for (const { pairId, updatedAt, sums } of cases) {
      if (!sums?.cured.length) continue
      const own = out.get(pairId) ?? out.set(pairId, {}).get(pairId)!
      for (const key of sums.cured) own[key] = updatedAt.toISOString().slice(0, 10)
    }
    return out
  }
}
