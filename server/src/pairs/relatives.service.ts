import { Injectable } from '@nestjs/common'
import { rankRelatives, type Inherited, type RankedRelative } from '@verimend/core/recipe'
import { FilamentsService } from '../filaments/filaments.service'
import { MachinesService } from '../machines/machines.service'
import { refused } from '../problem/problem'
import { PairsRepository } from './pairs.repository'
import { VersionsRepository } from './versions.repository'

/** Tested recipes that another pair could start from. */
@Injectable()
export class RelativesService {
  constructor(
    private readonly machines: MachinesService,
    private readonly filaments: FilamentsService,
    private readonly pairs: PairsRepository,
    private readonly versions: VersionsRepository,
  ) {}

  /** Tested recipes, nearest first: of the family, and of others on the same machine. */
  async rank(machineId: string, filamentId: string): Promise<RankedRelative[]> {
    const machine = await this.machines.body(machineId)
    const filament = await this.filaments.body(filamentId)
    const others = await this.pairs.wholes(await this.pairs.ofOtherRolls(filamentId))
    const near = others.filter((p) => p.filament.family === filament.family || p.row.machineId === machineId)
    const versions = await this.versions.currentOf(near)
    return rankRelatives(
      { machine, filament },
      near.flatMap((p) => {
        const version = versions.get(p.row.id)
        return version
          ? [
              {
                pairId: p.row.id,
                machine: p.machine,
                sameMachine:
                  p.row.machineId === machineId && Number(p.row.nozzle) === machine.nozzle.diameter,
                filament: p.filament,
                values: version.recipe.values,
              },
            ]
          : []
      }),
    )
  }

  /**
   * What a relative brings.
   * @param relative its pair; null for none, undefined for the nearest
   */
  async brought(
    machineId: string,
    filamentId: string,
    relative: string | null | undefined,
  ): Promise<Inherited> {
    if (relative === null) return {}
    const ranked = await this.rank(machineId, filamentId)
    if (relative === undefined) {
      const { family } = await this.filaments.body(filamentId)
      return ranked.find((r) => r.family === family)?.brings ?? {}
    }
    const found = ranked.find((r) => r.pairId === relative)
    if (!found)
      throw refused('no-such-relative', 'That recipe holds nothing tested for this pair.', [
        { path: 'relative', message: 'Choose another one.' },
      ])
    return found.brings
  }
}
