import { Injectable } from '@nestjs/common'
import { rankRelatives, type Inherited, type RankedRelative } from '@verimend/core/recipe'
import { FilamentsService } from '../filaments/filaments.service'
import { MachinesService } from '../machines/machines.service'
import { refused } from '../problem/problem'
import { PairsRepository } from './pairs.repository'

/** Relatives that are shown to choose from. */
const MOST_SHOWN = 40

/** Tested recipes that another pair could start from. */
@Injectable()
export class RelativesService {
  constructor(
    private readonly machines: MachinesService,
    private readonly filaments: FilamentsService,
    private readonly pairs: PairsRepository,
  ) {}

  /** Tested recipes, nearest first: of the family, and of others on the same machine. */
  async rank(machineId: string, filamentId: string): Promise<RankedRelative[]> {
    const machine = await this.machines.body(machineId)
    const filament = await this.filaments.body(filamentId)
    const others = await this.pairs.wholes(await this.pairs.testedOfOtherRolls(filamentId))
    return rankRelatives(
      { machine, filament },
      others.flatMap((p) =>
        p.row.tested
          ? [
              {
                pairId: p.row.id,
                machine: p.machine,
                sameMachine:
                  p.row.machineId === machineId && Number(p.row.nozzle) === machine.nozzle.diameter,
                filament: p.filament,
                tested: p.row.tested,
              },
            ]
          : [],
      ),
    )
  }

  /** The nearest of them. */
  async nearest(machineId: string, filamentId: string): Promise<RankedRelative[]> {
    return (await this.rank(machineId, filamentId)).slice(0, MOST_SHOWN)
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
