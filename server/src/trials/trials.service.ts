import { randomUUID } from 'node:crypto'
import { Injectable } from '@nestjs/common'
import {
  PIECES,
  filamentMass,
  makePiece,
  evidenceOfTrials,
  outcomeAmong,
  planMotion,
  readGcode,
  type CellReading,
  type CheckResult,
  type PairOnBench,
  type Piece,
  type PiecePlan,
  type RecipeValues,
  type SettingKey,
} from '@verimend/core'
import { Database } from '../database/database.module'
import { TrialRow } from '../database/models'
import { once } from '../database/once'
import { Pairs } from '../pairs/pairs.service'
import { notFound, refused } from '../problem/problem'

interface NewTrial {
  id?: string
  pairId: string
  caseId: string | null
  plan: PiecePlan
}

/** Test pieces of a pair, what was read off them, and what of it went into the recipe. */
@Injectable()
export class Trials {
  constructor(
    private readonly database: Database,
    private readonly pairs: Pairs,
  ) {}

  private view(t: TrialRow) {
    return {
      id: t.id,
      rev: t.rev,
      pairId: t.pairId,
      caseId: t.caseId,
      number: t.number,
      plan: t.plan,
      cells: t.cells,
      view: t.view,
      version: t.version,
      readings: t.readings,
      resolution: t.resolution,
      note: t.note,
      seconds: t.seconds,
      grams: t.grams,
      adoptedVersion: t.adoptedVersion,
      createdAt: t.createdAt.toISOString(),
      updatedAt: t.updatedAt.toISOString(),
    }
  }

  async list(pairId?: string) {
    const rows = await TrialRow.findAll({
      where: { removedAt: null, ...(pairId && { pairId }) },
      order: [
        ['createdAt', 'DESC'],
        ['number', 'DESC'],
      ],
    })
    return rows.map((t) => this.view(t))
  }

  async one(id: string) {
    return this.view(await this.row(id))
  }

  private async row(id: string): Promise<TrialRow> {
    const row = await TrialRow.findByPk(id)
    if (!row) throw notFound('trial')
    return row
  }

  /** Writes the piece for the pair's present recipe, and keeps what it was made from. */
  async create(body: NewTrial) {
    const { id } = body
    const row = await once(
      async () => (id ? await TrialRow.findByPk(id) : null),
      () => this.write(body),
    )
    return this.view(row)
  }

  private async write(body: NewTrial): Promise<TrialRow> {
    const pair = await this.pairs.detail(body.pairId)
    const bench = {
      machine: pair.machine.machine,
      filament: pair.filament.filament,
      recipe: pair.version.values,
    }
    const piece = written(bench, body.plan, [])
    const program = readGcode(Buffer.from(piece.gcode))
    const fed = program.e.subarray(0, program.count).reduce((s, e) => s + e, 0)
    const values = pair.version.values
    const grams = filamentMass(fed, Number(values.diameter.value), Number(values.density.value))
    return this.database.sequelize.transaction(async (transaction) => {
      await this.pairs.row(body.pairId, transaction)
      const last = (await TrialRow.max('number', { where: { pairId: body.pairId }, transaction })) as
        number | null
      return TrialRow.create(
        {
          id: body.id ?? randomUUID(),
          rev: 1,
          pairId: body.pairId,
          caseId: body.caseId,
          number: (last ?? 0) + 1,
          plan: body.plan,
          cells: piece.cells,
          view: piece.view,
          version: pair.version.number,
          readings: {},
          resolution: 0.01,
          note: '',
          seconds: Math.round(planMotion(program, bench.machine.limits).total),
          grams: Number(grams.toFixed(2)),
          adoptedVersion: null,
          removedAt: null,
        },
        { transaction },
      )
    })
  }

  /** The piece as G-code: written anew from the plan and the recipe version it was planned on. */
  async gcode(id: string): Promise<{ name: string; text: string }> {
    const t = await this.row(id)
    const pair = await this.pairs.detail(t.pairId)
    const version = await this.pairs.version(t.pairId, t.version)
    const { machine } = pair.machine
    const { filament } = pair.filament
    const piece = written({ machine, filament, recipe: version.values as RecipeValues }, t.plan, [
      `${filament.name} on ${machine.name}, recipe version ${t.version}`,
      `Trial ${t.number}, ${t.id}`,
    ])
    return { name: `${t.plan.piece}-${t.number}.gcode`, text: piece.gcode }
  }

  private async change(id: string, work: (t: TrialRow) => void) {
    return this.database.sequelize.transaction(async (transaction) => {
      const t = await TrialRow.findByPk(id, { transaction, lock: true })
      if (!t) throw notFound('trial')
      work(t)
      t.rev += 1
      await t.save({ transaction })
      return this.view(t)
    })
  }

  /** What was noted of one cell takes the place of what stood there. */
  read(id: string, cell: string, reading: CellReading) {
    return this.change(id, (t) => {
      if (!t.cells.some((c) => c.id === cell)) throw notFound(`${PIECES[t.plan.piece].place} of this piece`)
      t.readings = { ...t.readings, [cell]: reading }
    })
  }

  update(id: string, resolution: number, note: string) {
    return this.change(id, (t) => {
      t.resolution = resolution
      t.note = note
    })
  }

  setRemoved(id: string, removed: boolean) {
    return this.change(id, (t) => {
      t.removedAt = removed ? new Date() : null
    })
  }

  private all(pairId: string): Promise<TrialRow[]> {
    return TrialRow.findAll({ where: { pairId, removedAt: null } })
  }

  /** Takes values of the outcome into a new recipe version, as measured, each with its ±. */
  async adopt(id: string, base: number, keys: readonly SettingKey[]) {
    const t = await this.row(id)
    const pair = await this.pairs.detail(t.pairId)
    const outcome = outcomeAmong(t, await this.all(t.pairId), pair.version.values, pair.machine.machine)
    const chosen = keys.map((key) => {
      const found = outcome.adopt.find((a) => a.key === key)
      if (!found)
        throw refused('nothing-found', `Trial ${t.number} gives no value for that: ${outcome.words[0]}`, [
          { path: 'keys', message: 'It gives no value for that.' },
        ])
      return found
    })
    const name = PIECES[t.plan.piece].name.toLowerCase()
    const words = `Trial ${t.number}, ${name}: ${outcome.words[0]}`.slice(0, 300)
    return this.database.sequelize.transaction(async (transaction) => {
      const version = await this.pairs.write(transaction, t.pairId, base, {
        set: Object.fromEntries(chosen.map((c) => [c.key, c.value])),
        measured: Object.fromEntries(chosen.map((c) => [c.key, c.plusMinus])),
        source: 'hand',
        caseId: t.caseId,
        words,
        reason: words,
      })
      await t.update({ adoptedVersion: version.number, rev: t.rev + 1 }, { transaction })
      return this.view(t)
    })
  }

  /** What the newest trial of each kind says of suspects, with the recipe as it is now. */
  async evidence(pairId: string): Promise<CheckResult[]> {
    const pair = await this.pairs.detail(pairId)
    return evidenceOfTrials(await this.all(pairId), pair.version.values, pair.machine.machine)
  }
}

/** A piece, or a problem that says why not. */
function written(pair: PairOnBench, plan: PiecePlan, header: string[]): Piece {
  try {
    return makePiece(pair, plan, header)
  } catch (error) {
    if (error instanceof RangeError)
      throw refused('bad-plan', error.message, [{ path: 'plan.steps', message: error.message }])
    throw error
  }
}
