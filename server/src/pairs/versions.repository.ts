import { Injectable } from '@nestjs/common'
import { upgradeReason, type Reason } from '@verimend/core/quantity'
import { RECIPE_SCHEMA, upgradeRecipe, type Difference, type GradedRecipe } from '@verimend/core/recipe'
import { Database } from '../database/database.module'
import { VersionRow } from '../database/models'
import { notFound } from '../problem/problem'
import type { KeptPair } from './pairs.repository'

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
    return { ...version, createdAt: row.createdAt.toISOString() }
  }
}
