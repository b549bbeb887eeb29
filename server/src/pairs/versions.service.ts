import { Injectable } from '@nestjs/common'
import { caseReason, type Moved } from '@verimend/core/casework'
import { said, type Reason } from '@verimend/core/quantity'
import {
  SETTING_KEYS,
  editFaults,
  editRecipe,
  keysOf,
  recipeDifferences,
  settingOf,
  type Changes,
  type EditFault,
  type GradedRecipe,
  type RecipeEdit,
  type RecipeValues,
  type SettingKey,
} from '@verimend/core/recipe'
import { Database } from '../database/database.module'
import { today } from '../http/day'
import { conflict, refused } from '../problem/problem'
import { PairsRepository, type KeptPair } from './pairs.repository'
import { RelativesService } from './relatives.service'
import { VersionsRepository, type KeptVersion } from './versions.repository'

/** A change of a recipe, and why its version is made. */
export interface RecipeChange extends RecipeEdit {
  versionReason: Reason
  caseId: string | null
}

/** Versions of recipes: written, gone back to, taken over. */
@Injectable()
export class VersionsService {
  constructor(
    private readonly database: Database,
    private readonly pairs: PairsRepository,
    private readonly versions: VersionsRepository,
    private readonly relatives: RelativesService,
  ) {}

  view({ recipe, ...head }: KeptVersion) {
    return { ...head, ...recipe }
  }

  async list(pairId: string) {
    await this.pairs.row(pairId)
    return this.versions.heads(pairId)
  }

  async one(pairId: string, number: number) {
    return this.view(await this.versions.get(await this.pairs.load(pairId), number))
  }

  /**
   * Writes the next version of a recipe inside a running transaction: the edit laid over, everything else derived
   * anew from the machine and the roll as they are now.
   */
  async write(pairId: string, base: number, change: RecipeChange): Promise<KeptVersion> {
    const pair = await this.pairs.forNew(pairId)
    const current = await this.standing(pair, base)
    const faults = editFaults(current.recipe, pair.machine, change)
    if (faults.length) throw refusedEdit(faults, pair.machine.name)
    const recipe = editRecipe(current.recipe, pair, change)
    return this.append(pair, current, recipe, change.versionReason, change.caseId)
  }

  /** The current version, when it still is the one a change was made on. */
  private async standing(pair: KeptPair, base: number): Promise<KeptVersion> {
    const current = await this.versions.current(pair)
    if (pair.row.current !== base)
      throw conflict(
        `This recipe has moved on to version ${pair.row.current} while you worked on version ${base}. Compare the two and decide.`,
        this.view(current),
      )
    return current
  }

  private async append(
    pair: KeptPair,
    current: KeptVersion,
    recipe: GradedRecipe,
    reason: Reason,
    caseId: string | null,
  ): Promise<KeptVersion> {
    const version = await this.versions.create(pair, {
      number: pair.row.current + 1,
      parent: current.number,
      recipe,
      changes: recipeDifferences(current.recipe, recipe),
      reason,
      caseId,
    })
    return version
  }

  /** A change made by hand. */
  async change(
    pairId: string,
    base: number,
    body: {
      set: Changes
      fine?: Changes
      coarse?: Changes
      measured?: RecipeEdit['measured']
      relative?: string | null
      file?: string
      reason: string
    },
  ) {
    const { set, fine, coarse, measured, file, reason } = body
    const pair = await this.pairs.row(pairId)
    const relative =
      body.relative === undefined
        ? undefined
        : await this.relatives.brought(pair.machineId, pair.filamentId, body.relative)
    const typed = reason ? said(reason) : file ? caseReason('path-file-values', { file }) : null
    const changes = keysOf(set).length || fine || coarse
    const version = await this.database.transaction(() =>
      this.write(pairId, base, {
        set,
        variants: { ...(fine && { fine }), ...(coarse && { coarse }) },
        measured,
        relative,
        source: file === undefined ? 'hand' : 'file',
        reason: typed ?? caseReason(keysOf(measured ?? {}).length ? 'measured-by-hand' : 'set-by-hand'),
        at: today(),
        versionReason:
          typed ??
          caseReason(changes ? 'set-by-hand' : body.relative ? 'started-from-relative' : 'derived-anew'),
        caseId: null,
      }),
    )
    return this.view(version)
  }

  /** Writes a recipe that comes from outside as the next version, as it stands; inside a running transaction. */
  async adopt(pairId: string, base: number, recipe: GradedRecipe, reason: Reason): Promise<KeptVersion> {
    const pair = await this.pairs.forNew(pairId)
    return this.append(pair, await this.standing(pair, base), recipe, reason, null)
  }

  /** Makes an older version the newest: a copy, so that nothing is lost; inside a running transaction. */
  async goBack(pairId: string, number: number, reason: Reason, caseId: string | null): Promise<KeptVersion> {
    const pair = await this.pairs.forNew(pairId)
    const current = await this.versions.current(pair)
    const old = await this.versions.get(pair, number)
    // settings that are newer than the old version stay as they are now
    const values = Object.fromEntries(
      SETTING_KEYS.map((k) => [
        k,
        old.recipe.values[k].filledIn ? current.recipe.values[k] : old.recipe.values[k],
      ]),
    ) as RecipeValues
    return this.append(pair, current, { values, variants: old.recipe.variants }, reason, caseId)
  }

  async restore(pairId: string, base: number, number: number) {
    const version = await this.database.transaction(async () => {
      await this.standing(await this.pairs.load(pairId, true), base)
      return this.goBack(pairId, number, caseReason('back-to-version', { version: number }), null)
    })
    return this.view(version)
  }
}

/** What a version moved of some settings, in its base. */
export const movedBy = ({ changes }: KeptVersion, keys: readonly SettingKey[]): Moved[] =>
  changes.flatMap(({ key, from, to, grade }) =>
    keys.includes(key) && from !== undefined && to !== undefined && (!grade || grade === 'standard')
      ? [{ key, from, to }]
      : [],
  )

/** What stands against an edit, each fault at its field. */
function refusedEdit(faults: EditFault[], machine: string) {
  const sentence = ({ key, fault, limit }: EditFault) => {
    const s = settingOf(key)
    return fault === 'not-graded'
      ? `${s.label} does not change with the layer height: change it in the base.`
      : `${s.label}: ${machine} goes up to ${limit} ${s.kind === 'number' ? s.unit : ''}.`
  }
  return refused(
    faults[0].fault,
    sentence(faults[0]),
    faults.map((f) => ({ path: `${f.where}.${f.key}`, message: sentence(f) })),
  )
}
