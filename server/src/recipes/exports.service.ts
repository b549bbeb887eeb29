import { Injectable } from '@nestjs/common'
import type { Exported } from '@verimend/core/recipe'
import { PairsRepository } from '../pairs/pairs.repository'
import { VersionsRepository } from '../pairs/versions.repository'

/** Recipes on their way out. */
@Injectable()
export class ExportsService {
  constructor(
    private readonly pairs: PairsRepository,
    private readonly versions: VersionsRepository,
  ) {}

  async exported(pairId: string, number: number): Promise<Exported> {
    const pair = await this.pairs.load(pairId)
    const { recipe, reason, createdAt } = await this.versions.get(pair, number)
    return {
      machine: pair.machine,
      filament: pair.filament,
      recipe,
      number,
      reason,
      written: createdAt,
    }
  }
}
