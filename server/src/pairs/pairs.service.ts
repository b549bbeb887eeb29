import { randomUUID } from 'node:crypto'
import { Injectable } from '@nestjs/common'
import {
  SETTING_KEYS,
  deriveGraded,
  differences,
  gradedKeys,
  inheritedIn,
  machineLimit,
  overallOutcome,
  pinsOf,
  rankRelatives,
  readinessOf,
  settingOf,
  valuesOf,
  type GradedRecipe,
  type Inherited,
  type Machine,
  type Pins,
  type RankedRelative,
  type RecipeValues,
  type SettingKey,
  type SettingValue,
  type Variant,
} from '@verimend/core'
import { type Transaction, Op } from 'sequelize'
import { Database } from '../database/database.module'
import { AttemptRow, CaseRow, FileRow, PairRow, VersionRow } from '../database/models'
import { Filaments } from '../filaments/filaments.module'
import { Machines } from '../machines/machines.module'
import { once } from '../database/once'
import { conflict, notFound, refused } from '../problem/problem'

type Changes = Record<string, SettingValue | null>
const VARIANTS: Variant[] = ['fine', 'coarse']
const today = () => new Date().toISOString().slice(0, 10)

/** What a change lays over a recipe. */
export interface RecipeChange {
  set: Changes
  variants?: Partial<Record<Variant, Changes>>
  /** ± of those that were measured. */
  measured?: Record<string, number>
  /** What a relative brings from now on; left out to keep what it brought before. */
  relative?: Inherited
  source: 'hand' | 'mend'
  words: string
  reason: string
  caseId: string | null
}

@Injectable()
export class Pairs {
  constructor(
    private readonly database: Database,
    private readonly machines: Machines,
    private readonly filaments: Filaments,
  ) {}

  private summary(row: PairRow) {
    return {
      id: row.id,
      machineId: row.machineId,
      filamentId: row.filamentId,
      nozzle: Number(row.nozzle),
      current: row.current,
      createdAt: row.createdAt.toISOString(),
      updatedAt: row.updatedAt.toISOString(),
    }
  }

  versionSummary(row: VersionRow) {
    return {
      number: row.number,
      parent: row.parent,
      reason: row.reason,
      changes: row.changes,
      caseId: row.caseId,
      createdAt: row.createdAt.toISOString(),
    }
  }

  private versionView(row: VersionRow) {
    return { ...this.versionSummary(row), values: row.values, variants: this.graded(row).variants }
  }

  /** A version's base and variants; versions from before there were variants have none of their own. */
  graded(row: VersionRow): GradedRecipe {
    const none = { pins: {}, values: {} }
    return { values: row.values, variants: row.variants ?? { fine: none, coarse: none } }
  }

  /** Pairs whose machine and filament are both on the shelf. */
  async list() {
    const [pairs, machines, filaments] = await Promise.all([
      PairRow.findAll({ order: [['updatedAt', 'DESC']] }),
      this.machines.list(),
      this.filaments.list(),
    ])
    const there = new Set([...machines, ...filaments].map((r) => r.id))
    return pairs.filter((p) => there.has(p.machineId) && there.has(p.filamentId)).map((p) => this.summary(p))
  }

  async row(id: string, transaction?: Transaction): Promise<PairRow> {
    const row = await PairRow.findByPk(id, transaction ? { transaction, lock: true } : {})
    if (!row) throw notFound('pair')
    return row
  }

  async detail(id: string) {
    const pair = await this.row(id)
    const [machine, filament, version, lastPart] = await Promise.all([
      this.machines.row(pair.machineId),
      this.filaments.row(pair.filamentId),
      this.versionRow(id, pair.current),
      this.lastPart(id),
    ])
    return {
      ...this.summary(pair),
      machine: this.machines.view(machine),
      filament: this.filaments.view(filament),
      version: this.versionView(version),
      meant: pair.meant ?? [],
      lastPart,
    }
  }

