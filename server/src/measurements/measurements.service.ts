import { randomUUID } from 'node:crypto'
import { isDeepStrictEqual } from 'node:util'
import { Injectable } from '@nestjs/common'
import type { MeasurementAct, MeasurementRecord } from '@verimend/contract'
import { inUseOf } from '@verimend/core/diagnosis'
import { caseReason, measurementContext, valuesMeasured } from '@verimend/core/casework'
import type { Machine } from '@verimend/core/machine'
import { evaluate, type Measured } from '@verimend/core/measurement'
import type { Changes, NumberKey } from '@verimend/core/recipe'
import { Database } from '../database/database.module'
import type { MeasurementRow } from '../database/models'
import { once } from '../database/once'
import { FilamentsService } from '../filaments/filaments.service'
import { today } from '../http/day'
import { MachinesService } from '../machines/machines.service'
import { PairsRepository } from '../pairs/pairs.repository'
import { VersionsRepository } from '../pairs/versions.repository'
import { movedBy, VersionsService } from '../pairs/versions.service'
import { FoundService } from '../cases/found.service'
import { conflict, notFound, putAway, refused } from '../problem/problem'
import { MeasurementsRepository, type MeasurementsOf } from './measurements.repository'

/** mm off its nominal from which on a diameter is of another filament. */
const FAR_OFF = 0.4

/** Shape in which measurements are kept now. */
const MEASUREMENT_SCHEMA = 1

interface NewMeasurement {
  id?: string
  machineId: string
  pairId: string | null
  caseId: string | null
  measured: Measured
}

/** What was measured of parts, beds, feeds and bands, and what of it went into recipe, machine or roll. */
@Injectable()
export class MeasurementsService {
  constructor(
    private readonly database: Database,
    private readonly measurements: MeasurementsRepository,
    private readonly machines: MachinesService,
    private readonly filaments: FilamentsService,
    private readonly pairs: PairsRepository,
    private readonly versions: VersionsRepository,
    private readonly versionsService: VersionsService,
    private readonly found: FoundService,
  ) {}

  view(m: MeasurementRow): MeasurementRecord {
    return {
      id: m.id,
      rev: m.rev,
      machineId: m.machineId,
      pairId: m.pairId,
      caseId: m.caseId,
      version: m.version,
      inUse: m.inUse,
      measured: m.measured,
      note: m.note,
      acted: m.acted,
      createdAt: m.createdAt.toISOString(),
      updatedAt: m.updatedAt.toISOString(),
    }
  }

  async list(of: MeasurementsOf) {
    return (await this.measurements.newestFirst(of)).map((m) => this.view(m))
  }

  async one(id: string) {
    return this.view(await this.measurements.get(id))
  }

  async create({ id, machineId, pairId, caseId, measured }: NewMeasurement) {
    const row = await once(
      async () => (id ? await this.measurements.find(id) : null),
      async () => {
        const machine = await this.machines.repository.get(machineId)
        if (machine.removedAt) throw putAway([this.machines.repository.bodyOf(machine).name])
        const pair = pairId ? await this.pairs.forNew(pairId) : null
        if (pair && pair.row.machineId !== machineId)
          throw refused('other-machine', 'That pair is of another machine.', [
            { path: 'pairId', message: 'It is of another machine.' },
          ])
        const version = pair && (await this.versions.current(pair))
        return this.measurements.create({
          id: id ?? randomUUID(),
          rev: 1,
          schemaVersion: MEASUREMENT_SCHEMA,
          machineId,
          pairId,
          caseId,
          version: version?.number ?? null,
          inUse: version ? inUseOf(version.recipe.values) : null,
          measured,
          note: '',
          acted: null,
          removedAt: null,
        })
      },
    )
    return this.view(row)
  }

  /** @param work returns false where nothing is to be written */
  private change(id: string, work: (row: MeasurementRow) => Promise<void> | void | false) {
    return this.database.transaction(async () => {
      const row = await this.measurements.get(id, true)
      return this.view((await work(row)) === false ? row : await this.measurements.save(row))
    })
  }

  /**
   * What was read takes the place of what stood there.
   * @param rev what stood there when it was read; undefined when it goes over anything
   * @throws 409 where another window was first
   */
  update(id: string, rev: number | undefined, measured: Measured, note: string) {
    return this.change(id, (row) => {
      // sent again because its answer was lost: it stands there already
      if (row.note === note && isDeepStrictEqual(row.measured, measured)) return false
      if (rev !== undefined && row.rev !== rev)
        throw conflict('This measurement was changed in another window. Yours is kept here.', this.view(row))
      if (row.measured.kind !== measured.kind)
        throw refused('other-kind', 'A measurement stays of its kind: begin another one.')
      row.measured = measured
      row.note = note
      row.schemaVersion = MEASUREMENT_SCHEMA
    })
  }

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

