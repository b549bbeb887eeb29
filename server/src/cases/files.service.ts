import { randomUUID } from 'node:crypto'
import { Injectable } from '@nestjs/common'
import { correlate, type PathReading } from '@verimend/core'
import { AttemptRow, FileRow } from '../database/models'
import { notFound, refused } from '../problem/problem'
import { Cases } from './cases.service'

/** The path files of a case, and the heights marked in them. */
@Injectable()
export class CaseFiles {
  constructor(private readonly cases: Cases) {}

  add(id: string, file: { name: string; bytes: number; sha256: string; reading: PathReading }) {
    return this.cases.change(id, async (row, transaction) => {
      const afterAttempt = await AttemptRow.count({ where: { caseId: id }, transaction })
      const same = await FileRow.findOne({
        where: { caseId: id, sha256: file.sha256, afterAttempt },
        transaction,
      })
      if (same) return
      await FileRow.create({ id: randomUUID(), caseId: row.id, afterAttempt, ...file }, { transaction })
    })
  }

  remove(id: string, fileId: string) {
    return this.cases.change(id, async (row, transaction) => {
      await FileRow.destroy({ where: { id: fileId, caseId: id }, transaction })
      row.marks = (row.marks ?? []).filter((m) => m.fileId !== fileId)
    })
  }

  /** Makes the match between marked heights and a quantity of a path file evidence in the case. */
  addMark(id: string, fileId: string, marks: { from: number; to: number }[], quantity: string) {
    return this.cases.change(id, async (row, transaction) => {
      const file = await FileRow.findOne({ where: { id: fileId, caseId: id }, transaction })
      if (!file) throw notFound('path file')
      const match = correlate(file.reading.layers, marks).find((c) => c.id === quantity)
      if (!match)
        throw refused('no-match', 'Nothing of that kind changes at these heights.', [
          { path: 'quantity', message: 'It does not differ between marked and unmarked layers.' },
        ])
      const others = (row.marks ?? []).filter((m) => m.quantity !== quantity || m.fileId !== fileId)
      row.marks = [
        ...others.slice(-19),
        {
          id: randomUUID(),
          fileId,
          marks,
          quantity,
          sentence: match.sentence,
          strength: match.strength,
          p: match.p,
        },
      ]
    })
  }

  removeMark(id: string, markId: string) {
    return this.cases.change(id, async (row) => {
      row.marks = (row.marks ?? []).filter((m) => m.id !== markId)
    })
  }
}
