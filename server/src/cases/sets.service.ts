import { randomUUID } from 'node:crypto'
import { Injectable } from '@nestjs/common'
import { DESIGNS, caseReason, runValues, type DesignId } from '@verimend/core/casework'
import { mendOf } from '@verimend/core/diagnosis'
import type { SignId } from '@verimend/core/knowledge'
import { deriveRecipe, faultOf, layOver, pinsOf, type SettingValue } from '@verimend/core/recipe'
import { say } from '@verimend/core/words'
import { PiecesService } from '../compute/pieces.service'
import { PairsRepository } from '../pairs/pairs.repository'
import { VersionsRepository } from '../pairs/versions.repository'
import { notFound, refused } from '../problem/problem'
import { CasesRepository } from './cases.repository'
import { CasesService } from './cases.service'

/** Distance of the posts that show strings, mm. */
const SPAN = 40
/** Most sets of one case. */
const MOST_SETS = 10

/** Designed sets of a case: a few prints in which several settings change at once. */
@Injectable()
export class SetsService {
  constructor(
    private readonly cases: CasesRepository,
    private readonly casesService: CasesService,
    private readonly pairs: PairsRepository,
    private readonly versions: VersionsRepository,
    private readonly pieces: PiecesService,
  ) {}

  /** Begins a designed set from mends of the knowledge. */
  add(
    id: string,
    body: { design: DesignId; sign: SignId; factors: { proposal: string; levels: SettingValue[] }[] },
  ) {
    return this.casesService.change(id, (row) => {
      const { runs, factors: wanted, name } = DESIGNS[body.design]
      if (body.factors.length !== wanted) throw refused('bad-set', `${name}: it takes ${wanted} settings.`)
      const factors = body.factors.map((f, i) => {
        const found = mendOf(f.proposal)
        const wrong = (message: string) => refused('bad-set', message, [{ path: `factors.${i}`, message }])
        if (found?.mend.kind !== 'setting') throw wrong('There is no such mend.')
        const { key } = found.mend
        const fault = f.levels.map((v) => faultOf(key, v)).find((found) => found !== null)
        if (fault) throw wrong(say(fault))
        if (new Set(f.levels).size !== (body.design === 'l9' ? 3 : 2))
          throw wrong('Its levels have to differ.')
        return { proposal: f.proposal, suspect: found.suspect, key, levels: f.levels }
      })
      if (new Set(factors.map((f) => f.key)).size < factors.length)
        throw refused('twice', 'Two of these changes move the same setting.')
      row.designs = [
        ...(row.designs ?? []),
        { id: randomUUID(), design: body.design, sign: body.sign, factors, grades: runs.map(() => null) },
      ].slice(-MOST_SETS)
    })
  }

  grade(id: string, setId: string, run: number, grade: number | null) {
    return this.casesService.change(id, (row) => {
      const set = (row.designs ?? []).find((s) => s.id === setId)
      if (!set || run < 1 || run > set.grades.length) throw notFound('print of a set')
      row.designs = (row.designs ?? []).map((s) =>
        s.id === setId ? { ...s, grades: s.grades.map((g, i) => (i === run - 1 ? grade : g)) } : s,
      )
    })
  }

  remove(id: string, setId: string) {
    return this.casesService.change(id, (row) => {
      row.designs = (row.designs ?? []).filter((s) => s.id !== setId)
    })
  }

  /** String posts with the settings of one print of a set, as G-code. */
  async runFile(id: string, setId: string, run: number, signal?: AbortSignal): Promise<string> {
    const row = await this.cases.row(id)
    const set = (row.designs ?? []).find((s) => s.id === setId)
    if (!set || run < 1 || run > set.grades.length) throw notFound('print of a set')
    const pair = await this.pairs.load(row.pairId)
    const { recipe } = await this.versions.current(pair)
    const { machine, filament } = pair
    const pins = layOver(pinsOf(recipe.values), runValues(set, run - 1), {
      source: 'hand',
      reason: caseReason('run-of-set'),
    })
    const { piece } = await this.pieces.write(
      { machine, filament, recipe: deriveRecipe({ machine, filament, pins }) },
      { piece: 'string-posts', steps: { key: 'span', from: SPAN, to: SPAN, count: 1 } },
      [
        `${filament.name} on ${machine.name}, recipe version ${pair.row.current}`,
        `${row.part}, print ${run} of a set`,
      ],
      signal,
    )
    return piece.gcode
  }
}