  /** Grams and time of the part whose path file was read last in a case of the pair. */
  private async lastPart(pairId: string) {
    const cases = await CaseRow.findAll({ where: { pairId, removedAt: null }, attributes: ['id', 'part'] })
    if (!cases.length) return null
    const file = await FileRow.findOne({
      where: { caseId: { [Op.in]: cases.map((c) => c.id) } },
      order: [['createdAt', 'DESC']],
    })
    if (!file) return null
    return {
      name: cases.find((c) => c.id === file.caseId)!.part,
      grams: file.reading.filament.mass,
      seconds: file.reading.seconds,
    }
  }

  /** Tested recipes a pair could start from, nearest first. */
  async relatives(machineId: string, filamentId: string): Promise<RankedRelative[]> {
    const [machine, filament, pairs] = await Promise.all([
      this.machines.row(machineId),
      this.filaments.row(filamentId),
      PairRow.findAll({ where: { filamentId: { [Op.ne]: filamentId } } }),
    ])
    const candidates = await Promise.all(
      pairs.map(async (p) => {
        const [m, f] = await Promise.all([this.machines.row(p.machineId), this.filaments.row(p.filamentId)])
        if (f.body.family !== filament.body.family) return null
        return {
          pairId: p.id,
          machine: m.body,
          sameMachine: p.machineId === machineId && Number(p.nozzle) === machine.body.nozzle.diameter,
          filament: f.body,
          values: (await this.versionRow(p.id, p.current)).values,
        }
      }),
    )
    return rankRelatives(
      { machine: machine.body, filament: filament.body },
      candidates.filter((c) => c !== null),
    )
  }

  private async brought(machineId: string, filamentId: string, relative: string | null | undefined) {
    if (relative === null) return {}
    const ranked = await this.relatives(machineId, filamentId)
    if (relative === undefined) return ranked[0]?.brings ?? {}
    const found = ranked.find((r) => r.pairId === relative)
    if (!found)
      throw refused('no-such-relative', 'That recipe holds nothing tested for this family.', [
        { path: 'relative', message: 'Choose another one.' },
      ])
    return found.brings
  }

  /** How ready each pair is and what is most worth its time. */
  async readiness() {
    const pairs = await this.list()
    return Promise.all(
      pairs.map(async (p) => {
        const [machine, filament, version, verified] = await Promise.all([
          this.machines.row(p.machineId),
          this.filaments.row(p.filamentId),
          this.versionRow(p.id, p.current),
          this.verified(p.id),
        ])
        return {
          pairId: p.id,
          ...readinessOf({
            machine: machine.body,
            filament: filament.body,
            values: version.values,
            today: today(),
            verified,
          }),
        }
      }),
    )
  }

  /** Settings a closed case changed so that its fault went away, with the day. */
  private async verified(pairId: string): Promise<Partial<Record<SettingKey, string>>> {
    const cases = await CaseRow.findAll({ where: { pairId, status: 'closed', removedAt: null } })
    const out: Partial<Record<SettingKey, string>> = {}
    for (const c of cases) {
      const attempts = await AttemptRow.findAll({ where: { caseId: c.id } })
      for (const a of attempts)
        if (overallOutcome({ mends: a.mends, results: a.results }) === 'gone')
          for (const m of a.mends)
            if (m.kind === 'setting') out[m.key as SettingKey] = c.updatedAt.toISOString().slice(0, 10)
    }
    return out
  }

  /** Answers a warning with "I mean it", or takes the answer back. */
  async mean(id: string, print: string, meant: boolean) {
    await this.database.sequelize.transaction(async (transaction) => {
      const pair = await this.row(id, transaction)
      const others = (pair.meant ?? []).filter((p) => p !== print)
      pair.meant = meant ? [...others, print].slice(-200) : others
      await pair.save({ transaction })
    })
    return this.detail(id)
  }

  async versionRow(pairId: string, number: number, transaction?: Transaction): Promise<VersionRow> {
    const row = await VersionRow.findOne({ where: { pairId, number }, transaction })
    if (!row) throw notFound('recipe version')
    return row
  }

  async versions(pairId: string) {
    await this.row(pairId)
    const rows = await VersionRow.findAll({
      where: { pairId },
      order: [['number', 'DESC']],
      attributes: { exclude: ['values'] },
    })
    return rows.map((r) => this.versionSummary(r))
  }

  async version(pairId: string, number: number) {
    return this.versionView(await this.versionRow(pairId, number))
  }