  /** Takes values of it into a new recipe version, as measured, each with its ±. */
  adopt(id: string, base: number, keys: readonly NumberKey[]) {
    return this.change(id, async (row) => {
      if (!row.pairId)
        throw refused('no-pair', 'It was measured of a machine alone: there is no recipe to change.')
      const pair = await this.pairs.load(row.pairId)
      const { values } = (await this.versions.current(pair)).recipe
      const context = {
        ...measurementContext({ ...pair, recipe: values }, null),
        inUse: row.inUse ?? undefined,
      }
      const found = valuesMeasured(evaluate(row.measured, context), values)
      const chosen = keys.map((key) => {
        const value = [...found.adopt, ...found.instead].find((a) => a.key === key)
        if (!value)
          throw refused('nothing-found', 'This measurement gives no value for that.', [
            { path: 'keys', message: 'It gives no value for that.' },
          ])
        return value
      })
      const both = (list: readonly { key: NumberKey }[]) => keys.some((k) => list.some((a) => a.key === k))
      if (both(found.adopt) && both(found.instead) && found.instead.length)
        throw refused('one-or-other', 'Scale and contour cannot be told apart here: take one of the two.', [
          { path: 'keys', message: 'Take one of the two.' },
        ])
      const reason = caseReason('measurement-found', { kind: row.measured.kind })
      const written = await this.versionsService.write(row.pairId, base, {
        set: Object.fromEntries(chosen.map((c) => [c.key, c.value])) as Changes,
        measured: Object.fromEntries(chosen.map((c) => [c.key, c.plusMinus])),
        source: 'hand',
        at: today(),
        reason,
        versionReason: reason,
        caseId: row.caseId,
      })
      row.acted = { version: written.number, what: row.acted?.what ?? 'recipe' }
      if (row.caseId)
        await this.found.enter(row.caseId, {
          found: { kind: 'measurement', id },
          moved: movedBy(written, keys),
          fromVersion: base,
          toVersion: written.number,
        })
    })
  }

  /** Notes on machine or roll that what was measured has been put right. */
  apply(id: string, what: MeasurementAct['what']) {
    return this.change(id, async (row) => {
      const { measured } = row
      // what went into the recipe does not stand in the way of machine or roll
      if (row.acted && row.acted.what !== 'recipe') throw refused('acted', 'That has been noted already.')
      const machineRow = await this.machines.repository.get(row.machineId, true)
      const machine = this.machines.repository.bodyOf(machineRow)
      const context = { machine, filament: null }
      if (what === 'levelled' && measured.kind === 'bed') {
        // what is left after the screws were turned is not known before it is measured again
        const bed: Machine['bed'] = { ...machine.bed, printsSinceLevel: 0, residual: null }
        await this.machines.repository.save(machineRow, { body: { ...machine, bed } })
      } else if (what === 'as-it-lies' && measured.kind === 'bed') {
        const out = evaluate(measured, context)
        if (out.of !== 'bed' || out.outcome.kind !== 'found')
          throw refused('nothing-to-do', 'These places do not show how the bed lies: measure more of them.')
        const bed: Machine['bed'] = { ...machine.bed, residual: Number(out.outcome.uneven.toFixed(3)) }
        await this.machines.repository.save(machineRow, { body: { ...machine, bed } })
      } else if (what === 'steps' && measured.kind === 'feed') {
        const out = evaluate(measured, context)
        const factor = out.of === 'simple' ? (out.outcome.value ?? 1) : 1
        const before = measured.steps ?? machine.drive.steps ?? null
        const drive: Machine['drive'] = {
          ...machine.drive,
          ...(before !== null && { steps: Number((before * factor).toFixed(3)) }),
        }
        await this.machines.repository.save(machineRow, { body: { ...machine, drive } })
      } else if (what === 'steps' && measured.kind === 'sizes') {
        const out = evaluate(measured, context)
        if (out.of !== 'sizes' || !out.outcome.machine.length)
          throw refused('nothing-to-do', 'These sizes show no axis whose steps are off.')
      } else if (what === 'weight' && measured.kind === 'roll') {
        if (!row.pairId) throw notFound('roll')
        const pair = await this.pairs.load(row.pairId)
        const filamentRow = await this.filaments.repository.get(pair.row.filamentId, true)
        const weightLeft = Number((measured.gross - measured.spool).toFixed(1))
        await this.filaments.repository.save(filamentRow, {
          body: { ...pair.filament, weightLeft, spoolWeight: measured.spool },
        })
      } else if (what === 'diameter' && measured.kind === 'diameter' && measured.places.length) {
        if (!row.pairId) throw notFound('roll')
        const pair = await this.pairs.load(row.pairId)
        const filamentRow = await this.filaments.repository.get(pair.row.filamentId, true)
        const far = measured.places.some(({ a, b }) =>
          [a, b ?? a].some((d) => Math.abs(d - pair.filament.diameter) >= FAR_OFF),
        )
        if (far)
          throw refused('diameter-far', 'A measured diameter is far from the nominal one.', [
            { path: 'measured', message: 'It is far from the nominal one.' },
          ])
        await this.filaments.repository.save(filamentRow, {
          body: { ...pair.filament, measured: measured.places },
        })
      } else throw refused('nothing-to-do', 'There is nothing of that kind to be noted here.')
      row.acted = { version: row.acted?.version ?? null, what }
    })
  }
}
