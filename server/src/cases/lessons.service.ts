import { Injectable } from '@nestjs/common'
import type { CaseLesson } from '@verimend/contract'
import { PairsRepository } from '../pairs/pairs.repository'
import { CasesRepository } from './cases.repository'

/** What closed cases teach. */
@Injectable()
export class LessonsService {
  constructor(
    private readonly cases: CasesRepository,
    private readonly pairs: PairsRepository,
  ) {}

  /** Closed cases that teach about a pair: its own, its machine's, its filament family's. */
  async about(pairId: string): Promise<CaseLesson[]> {
    const pair = await this.pairs.load(pairId)
    const closed = await this.cases.closed()
    const pairs = await this.pairs.some([...new Set(closed.map((c) => c.pairId))])
    const pairOf = new Map(pairs.map((p) => [p.row.id, p]))
    return closed.flatMap((c) => {
      const other = pairOf.get(c.pairId)
      const causes = c.sums?.causes ?? []
      const samePair = c.pairId === pairId
      const sameMachine = other?.row.machineId === pair.row.machineId
      const sameFamily = other?.filament.family === pair.filament.family
      return causes.length && (samePair || sameMachine || sameFamily)
        ? [{ caseId: c.id, part: c.part, causes, samePair, sameMachine, sameFamily, learns: !!c.learns }]
        : []
    })
  }
}