  /** The pair of a machine and a filament; makes it, with its first recipe, where it does not exist. */
  async open(machineId: string, filamentId: string, relative?: string | null) {
    const [machine, filament] = await Promise.all([
      this.machines.row(machineId),
      this.filaments.row(filamentId),
    ])
    if (machine.removedAt) throw notFound('machine')
    if (filament.removedAt) throw notFound('filament')
    const where = { machineId, filamentId, nozzle: String(machine.body.nozzle.diameter) }
    const id = await once(
      async () => (await PairRow.findOne({ where }))?.id ?? null,
      async () => {
        const brings = await this.brought(machineId, filamentId, relative)
        const recipe = deriveGraded({ machine: machine.body, filament: filament.body, relative: brings })
        return this.database.sequelize.transaction((transaction) =>
          this.begin(
            transaction,
            machineId,
            filamentId,
            machine.body,
            recipe,
            Object.keys(brings).length
              ? 'Derived from card, label, machine and the nearest tested recipe.'
              : 'Derived from card, label and machine.',
          ),
        )
      },
    )
    return this.detail(id)
  }

  /** Makes a pair with its first version. */
  async begin(
    transaction: Transaction,
    machineId: string,
    filamentId: string,
    machine: Machine,
    recipe: GradedRecipe,
    reason: string,
  ): Promise<string> {
    const id = randomUUID()
    await PairRow.create(
      { id, machineId, filamentId, nozzle: String(machine.nozzle.diameter), current: 1, meant: [] },
      { transaction },
    )
    await VersionRow.create(
      { pairId: id, number: 1, parent: null, ...recipe, changes: [], reason, caseId: null },
      { transaction },
    )
    return id
  }

  /** Pins with changes laid over; null takes a pin away. */
  private pinned(pins: Pins, set: Changes, change: RecipeChange): Pins {
    const out = { ...pins }
    for (const [key, value] of Object.entries(set) as [SettingKey, SettingValue | null][]) {
      const plusMinus = change.measured?.[key]
      if (value === null) delete out[key]
      else
        out[key] = {
          value,
          source: plusMinus === undefined ? change.source : 'measured',
          words: change.words,
          ...(plusMinus !== undefined && { plusMinus }),
          at: today(),
        }
    }
    return out
  }

  /**
   * Writes the next version of a recipe inside a transaction: pins laid over, everything else derived anew from
   * the machine and the roll as they are now.
   */
  async write(
    transaction: Transaction,
    pairId: string,
    base: number,
    change: RecipeChange,
  ): Promise<VersionRow> {
    const pair = await this.row(pairId, transaction)
    const current = await this.standing(transaction, pair, base)
    const [machine, filament] = await Promise.all([
      this.machines.row(pair.machineId),
      this.filaments.row(pair.filamentId),
    ])
    const sets: [string, Changes][] = [
      ['set', change.set],
      ...VARIANTS.map((v): [string, Changes] => [v, change.variants?.[v] ?? {}]),
    ]
    const fields = sets.flatMap(([where, set]) =>
      Object.entries(set).flatMap(([key, value]) => {
        const limit = typeof value === 'number' ? machineLimit(key as SettingKey, machine.body) : undefined
        const s = settingOf(key as SettingKey)
        return limit !== undefined && (value as number) > limit && s.kind === 'number'
          ? [
              {
                path: `${where}.${key}`,
                message: `${s.label}: ${machine.body.name} goes up to ${limit} ${s.unit}.`,
              },
            ]
          : []
      }),
    )
    if (fields.length) throw refused('beyond-machine', fields[0].message, fields)
    const was = this.graded(current)
    const graded = gradedKeys(was.values)
    for (const v of VARIANTS)
      for (const key of Object.keys(change.variants?.[v] ?? {}) as SettingKey[])
        if (!graded.includes(key))
          throw refused(
            'not-graded',
            `${settingOf(key).label} does not change with the layer height: change it in the base.`,
            [{ path: `${v}.${key}`, message: 'Change it in the base.' }],
          )
    const recipe = deriveGraded({
      machine: machine.body,
      filament: filament.body,
      relative: change.relative ?? inheritedIn(was.values),
      pins: this.pinned(pinsOf(was.values), change.set, change),
      variantPins: Object.fromEntries(
        VARIANTS.map((v) => [v, this.pinned(was.variants[v].pins, change.variants?.[v] ?? {}, change)]),
      ),
    })
    return this.append(transaction, pair, current, recipe, change.reason, change.caseId)
  }

