import { Injectable } from '@nestjs/common'
import { readRecipeFile, RecipeFileError, type ReadRecipe } from '@verimend/contract'
import {
  GRADES,
  SETTING_KEYS,
  deriveGraded,
  gradedKeys,
  inheritedIn,
  pinsOf,
  recipeFile,
  recipeIn,
  valuesOf,
  type Exported,
  type Filament,
  type Grade,
  type GradedRecipe,
  type Machine,
  type Pins,
  type RecipeFile,
  type RecipeValues,
  type SettingKey,
} from '@verimend/core'
import { isDeepStrictEqual } from 'node:util'
import type { Transaction } from 'sequelize'
import { Database } from '../database/database.module'
import { FilamentRow, MachineRow, PairRow } from '../database/models'
import { Filaments } from '../filaments/filaments.module'
import { Machines } from '../machines/machines.module'
import { Pairs } from '../pairs/pairs.service'
import { conflict, notFound, refused } from '../problem/problem'

/** A machine without its name and what changes from print to print. */
const stripped = ({ name: _, notes: __, bed, ...m }: Machine) => ({
  ...m,
  bed: { ...bed, printsSinceLevel: 0, printsSinceWash: 0 },
})
const built = (a: Machine, b: Machine) => isDeepStrictEqual(stripped(a), stripped(b))
const alike = (a: Filament, b: Filament) =>
  a.name === b.name && a.maker === b.maker && a.family === b.family && a.colour === b.colour

/** Recipes on their way out and in. */
@Injectable()
export class Recipes {
  constructor(
    private readonly database: Database,
    private readonly pairs: Pairs,
    private readonly machines: Machines,
    private readonly filaments: Filaments,
  ) {}

  async exported(pairId: string, number: number): Promise<Exported> {
    const pair = await this.pairs.row(pairId)
    const [machine, filament, version] = await Promise.all([
      this.machines.row(pair.machineId),
      this.filaments.row(pair.filamentId),
      this.pairs.versionRow(pairId, number),
    ])
    return {
      machine: machine.body,
      filament: filament.body,
      recipe: this.pairs.graded(version),
      number,
      reason: version.reason,
      written: version.createdAt.toISOString(),
    }
  }

  async file(pairId: string, number: number): Promise<RecipeFile> {
    return recipeFile(await this.exported(pairId, number))
  }

  private read(text: string): ReadRecipe {
    try {
      return readRecipeFile(text)
    } catch (error) {
      if (error instanceof RecipeFileError)
        throw refused('recipe-file', error.message, [{ path: error.path || 'text', message: error.message }])
      throw error
    }
  }

  /** The shelf's machine and roll a file belongs to. */
  private async match(file: RecipeFile) {
    const machines = await MachineRow.findAll({ where: { removedAt: null } })
    const machine =
      machines.find((m) => m.body.name === file.machine.name && built(m.body, file.machine)) ??
      machines.find((m) => built(m.body, file.machine)) ??
      machines.find((m) => m.body.name === file.machine.name) ??
      null
    const rolls = await FilamentRow.findAll({ order: [['updatedAt', 'DESC']] })
    const filament =
      rolls.find((f) => !f.removedAt && alike(f.body, file.filament)) ??
      rolls.find((f) => alike(f.body, file.filament)) ??
      null
    return { machine, filament }
  }

  private recipeFor(file: RecipeFile, machine: Machine, filament: Filament): GradedRecipe {
    const { values, variants } = recipeIn(file)
    const whole = SETTING_KEYS.every((k) => values[k])
    if (whole && built(machine, file.machine)) return { values: values as RecipeValues, variants }
    // another machine, or settings the file's writer did not know: what was tested or set stands, the rest follows
    return deriveGraded({
      machine,
      filament,
      pins: pinsOf(values as RecipeValues),
      relative: inheritedIn(values as RecipeValues),
      variantPins: { fine: variants.fine.pins, coarse: variants.coarse.pins },
    })
  }

  /** What taking a file in would do. Changes nothing. */
  async preview(text: string) {
    const { file, ignored, missing } = this.read(text)
    const { machine, filament } = await this.match(file)
    const onMachine = machine?.body ?? file.machine
    const roll = filament?.body ?? file.filament
    const pair =
      machine && filament
        ? await PairRow.findOne({
            where: {
              machineId: machine.id,
              filamentId: filament.id,
              nozzle: String(machine.body.nozzle.diameter),
            },
          })
        : null
    const recipe = this.recipeFor(file, onMachine, roll)
    const against = pair
      ? this.pairs.graded(await this.pairs.versionRow(pair.id, pair.current))
      : deriveGraded({ machine: onMachine, filament: roll })
    const differences = GRADES.flatMap((grade) => {
      const now = valuesOf(against, grade)
      const then = valuesOf(recipe, grade)
      const keys =
        grade === 'standard'
          ? SETTING_KEYS
          : (Object.keys({
              ...against.variants[grade].pins,
              ...recipe.variants[grade].pins,
            }) as SettingKey[])
      return keys
        .filter((k) => now[k]?.value !== then[k].value)
        .map((k) => ({ key: k, grade, from: now[k]?.value, to: then[k].value, words: then[k].words }))
    })
    return {
      number: file.number,
      reason: file.reason,
      written: file.written,
      machine: {
        name: onMachine.name,
        id: machine?.id ?? null,
        same: !!machine && built(machine.body, file.machine),
      },
      filament: { name: roll.name, id: filament?.id ?? null, removed: !!filament?.removedAt },
      pair: pair ? { id: pair.id, current: pair.current } : null,
      differences,
      ignored,
      missing,
    }
  }

