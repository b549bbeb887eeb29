import { randomUUID } from 'node:crypto'
import { isDeepStrictEqual } from 'node:util'
import { Injectable } from '@nestjs/common'
import type { Trial } from '@verimend/contract'
import { caseReason } from '@verimend/core/casework'
import { switchedOnFor, type Changes, type NumberKey } from '@verimend/core/recipe'
import {
  PIECES,
  TRIAL_SCHEMA,
  outcomeAmong,
  type CellReading,
  type PiecePlan,
  type Readings,
} from '@verimend/core/trials'
import { say } from '@verimend/core/words'
import { PiecesService } from '../compute/pieces.service'
import { Database } from '../database/database.module'
import type { TrialRow } from '../database/models'
import { once } from '../database/once'
import { today } from '../http/day'
import { PairsRepository } from '../pairs/pairs.repository'
import { VersionsRepository } from '../pairs/versions.repository'
import { movedBy, VersionsService } from '../pairs/versions.service'
import { FoundService } from '../cases/found.service'
import { conflict, notFound, refused } from '../problem/problem'
import { TrialsRepository, type KeptTrial } from './trials.repository'

/** Step of a caliper's display until somebody says otherwise, mm. */
const USUAL_RESOLUTION = 0.01

interface NewTrial {
  id?: string
  pairId: string
  caseId: string | null
  plan: PiecePlan
}

/** Test pieces of a pair, what was read off them, and what of it went into the recipe. */
@Injectable()
export class TrialsService {
  constructor(
    private readonly database: Database,
    private readonly trials: TrialsRepository,
    private readonly pairs: PairsRepository,
    private readonly versions: VersionsRepository,
    private readonly versionsService: VersionsService,
    private readonly pieces: PiecesService,
    private readonly found: FoundService,
  ) {}

