import { isDeepStrictEqual } from 'node:util'
import { Injectable } from '@nestjs/common'
import { RecipeFileError, readRecipeFile, type ReadRecipe } from '@verimend/contract'
import { caseReason } from '@verimend/core/casework'
import type { Machine } from '@verimend/core/machine'
import type { Filament } from '@verimend/core/material'
import {
  GRADES,
  SETTING_KEYS,
  deriveGraded,
  gradedKeys,
  inheritedIn,
  isPinned,
  keysOf,
  ofMachine,
  pinsOf,
  recipeIn,
  sameRecipe,
  valuesOf,
  type Grade,
  type GradedRecipe,
  type Pins,
  type RecipeFile,
  type RecipeValues,
  type SettingKey,
} from '@verimend/core/recipe'
import { Database } from '../database/database.module'
import { FilamentRow } from '../database/models'
import { FilamentsService } from '../filaments/filaments.service'
import { MachinesService } from '../machines/machines.service'
import { PairsRepository } from '../pairs/pairs.repository'
import { PairsService } from '../pairs/pairs.service'
import { VersionsRepository } from '../pairs/versions.repository'
import { VersionsService } from '../pairs/versions.service'
import { conflict, notFound, refused } from '../problem/problem'

/** A machine without its name and what changes from print to print. */
const stripped = ({ name: _, notes: __, bed, ...m }: Machine) => ({
  ...m,
  bed: { ...bed, printsSinceLevel: 0, printsSinceWash: 0 },
})
const builtAlike = (a: Machine, b: Machine) => isDeepStrictEqual(stripped(a), stripped(b))
const sameRoll = (a: Filament, b: Filament) =>
  a.name === b.name && a.maker === b.maker && a.family === b.family && a.colour === b.colour

/** A single value to take from a file. */
interface Taken {
  key: SettingKey
  grade: Grade
}