  /** Takes a file in: roll and machine made or found, and a new version of the pair's recipe. Never overwrites. */
  async take(body: {
    text: string
    machineId: string | null
    filamentId: string | null
    base: number | null
    take?: { key: string; grade: Grade }[]
  }) {
    const { file } = this.read(body.text)
    const reason = `From a file: ${file.reason || `version ${file.number}`}`.slice(0, 480)
    return this.database.sequelize.transaction(async (transaction) => {
      const { id: machineId, made: machineMade } = body.machineId
        ? { id: body.machineId, made: false }
        : { id: (await this.machines.create(undefined, file.machine, transaction)).id, made: true }
      const machine = await MachineRow.findByPk(machineId, { transaction })
      if (!machine || machine.removedAt) throw notFound('machine')
      let shelved = false
      let filamentId = body.filamentId
      if (!filamentId) {
        filamentId = (await this.filaments.create(undefined, file.filament, transaction)).id
        shelved = true
      }
      const filament = await FilamentRow.findByPk(filamentId, { transaction, lock: true })
      if (!filament) throw notFound('filament')
      if (filament.removedAt) {
        filament.removedAt = null
        filament.rev += 1
        await filament.save({ transaction })
        shelved = true
      }
      const recipe = this.recipeFor(file, machine.body, filament.body)
      const where = { machineId, filamentId, nozzle: String(machine.body.nozzle.diameter) }
      const pair = await PairRow.findOne({ where, transaction, lock: true })
      const answer = { filamentId, shelved, machineId, machineMade }
      if (!pair) {
        const id = await this.pairs.begin(transaction, machineId, filamentId, machine.body, recipe, reason)
        return { pairId: id, version: 1, before: null, ...answer }
      }
      if (pair.current !== body.base)
        throw conflict(
          `This recipe has moved on to version ${pair.current} since the file was opened. Open it again to see what differs now.`,
          null,
        )
      const was = await this.pairs.versionRow(pair.id, pair.current, transaction)
      const next = body.take
        ? await this.partly(transaction, pair, this.pairs.graded(was), recipe, body.take)
        : recipe
      if (isDeepStrictEqual(next, this.pairs.graded(was)))
        return { pairId: pair.id, version: pair.current, before: null, ...answer }
      const row = await this.pairs.adopt(transaction, pair.id, pair.current, next, reason)
      return { pairId: pair.id, version: row.number, before: was.number, ...answer }
    })
  }

  /** The current recipe with single values of another laid over, the rest derived anew. */
  private async partly(
    transaction: Transaction,
    pair: PairRow,
    was: GradedRecipe,
    from: GradedRecipe,
    take: { key: string; grade: Grade }[],
  ): Promise<GradedRecipe> {
    const [machine, filament] = await Promise.all([
      MachineRow.findByPk(pair.machineId, { transaction }),
      FilamentRow.findByPk(pair.filamentId, { transaction }),
    ])
    const graded = gradedKeys(was.values)
    const pins: Record<Grade, Pins> = {
      standard: pinsOf(was.values),
      fine: { ...was.variants.fine.pins },
      coarse: { ...was.variants.coarse.pins },
    }
    for (const { key, grade } of take as { key: SettingKey; grade: Grade }[]) {
      if (!SETTING_KEYS.includes(key) || (grade !== 'standard' && !graded.includes(key))) continue
      const r = valuesOf(from, grade)[key]
      const tested = r.source === 'measured' || r.source === 'mend' || r.source === 'hand'
      pins[grade][key] = {
        value: r.value,
        source: tested ? (r.source as 'measured' | 'mend' | 'hand') : 'hand',
        words: tested ? r.words : `Taken from a file: ${r.words}`.slice(0, 580),
        ...(r.plusMinus !== undefined && { plusMinus: r.plusMinus }),
        ...(r.at !== undefined && { at: r.at }),
      }
    }
    return deriveGraded({
      machine: machine!.body,
      filament: filament!.body,
      relative: inheritedIn(was.values),
      pins: pins.standard,
      variantPins: { fine: pins.fine, coarse: pins.coarse },
    })
  }
}
