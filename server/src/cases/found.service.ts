import { Injectable } from '@nestjs/common'
import type { ChosenMend } from '@verimend/contract'
import { mendOfChange, type FoundAt, type Moved } from '@verimend/core/casework'
import { AttemptRow, type CaseRow } from '../database/models'
import { CasesRepository } from './cases.repository'
import { SumsService } from './sums.service'

/** What was found outside a case and is printed next in it. */
export interface FoundElsewhere {
  found: FoundAt
  moved: readonly Moved[]
  fromVersion: number
  toVersion: number
  /** Done by hand besides. */
  byHand?: readonly ChosenMend[]
}

/** Enters what a trial, a measurement or a part found for a case as the case's attempt. */
@Injectable()
export class FoundService {
  constructor(
    private readonly cases: CasesRepository,
    private readonly sums: SumsService,
  ) {}

  /**
   * Opens an attempt of a case with what was found, or adds it to the attempt that nobody has looked at yet; inside the
   * transaction that changed the recipe. A closed or removed case is left alone.
   * @returns the attempt's number; null where the case takes none
   */
  async enter(caseId: string, what: FoundElsewhere): Promise<number | null> {
    const row = await this.cases.find(caseId, true)
    if (!row || row.removedAt || row.status === 'closed') return null
    const number = await this.enterInto(row, what)
    if (number === null) return null
    await this.sums.put(row)
    row.rev += 1
    row.changed('updatedAt', true)
    await row.save()
    return number
  }

  /** The same for an open case whose row is held and saved by who asks. */
  async enterInto(
    row: CaseRow,
    { found, moved, fromVersion, toVersion, byHand = [] }: FoundElsewhere,
  ): Promise<number | null> {
    const caseId = row.id
    const settings = moved.flatMap((m): ChosenMend[] => {
      const mend = mendOfChange(m, row.signs, found)
      return mend ? [mend] : []
    })
    const mends = [...settings, ...byHand]
    if (!mends.length) return null
    const open = await this.cases.openAttempt(caseId)
    const moves = (m: ChosenMend) => (m.kind === 'setting' ? m.key : m.procedure)
    if (open) {
      const now = new Set(mends.map(moves))
      open.mends = [...open.mends.filter((m) => !now.has(moves(m))), ...mends]
      open.toVersion = toVersion
      await open.save()
    }
    const number = open?.number ?? (await this.cases.countAttempts(caseId)) + 1
    if (!open)
      await AttemptRow.create({
        caseId,
        number,
        mends,
        signsBefore: row.signs,
        fromVersion,
        toVersion,
        results: null,
        newSigns: [],
        note: '',
        recordedAt: null,
      })
    return number
  }
}