/** Recipes on their way in. */
@Injectable()
export class ImportsService {
  constructor(
    private readonly database: Database,
    private readonly machines: MachinesService,
    private readonly filaments: FilamentsService,
    private readonly pairs: PairsRepository,
    private readonly pairsService: PairsService,
    private readonly versions: VersionsRepository,
    private readonly versionsService: VersionsService,
  ) {}

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
    const machines = (await this.machines.repository.all()).map((row) => ({
      id: row.id,
      body: this.machines.repository.bodyOf(row),
    }))
    const machine =
      machines.find((m) => m.body.name === file.machine.name && builtAlike(m.body, file.machine)) ??
      machines.find((m) => builtAlike(m.body, file.machine)) ??
      machines.find((m) => m.body.name === file.machine.name) ??
      null
    const rolls = (await FilamentRow.findAll({ order: [['updatedAt', 'DESC']] })).map((row) => ({
      id: row.id,
      removed: row.removedAt !== null,
      body: this.filaments.repository.bodyOf(row),
    }))
    const filament =
      rolls.find((f) => !f.removed && sameRoll(f.body, file.filament)) ??
      rolls.find((f) => sameRoll(f.body, file.filament)) ??
      null
    return { machine, filament }
  }

  private recipeFor(
    file: RecipeFile,
    machine: Machine,
    filament: Filament,
    was: GradedRecipe | null,
  ): GradedRecipe {
    const { values, variants } = recipeIn(file)
    // another plastic: its heats, cooling and feed are its own
    if (filament.family !== file.filament.family)
      return deriveGraded({
        machine,
        filament,
        pins: { ...(was && pinsOf(was.values)), ...ofMachine(pinsOf(values)) },
        ...(was && {
          relative: inheritedIn(was.values),
          variantPins: { fine: was.variants.fine.pins, coarse: was.variants.coarse.pins },
        }),
      })
    const whole = SETTING_KEYS.every((k) => values[k])
    if (whole && builtAlike(machine, file.machine)) return { values: values as RecipeValues, variants }
    // another machine, or settings the file's writer did not know: what was tested or set stands, the rest follows
    return deriveGraded({
      machine,
      filament,
      pins: pinsOf(values),
      relative: inheritedIn(values),
      variantPins: { fine: variants.fine.pins, coarse: variants.coarse.pins },
    })
  }

  /** What taking a file in would do. Changes nothing. */
  async preview({
    text,
    machineId,
    filamentId,
  }: {
    text: string
    machineId?: string | null
    filamentId?: string | null
  }) {
    const { file, ignored, missing } = this.read(text)
    const matched = await this.match(file)
    const machine = machineId ? { id: machineId, body: await this.machines.body(machineId) } : matched.machine
    const filament = filamentId
      ? { id: filamentId, removed: false, body: await this.filaments.body(filamentId) }
      : matched.filament
    const onMachine = machine?.body ?? file.machine
    const roll = filament?.body ?? file.filament
    const row =
      machine && filament
        ? await this.pairs.find(machine.id, filament.id, machine.body.nozzle.diameter)
        : null
    const was = row ? (await this.versions.current(await this.pairs.whole(row))).recipe : null
    const recipe = this.recipeFor(file, onMachine, roll, was)
    const against = was ?? deriveGraded({ machine: onMachine, filament: roll })
    const differences = GRADES.flatMap((grade) => {
      const now = valuesOf(against, grade)
      const then = valuesOf(recipe, grade)
      const keys =
        grade === 'standard'
          ? SETTING_KEYS
          : keysOf({ ...against.variants[grade].pins, ...recipe.variants[grade].pins })
      return keys
        .filter((k) => now[k].value !== then[k].value)
        .map((k) => ({ key: k, grade, from: now[k].value, to: then[k].value, reason: then[k].reason }))
    })
    return {
      number: file.number,
      reason: file.reason,
      written: file.written,
      machine: {
        name: onMachine.name,
        id: machine?.id ?? null,
        same: !!machine && builtAlike(machine.body, file.machine),
      },
      filament: {
        name: roll.name,
        id: filament?.id ?? null,
        removed: !!filament?.removed,
        sameFamily: roll.family === file.filament.family,
      },
      pair: row ? { id: row.id, current: row.current } : null,
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
    take?: Taken[]
  }) {
    const { file } = this.read(body.text)
    const reason = caseReason('from-file', { text: (file.reason || `version ${file.number}`).slice(0, 480) })
    return this.database.transaction(async () => {
      const machineId = body.machineId ?? (await this.machines.create(undefined, file.machine)).id
      const machineRow = await this.machines.repository.get(machineId)
      if (machineRow.removedAt) throw notFound('machine')
      const filamentId = body.filamentId ?? (await this.filaments.create(undefined, file.filament)).id
      const filamentRow = await this.filaments.repository.get(filamentId, true)
      const shelved = !body.filamentId || filamentRow.removedAt !== null
      if (filamentRow.removedAt) await this.filaments.repository.save(filamentRow, { removedAt: null })
      const machine = this.machines.repository.bodyOf(machineRow)
      const filament = this.filaments.repository.bodyOf(filamentRow)
      const row = await this.pairs.find(machineId, filamentId, machine.nozzle.diameter, true)
      const standing = row ? (await this.versions.current(await this.pairs.whole(row))).recipe : null
      const recipe = this.recipeFor(file, machine, filament, standing)
      const answer = { filamentId, shelved, machineId, machineMade: !body.machineId }
      if (!row) {
        const pairId = await this.pairsService.begin(
          machineId,
          filamentId,
          machine.nozzle.diameter,
          recipe,
          reason,
        )
        return { pairId, version: 1, before: null, ...answer }
      }
      if (row.current !== body.base)
        throw conflict(
          `This recipe has moved on to version ${row.current} since the file was opened. Open it again to see what differs now.`,
          null,
        )
      const was = standing!
      const next = body.take ? partly(machine, filament, was, recipe, body.take) : recipe
      if (sameRecipe(next, was)) return { pairId: row.id, version: row.current, before: null, ...answer }
      const version = await this.versionsService.adopt(row.id, row.current, next, reason)
      return { pairId: row.id, version: version.number, before: version.parent, ...answer }
    })
  }
}

/** The current recipe with single values of another laid over, the rest derived anew. */
function partly(
  machine: Machine,
  filament: Filament,
  was: GradedRecipe,
  from: GradedRecipe,
  take: readonly Taken[],
): GradedRecipe {
  const graded = new Set(gradedKeys(was.values))
  const pins: Record<Grade, Partial<Record<SettingKey, unknown>>> = {
    standard: pinsOf(was.values),
    fine: { ...was.variants.fine.pins },
    coarse: { ...was.variants.coarse.pins },
  }
  for (const { key, grade } of take) {
    if (grade !== 'standard' && !graded.has(key)) continue
    const { value, source, reason, plusMinus, at } = valuesOf(from, grade)[key]
    pins[grade][key] = {
      value,
      source: isPinned(source) ? source : 'hand',
      reason: isPinned(source) ? reason : caseReason('taken-from-file', { reason }),
      ...(plusMinus !== undefined && { plusMinus }),
      ...(at !== undefined && { at }),
    }
  }
  return deriveGraded({
    machine,
    filament,
    relative: inheritedIn(was.values),
    pins: pins.standard as Pins,
    variantPins: { fine: pins.fine as Pins, coarse: pins.coarse as Pins },
  })
}
