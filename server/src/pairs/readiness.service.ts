import { Injectable } from '@nestjs/common'
import { overallOutcome } from '@verimend/core/casework'
import type { SettingKey } from '@verimend/core/recipe'
import { AttemptRow, CaseRow } from '../database/models'
import { Compute } from '../compute/compute.service'
import { today } from '../http/day'
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

  /** How ready each pair is and what is most worth its time. */
  async all(signal?: AbortSignal) {
    const pairs = await this.pairs.onShelf()
    const versions = await this.versions.currentOf(pairs)
    const verified = await this.verified()
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
  private async verified(): Promise<Map<string, Verified>> {
    const cases = await CaseRow.findAll({
      where: { status: 'closed', removedAt: null },
      attributes: ['id', 'pairId', 'updatedAt'],
    })
    const attempts = await AttemptRow.findAll({
      where: { caseId: cases.map((c) => c.id) },
      attributes: ['caseId', 'mends', 'results'],
    })
    const caseOf = new Map(cases.map((c) => [c.id, c]))
    const out = new Map<string, Verified>()
    for (const a of attempts) {
      if (overallOutcome({ mends: a.mends, results: a.results }) !== 'gone') continue
      const { pairId, updatedAt } = caseOf.get(a.caseId)!
      const own = out.get(pairId) ?? out.set(pairId, {}).get(pairId)!
      for (const m of a.mends) if (m.kind === 'setting') own[m.key] = updatedAt.toISOString().slice(0, 10)
    }
    return out
  }
}
