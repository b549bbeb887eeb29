import { Injectable } from '@nestjs/common'
import { asItTurnedOut, causesOf, faultFamilies, overallOutcome, signsThat } from '@verimend/core/casework'
import type { SettingKey } from '@verimend/core/recipe'
import { Op } from 'sequelize'
import { CaseRow, type CaseSums } from '../database/models'
import { CasesRepository, type AttemptHead, type FileHead } from './cases.repository'

/** Raised whenever what is summed, or what it is summed by, changes: older sums are made anew at the next start. */
export const SUMS_SCHEMA = 2
/** Cases whose sums are made in one go. */
const AT_ONCE = 200

/** Grams printed over the attempts of a case, as far as its files tell. */
function printed(attempts: number, files: readonly FileHead[]): number {
  if (!files.length) return 0
  let sum = 0
  for (let n = 0; n <= attempts; n++)
    sum += (files.filter((f) => f.afterAttempt <= n).at(-1) ?? files[0]).grams
  return Number(sum.toFixed(1))
}

/** What lists show of a case, of what hangs on it. */
export function sumsOf(
  signs: CaseRow['signs'],
  attempts: readonly AttemptHead[],
  files: readonly FileHead[],
): CaseSums {
  const seen = signsThat('present', signs)
  const heads = attempts.map(({ number, mends, signsBefore, results, newSigns }) => ({
    number,
    mends,
    signsBefore,
    results,
    newSigns,
  }))
  const turnedOut = asItTurnedOut(heads, signs)
  const causes = causesOf(turnedOut)
  const cured = turnedOut
    .filter((a) => overallOutcome(a) === 'gone')
    .flatMap((a) => a.mends.flatMap((m): SettingKey[] => (m.kind === 'setting' ? [m.key] : [])))
  return {
    seen,
    causes,
    attempts: attempts.length,
    unrecorded: attempts.some((a) => a.recordedAt === null),
    grams: printed(attempts.length, files),
    cured: [...new Set(cured)],
  }
}

/** Keeps with each case what lists need of it, so that a list reads nothing else. */
@Injectable()
export class SumsService {
  constructor(private readonly cases: CasesRepository) {}

  /** Puts the sums of what hangs on a case now into its row; inside the transaction that changed it. */
  async put(row: CaseRow): Promise<void> {
    const attempts = (await this.cases.attemptsOf([row])).get(row.id) ?? []
    const files = (await this.cases.fileHeadsOf([row])).get(row.id) ?? []
    this.lay(row, attempts, files)
  }

  private lay(row: CaseRow, attempts: readonly AttemptHead[], files: readonly FileHead[]): void {
    row.sums = sumsOf(row.signs, attempts, files)
    row.families = faultFamilies(row.sums.seen, row.sums.causes)
      .map((f) => `,${f},`)
      .join('')
    row.sumsSchema = SUMS_SCHEMA
  }

  /** Makes sums that are missing or of an older shape. @returns of how many cases */
  async fill(): Promise<number> {
    for (let made = 0; ;) {
      const rows = await CaseRow.findAll({
        where: { sumsSchema: { [Op.ne]: SUMS_SCHEMA } },
        attributes: ['id', 'signs', 'sumsSchema'],
        limit: AT_ONCE,
      })
      if (!rows.length) return made
      const attempts = await this.cases.attemptsOf(rows)
      const files = await this.cases.fileHeadsOf(rows)
      for (const row of rows) {
        this.lay(row, attempts.get(row.id) ?? [], files.get(row.id) ?? [])
        // nobody has changed it: it keeps its place in the list
        await row.save({ silent: true, fields: ['sums', 'families', 'sumsSchema'] })
      }
      made += rows.length
    }
  }
}
