import { Injectable } from '@nestjs/common'
import type { ChosenMend } from '@verimend/contract'
import {
  faultOf,
  isSettingKey,
  mendOf,
  mendText,
  signsAfter,
  type ProcedureId,
  type SettingKey,
  type SettingValue,
  type SignId,
  type SignResults,
} from '@verimend/core'
import { AttemptRow } from '../database/models'
import { Pairs } from '../pairs/pairs.service'
import { conflict, notFound, refused } from '../problem/problem'
import { Cases } from './cases.service'

export interface MendChoice {
  proposal: string
  to?: SettingValue
  asHandling?: ProcedureId
}

/** The changes tried in a case, and what came of them. */
@Injectable()
export class Attempts {
  constructor(
    private readonly cases: Cases,
    private readonly pairs: Pairs,
  ) {}

  /** Accepts one to three mends: a new recipe version when settings change, and an attempt to look at later. */
  begin(id: string, base: number, choices: MendChoice[]) {
    return this.cases.change(id, async (row, transaction) => {
      const open = await AttemptRow.findOne({ where: { caseId: id, recordedAt: null }, transaction })
      if (open) throw refused('attempt-open', `Record first what came of attempt ${open.number}.`)
      const number = (await AttemptRow.count({ where: { caseId: id }, transaction })) + 1
      const pair = await this.pairs.row(row.pairId, transaction)
      const current = await this.pairs.version(row.pairId, pair.current)
      const mends: ChosenMend[] = choices.map((choice, i) => this.chosen(choice, current.values, i))
      const set: Record<string, SettingValue> = {}
      for (const m of mends) {
        if (m.kind !== 'setting') continue
        if (m.key in set) throw refused('twice', `Two of these changes move the same setting.`)
        set[m.key] = m.to
      }
      let toVersion = pair.current
      if (Object.keys(set).length) {
        const words = mends
          .filter((m) => m.kind === 'setting')
          .map(mendText)
          .join('; ')
        const version = await this.pairs.write(transaction, row.pairId, base, {
          set,
          source: 'mend',
          words: `Attempt ${number} on “${row.part}”: ${mends[0].why}`,
          reason: `“${row.part}”, attempt ${number}: ${words}`.slice(0, 480),
          caseId: id,
        })
        toVersion = version.number
      } else if (pair.current !== base) {
        throw conflict(
          `This recipe has moved on to version ${pair.current}. Look at the new advice first.`,
          current,
        )
      }
      await AttemptRow.create(
        {
          caseId: id,
          number,
          mends,
          signsBefore: row.signs,
          fromVersion: pair.current === toVersion ? toVersion : base,
          toVersion,
          results: null,
          newSigns: [],
          note: '',
          recordedAt: null,
        },
        { transaction },
      )
    })
  }

  private chosen(choice: MendChoice, values: Record<string, { value: SettingValue }>, i: number): ChosenMend {
    const found = mendOf(choice.proposal)
    if (!found)
      throw refused('no-such-mend', 'There is no such mend.', [
        { path: `mends.${i}.proposal`, message: 'There is no such mend.' },
      ])
    const { suspect, mend } = found
    if (mend.kind === 'handling')
      return {
        kind: 'handling',
        proposal: choice.proposal,
        suspect,
        procedure: mend.procedure,
        why: mend.why,
      }
    if (choice.asHandling)
      return {
        kind: 'handling',
        proposal: choice.proposal,
        suspect,
        procedure: choice.asHandling,
        why: mend.why,
      }
    const fault =
      choice.to === undefined ? 'Say which value the setting should get.' : faultOf(mend.key, choice.to)
    if (fault || !isSettingKey(mend.key))
      throw refused('bad-value', fault ?? 'There is no such setting.', [
        { path: `mends.${i}.to`, message: fault ?? '' },
      ])
    const from = values[mend.key as SettingKey].value
    if (from === choice.to)
      throw refused('no-change', 'That is the value it has already: nothing would change.', [
        { path: `mends.${i}.to`, message: 'Nothing would change.' },
      ])
    return {
      kind: 'setting',
      proposal: choice.proposal,
      suspect,
      key: mend.key,
      from,
      to: choice.to!,
      why: mend.why,
    }
  }

  /** Takes back an attempt that was not printed yet; its recipe version stays and the one before it returns. */
  withdraw(id: string, number: number) {
    return this.cases.change(id, async (row, transaction) => {
      const attempt = await AttemptRow.findOne({ where: { caseId: id, number }, transaction })
      if (!attempt) throw notFound('attempt')
      if (attempt.recordedAt)
        throw refused('recorded', 'This attempt has been looked at; it stays in the notebook.')
      if (attempt.toVersion !== attempt.fromVersion) {
        const pair = await this.pairs.row(row.pairId, transaction)
        if (pair.current === attempt.toVersion)
          await this.pairs.goBack(
            transaction,
            row.pairId,
            attempt.fromVersion,
            `“${row.part}”: attempt ${number} taken back.`,
            id,
          )
      }
      await attempt.destroy({ transaction })
    })
  }

  record(
    id: string,
    number: number,
    outcome: { results: SignResults; newSigns: SignId[]; notThere: SignId[]; note: string },
  ) {
    return this.cases.change(id, async (row, transaction) => {
      const attempt = await AttemptRow.findOne({ where: { caseId: id, number }, transaction })
      if (!attempt) throw notFound('attempt')
      if (attempt.recordedAt) throw refused('recorded', `Attempt ${number} has been recorded already.`)
      const seen = (Object.keys(row.signs) as SignId[]).filter((s) => row.signs[s] === 'present')
      const missing = seen.filter((s) => !outcome.results[s])
      if (missing.length)
        throw refused(
          'incomplete',
          'Say for each sign whether it is gone, better, the same or worse.',
          missing.map((s) => ({ path: `results.${s}`, message: 'Not answered yet.' })),
        )
      this.cases.room(row, outcome.newSigns.filter((s) => !seen.includes(s)).length)
      const results = Object.fromEntries(seen.map((s) => [s, outcome.results[s]])) as SignResults
      attempt.results = results
      attempt.newSigns = outcome.newSigns
      attempt.note = outcome.note
      attempt.recordedAt = new Date()
      await attempt.save({ transaction })
      row.signs = signsAfter(row.signs, results, outcome.newSigns, outcome.notThere)
    })
  }
}