  private view({ row: t, readings }: KeptTrial): Trial {
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
      readings,
      resolution: t.resolution,
      note: t.note,
      seconds: t.seconds,
      grams: t.grams,
      adoptedVersion: t.adoptedVersion,
      simulated: !!t.simulated,
      createdAt: t.createdAt.toISOString(),
      updatedAt: t.updatedAt.toISOString(),
    }
  }

  async list(pairId: string) {
    return (await this.trials.newestFirst(pairId)).map((t) => this.view(t))
  }

  async one(id: string) {
    return this.view(await this.trials.get(id))
  }

  /** Writes the piece for the pair's present recipe, and keeps what it was made from. */
  async create(body: NewTrial, signal?: AbortSignal) {
    const { id } = body
    const trial = await once(
      async () => (id ? await this.trials.find(id) : null),
      () => this.write(body, signal),
    )
    return this.view(trial)
  }

  private async write({ id, pairId, caseId, plan }: NewTrial, signal?: AbortSignal): Promise<KeptTrial> {
    const pair = await this.pairs.forNew(pairId)
    const { machine, filament } = pair
    const version = await this.versions.current(pair)
    const { piece, seconds, grams } = await this.pieces.write(
      { machine, filament, recipe: version.recipe.values },
      plan,
      [],
      signal,
    )
    return this.database.transaction(async () => {
      // numbers of a pair are given one after the other
      await this.pairs.row(pairId, true)
      return this.trials.create({
        id: id ?? randomUUID(),
        rev: 1,
        schemaVersion: TRIAL_SCHEMA,
        pairId,
        caseId,
        number: await this.trials.nextNumber(pairId),
        plan,
        cells: piece.cells,
        view: piece.view,
        version: version.number,
        readings: {},
        resolution: USUAL_RESOLUTION,
        note: '',
        seconds: Math.round(seconds),
        grams: Number(grams.toFixed(2)),
        adoptedVersion: null,
        removedAt: null,
      })
    })
  }

  /** The piece as G-code: written anew from the plan and the recipe version it was planned on. */
  async gcode(id: string, signal?: AbortSignal): Promise<{ name: string; text: string }> {
    const { row, plan, number } = await this.trials.get(id)
    const pair = await this.pairs.load(row.pairId)
    const { machine, filament } = pair
    const { recipe } = await this.versions.get(pair, row.version)
    const { piece } = await this.pieces.write(
      { machine, filament, recipe: recipe.values },
      plan,
      [`${filament.name} on ${machine.name}, recipe version ${row.version}`, `Trial ${number}, ${row.id}`],
      signal,
    )
    return { name: `${plan.piece}-${number}.gcode`, text: piece.gcode }
  }

  private change(id: string, work: (row: TrialRow, trial: KeptTrial) => void): Promise<Trial> {
    return this.database.transaction(async () => {
      const trial = await this.trials.get(id, true)
      work(trial.row, trial)
      return this.view(await this.trials.save(trial.row))
    })
  }

  /** What was noted of one cell takes the place of what stood there. */
  read(id: string, cell: string, reading: CellReading, was?: CellReading | null) {
    return this.change(id, (row, { cells, plan, readings }) => {
      if (!cells.some((c) => c.id === cell)) throw notFound(`${PIECES[plan.piece].place} of this piece`)
      const now = readings[cell] ?? null
      if (was !== undefined && !isDeepStrictEqual(now, was) && !isDeepStrictEqual(now, reading))
        throw conflict('Somebody has noted another reading of this place meanwhile.', now)
      row.readings = { ...readings, [cell]: reading }
      row.schemaVersion = TRIAL_SCHEMA
    })
  }

  /** Takes readings of many places at once from a simulated print; what was noted by hand stays. */
  readSimulated(id: string, read: Readings) {
    return this.change(id, (row, { readings }) => {
      row.readings = { ...read, ...readings }
      row.simulated = true
      row.schemaVersion = TRIAL_SCHEMA
    })
  }

  update(id: string, resolution: number, note: string) {
    return this.change(id, (row) => {
      row.resolution = resolution
      row.note = note
    })
  }

  /** Takes a trial off the list; nothing is lost. */
  softDelete(id: string) {
    return this.change(id, (row) => {
      row.removedAt = new Date()
    })
  }

  restore(id: string) {
    return this.change(id, (row) => {
      row.removedAt = null
    })
  }

  /** Takes values of the outcome into a new recipe version, as measured, each with its ±. */
  async adopt(id: string, base: number, keys: readonly NumberKey[]) {
    const trial = await this.trials.get(id)
    const { pairId, caseId } = trial.row
    const pair = await this.pairs.load(pairId)
    const version = await this.versions.current(pair)
    const outcome = outcomeAmong(trial, await this.trials.newestFirst(pairId), {
      machine: pair.machine,
      filament: pair.filament,
      recipe: version.recipe.values,
    })
    const [answer] = outcome.reasons
    const chosen = keys.map((key) => {
      const found = outcome.adopt.find((a) => a.key === key)
      if (!found)
        throw refused('nothing-found', `Trial ${trial.number} gives no value for that: ${say(answer)}`, [
          { path: 'keys', message: 'It gives no value for that.' },
        ])
      return found
    })
    const reason = caseReason('trial-found', { trial: trial.number, piece: trial.plan.piece, answer })
    return this.database.transaction(async () => {
      const { row } = await this.trials.get(id, true)
      const written = await this.versionsService.write(pairId, base, {
        set: {
          ...(Object.fromEntries(chosen.map((c) => [c.key, c.value])) as Changes),
          ...switchedOnFor(keys, version.recipe.values),
        },
        measured: Object.fromEntries(chosen.map((c) => [c.key, c.plusMinus])),
        source: 'hand',
        at: today(),
        reason,
        versionReason: reason,
        caseId,
      })
      row.adoptedVersion = written.number
      if (caseId)
        await this.found.enter(caseId, {
          found: { kind: 'trial', id },
          moved: movedBy(written, keys),
          fromVersion: base,
          toVersion: written.number,
        })
      return this.view(await this.trials.save(row))
    })
  }
}