  /** The current version, when it still is the one a change was made on. */
  private async standing(transaction: Transaction, pair: PairRow, base: number): Promise<VersionRow> {
    const current = await this.versionRow(pair.id, pair.current, transaction)
    if (pair.current !== base)
      throw conflict(
        `This recipe has moved on to version ${pair.current} while you worked on version ${base}. Compare the two and decide.`,
        this.versionView(current),
      )
    return current
  }

  private async append(
    transaction: Transaction,
    pair: PairRow,
    current: VersionRow,
    recipe: GradedRecipe,
    reason: string,
    caseId: string | null,
  ): Promise<VersionRow> {
    const was = this.graded(current)
    const row = await VersionRow.create(
      {
        pairId: pair.id,
        number: pair.current + 1,
        parent: current.number,
        ...recipe,
        changes: [
          ...differences(was.values, recipe.values),
          ...VARIANTS.flatMap((v) =>
            [...new Set([...Object.keys(was.variants[v].pins), ...Object.keys(recipe.variants[v].pins)])]
              .map((key) => ({
                key,
                from: valuesOf(was, v)[key as SettingKey]?.value,
                to: valuesOf(recipe, v)[key as SettingKey].value,
                grade: v,
              }))
              .filter((d) => d.from !== d.to),
          ),
        ],
        reason,
        caseId,
      },
      { transaction },
    )
    pair.current = row.number
    await pair.save({ transaction })
    return row
  }

  async change(
    pairId: string,
    base: number,
    set: Changes,
    reason: string,
    more: Pick<RecipeChange, 'variants' | 'measured'> & { relative?: string | null } = {},
  ) {
    const pair = await this.row(pairId)
    const relative =
      more.relative === undefined
        ? undefined
        : await this.brought(pair.machineId, pair.filamentId, more.relative)
    const row = await this.database.sequelize.transaction((transaction) =>
      this.write(transaction, pairId, base, {
        set,
        variants: more.variants,
        measured: more.measured,
        relative,
        source: 'hand',
        words: reason || (Object.keys(more.measured ?? {}).length ? 'Measured by hand.' : 'Set by hand.'),
        reason:
          reason ||
          (Object.keys(set).length || Object.keys(more.variants ?? {}).length
            ? 'Set by hand.'
            : more.relative
              ? 'Started from a tested relative.'
              : 'Derived anew from roll and machine.'),
        caseId: null,
      }),
    )
    return this.versionView(row)
  }

  /** Writes a recipe that comes from outside as the next version, as it stands. */
  async adopt(
    transaction: Transaction,
    pairId: string,
    base: number,
    recipe: GradedRecipe,
    reason: string,
  ): Promise<VersionRow> {
    const pair = await this.row(pairId, transaction)
    return this.append(transaction, pair, await this.standing(transaction, pair, base), recipe, reason, null)
  }

  /** Makes an older version the newest: a copy, so that nothing is lost. */
  async goBack(
    transaction: Transaction,
    pairId: string,
    number: number,
    reason: string,
    caseId: string | null,
  ) {
    const pair = await this.row(pairId, transaction)
    const current = await this.versionRow(pairId, pair.current, transaction)
    const old = await this.versionRow(pairId, number, transaction)
    const values = Object.fromEntries(
      SETTING_KEYS.map((k) => [k, old.values[k] ?? current.values[k]]),
    ) as RecipeValues
    return this.append(
      transaction,
      pair,
      current,
      { values, variants: this.graded(old).variants },
      reason,
      caseId,
    )
  }

  async restore(pairId: string, base: number, number: number) {
    const row = await this.database.sequelize.transaction(async (transaction) => {
      const pair = await this.row(pairId, transaction)
      if (pair.current !== base)
        throw conflict(
          `This recipe has moved on to version ${pair.current} in between.`,
          await this.version(pairId, pair.current),
        )
      return this.goBack(transaction, pairId, number, `Back to version ${number}.`, null)
    })
    return this.versionView(row)
  }
}
