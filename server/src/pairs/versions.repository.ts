import { Injectable } from '@nestjs/common'
import { upgradeReason, type Reason } from '@verimend/core/quantity'
import {
  RECIPE_SCHEMA,
  TESTED_SCHEMA,
  testedValues,
  upgradeRecipe,
  type Difference,
  type GradedRecipe,
} from '@verimend/core/recipe'
import { Op } from 'sequelize'
import { Database } from '../database/database.module'
import { PairRow, VersionRow } from '../database/models'
import { notFound } from '../problem/problem'
import type { KeptPair, PairsRepository } from './pairs.repository'

/** Pairs whose recipes are looked through in one go. */
const AT_ONCE = 100

/** What is told of a version without its values. */
export interface VersionHead {
  number: number
  parent: number | null
  reason: Reason
  changes: Difference[]
  caseId: string | null
  createdAt: string
}
/** A version of a recipe in today's shape. */
export interface KeptVersion extends VersionHead {
  recipe: GradedRecipe
}

/** A reason as it is kept: JSON, or the sentence from before there were codes. */
const reasonIn = (kept: string): Reason => upgradeReason(kept.startsWith('{') ? JSON.parse(kept) : kept)

const headOf = (row: VersionRow): VersionHead => ({
  number: row.number,
  parent: row.parent,
  reason: reasonIn(row.reason),
  changes: row.changes,
  caseId: row.caseId,
  createdAt: row.createdAt.toISOString(),
})
const keptOf = (row: VersionRow, pair: KeptPair): KeptVersion => ({
  ...headOf(row),
  recipe: upgradeRecipe({ values: row.values, variants: row.variants }, pair),
})

/** Kept versions of recipes; never edited, only added to. */
@Injectable()
export class VersionsRepository {
  constructor(private readonly database: Database) {}

  async get(pair: KeptPair, number: number): Promise<KeptVersion> {
    const row = await VersionRow.findOne({ where: { pairId: pair.row.id, number } })
    if (!row) throw notFound('recipe version')
    return keptOf(row, pair)
  }

  current(pair: KeptPair): Promise<KeptVersion> {
    return this.get(pair, pair.row.current)
  }

  /** The current version of each of many pairs, in one request. */
  async currentOf(pairs: readonly KeptPair[]): Promise<Map<string, KeptVersion>> {
    if (!pairs.length) return new Map()
    const pairOf = new Map(pairs.map((p) => [p.row.id, p]))
    const rows = await this.database.sequelize.query(
      `SELECT v.* FROM recipe_versions v JOIN pairs p ON p.id = v.pairId AND p.current = v.number WHERE v.pairId IN (:ids)`,
      { replacements: { ids: [...pairOf.keys()] }, model: VersionRow, mapToModel: true },
    )
    return new Map(rows.map((row) => [row.pairId, keptOf(row, pairOf.get(row.pairId)!)]))
  }

  /** All versions of a pair without their values, the newest first. */
  async heads(pairId: string): Promise<VersionHead[]> {
    const rows = await VersionRow.findAll({
      where: { pairId },
      order: [['number', 'DESC']],
      attributes: { exclude: ['values', 'variants'] },
    })
    return rows.map(headOf)
  }

  /** Keeps with each pair what others may take over of it, where that is missing or of an older shape. @returns of how many pairs */
  async fillTested(pairs: PairsRepository): Promise<number> {
    for (let made = 0, after = ''; ;) {
      const rows = await PairRow.findAll({
        where: { testedSchema: { [Op.ne]: TESTED_SCHEMA }, id: { [Op.gt]: after } },
        order: [['id', 'ASC']],
        limit: AT_ONCE,
      })
      if (!rows.length) return made
      after = rows.at(-1)!.id
      const wholes = await pairs.wholes(rows)
      const versions = await this.currentOf(wholes)
      for (const { row } of wholes) {
        const version = versions.get(row.id)
        if (!version) continue
        row.tested = testedValues(version.recipe.values)
        row.testedSchema = TESTED_SCHEMA
        // nobody has changed it: it keeps its place in the list
        await row.save({ silent: true, fields: ['tested', 'testedSchema'] })
        made++
      }
    }
  }

  /** Writes a version that is the current one of its pair from now on. */
  async create(pair: KeptPair, version: Omit<KeptVersion, 'createdAt'>): Promise<KeptVersion> {
    const { recipe, reason, ...rest } = version
    const row = await VersionRow.create({
      ...rest,
      pairId: pair.row.id,
      schemaVersion: RECIPE_SCHEMA,
      values: recipe.values,
      variants: recipe.variants,
      reason: JSON.stringify(reason),
    })
    pair.row.current = version.number
    pair.row.tested = testedValues(recipe.values)
    pair.row.testedSchema = TESTED_SCHEMA
    await pair.row.save()
    return { ...version, createdAt: row.createdAt.toISOString() }
  }
}
