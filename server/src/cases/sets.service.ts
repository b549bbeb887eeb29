import { randomUUID } from 'node:crypto'
import { Injectable } from '@nestjs/common'
import {
  DESIGNS,
  deriveRecipe,
  faultOf,
  makePiece,
  mendOf,
  pinsOf,
  runValues,
  type DesignId,
  type Pins,
  type SettingValue,
  type SignId,
} from '@verimend/core'
import { Pairs } from '../pairs/pairs.service'
import { notFound, refused } from '../problem/problem'
import { Cases } from './cases.service'

/** Designed sets of a case: a few prints in which several settings change at once. */
@Injectable()
export class DesignedSets {
  constructor(
    private readonly cases: Cases,
    private readonly pairs: Pairs,
  ) {}

  /** Begins a designed set from mends of the knowledge. */
  add(
    id: string,
    body: { design: DesignId; sign: SignId; factors: { proposal: string; levels: SettingValue[] }[] },
  ) {
    return this.cases.change(id, async (row) => {
      const { runs, factors: wanted } = DESIGNS[body.design]
      if (body.factors.length !== wanted)
        throw refused('bad-set', `${DESIGNS[body.design].name}: it takes ${wanted} settings.`)
      const factors = body.factors.map((f, i) => {
        const found = mendOf(f.proposal)
        const wrong = (message: string) => refused('bad-set', message, [{ path: `factors.${i}`, message }])
        if (found?.mend.kind !== 'setting') throw wrong('There is no such mend.')
        const { key } = found.mend
        const fault = f.levels.map((v) => faultOf(key, v)).find(Boolean)
        if (fault) throw wrong(fault)
        if (new Set(f.levels).size !== (body.design === 'l9' ? 3 : 2))
          throw wrong('Its levels have to differ.')
        return { proposal: f.proposal, suspect: found.suspect, key, levels: f.levels }
      })
      if (new Set(factors.map((f) => f.key)).size < factors.length)
        throw refused('twice', 'Two of these changes move the same setting.')
      row.designs = [
        ...(row.designs ?? []).slice(-9),
        { id: randomUUID(), design: body.design, sign: body.sign, factors, grades: runs.map(() => null) },
      ]
    })
  }

  grade(id: string, setId: string, run: number, grade: number | null) {
    return this.cases.change(id, async (row) => {
      const set = (row.designs ?? []).find((s) => s.id === setId)
      if (!set || run < 1 || run > set.grades.length) throw notFound('print of a set')
      row.designs = (row.designs ?? []).map((s) =>
        s.id === setId ? { ...s, grades: s.grades.map((g, i) => (i === run - 1 ? grade : g)) } : s,
      )
    })
  }

  remove(id: string, setId: string) {
    return this.cases.change(id, async (row) => {
      row.designs = (row.designs ?? []).filter((s) => s.id !== setId)
    })
  }

  /** String posts with the settings of one print of a set, as G-code. */
  async runFile(id: string, setId: string, run: number): Promise<string> {
    const c = await this.cases.detail(id)
    const set = c.sets.find((s) => s.id === setId)
    if (!set || run < 1 || run > set.grades.length) throw notFound('print of a set')
    const pair = await this.pairs.detail(c.pairId)
    const { machine } = pair.machine
    const { filament } = pair.filament
    const own = Object.fromEntries(
      Object.entries(runValues(set, run - 1)).map(([k, value]) => [
        k,
        { value, source: 'hand', words: 'Of the set.' },
      ]),
    ) as Pins
    const recipe = deriveRecipe({ machine, filament, pins: { ...pinsOf(pair.version.values), ...own } })
    return makePiece(
      { machine, filament, recipe },
      { piece: 'string-posts', steps: { key: 'span', from: 40, to: 40, count: 1 } },
      [
        `${filament.name} on ${machine.name}, recipe version ${pair.current}`,
        `${c.part}, print ${run} of a set`,
      ],
    ).gcode
  }
}
