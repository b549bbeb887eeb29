import { isDeepStrictEqual } from 'node:util'
import { Injectable } from '@nestjs/common'
import type { ChosenMend, MendChoice, TakeUpAttempt } from '@verimend/contract'
import {
  caseReason,
  changeReason,
  handlingFound,
  movedOutside,
  filamentAfter,
  machineAfter,
  signsAfter,
  signsThat,
  toTakeBack,
  type SignResults,
} from '@verimend/core/casework'
import { because, mendOf } from '@verimend/core/diagnosis'
import type { SignId } from '@verimend/core/knowledge'
import { faultOf, type Changes, type RecipeValues, type SettingKey } from '@verimend/core/recipe'
import { say } from '@verimend/core/words'
import { AttemptRow, type CaseRow } from '../database/models'
import { today } from '../http/day'
import { FilamentsService } from '../filaments/filaments.service'
import { MachinesService } from '../machines/machines.service'
import { LinksService } from '../links/links.service'
import { PairsRepository } from '../pairs/pairs.repository'
import { VersionsRepository } from '../pairs/versions.repository'
import { VersionsService } from '../pairs/versions.service'
import { conflict, notFound, refused } from '../problem/problem'
import { CasesRepository } from './cases.repository'
import { CasesService } from './cases.service'
import { FoundService, type FoundElsewhere } from './found.service'

interface Outcome {
  results: SignResults
  newSigns: SignId[]
  /** Side effects that were looked for and did not come. */
  notThere: SignId[]
  note: string
}

/** The changes tried in a case, and what came of them. */
@Injectable()
export class AttemptsService {
  constructor(
    private readonly cases: CasesRepository,
    private readonly casesService: CasesService,
    private readonly pairs: PairsRepository,
    private readonly versions: VersionsRepository,
    private readonly versionsService: VersionsService,
    private readonly found: FoundService,
    private readonly links: LinksService,
    private readonly machines: MachinesService,
    private readonly filaments: FilamentsService,
  ) {}

  /** Accepts one to three mends: a new recipe version when settings change, and an attempt to look at later. */
  begin(id: string, base: number, choices: readonly MendChoice[]) {
    return this.casesService.change(id, async (row) => {
      const open = await this.cases.openAttempt(id)
      if (open) throw refused('attempt-open', `Record first what came of attempt ${open.number}.`)
      const number = (await this.cases.countAttempts(id)) + 1
      const pair = await this.pairs.load(row.pairId, true)
      const current = await this.versions.current(pair)
      const mends = choices.map((choice, i) => chosenMend(choice, current.recipe.values, i))
      const moves = mends.filter((m) => m.kind === 'setting')
      if (new Set(moves.map((m) => m.key)).size < moves.length)
        throw refused('twice', 'Two of these changes move the same setting.')
      if (!moves.length && pair.row.current !== base)
        throw conflict(
          `This recipe has moved on to version ${pair.row.current}. Look at the new advice first.`,
          this.versionsService.view(current),
        )
      const toVersion = moves.length ? await this.writeVersion(row, base, number, moves) : pair.row.current
      await AttemptRow.create({
        caseId: id,
        number,
        mends,
        signsBefore: row.signs,
        fromVersion: moves.length ? base : toVersion,
        toVersion,
        results: null,
        newSigns: [],
        note: '',
        recordedAt: null,
      })
      // what is done by hand is done on a simulated machine too; where that fails, nothing was done
      const done = mends.flatMap((m) => (m.kind === 'handling' ? [m.procedure] : []))
      if (done.length) await this.links.handled(pair, done)
    })
  }

  /**
   * Counts what was changed outside the case as its attempt: the recipe as it stands by now, or a part as it was planned.
   */
  takeUp(id: string, change: TakeUpAttempt) {
    return this.casesService.change(id, async (row) => {
      const what =
        change.from === 'recipe' ? await this.movedSince(row, change.base) : await this.ofPart(row, change)
      const number = await this.found.enterInto(row, what)
      if (number === null)
        throw refused(
          'fixes-nothing',
          'No cause that Verimend knows is fixed by these changes, so there is nothing to try here. Mark what you see on the next print.',
        )
    })
  }

  /** What the recipe moved since the case last knew of it. */
  private async movedSince(row: CaseRow, base: number): Promise<FoundElsewhere> {
    const pair = await this.pairs.load(row.pairId, true)
    const current = await this.versions.current(pair)
    if (pair.row.current !== base)
      throw conflict(
        `This recipe has moved on to version ${pair.row.current}. Look at it once more.`,
        this.versionsService.view(current),
      )
    const last = (await this.cases.attempts(row.id)).at(-1)?.toVersion ?? row.startVersion
    const before = await this.versions.get(pair, last)
    const moved = movedOutside(before.recipe.values, current.recipe.values)
    if (!moved.length)
      throw refused('nothing-moved', `The recipe is as it was in version ${last}: there is nothing to try.`)
    return { found: { kind: 'recipe' }, moved, fromVersion: last, toVersion: pair.row.current }
  }

  /** What a part is printed with otherwise than its recipe has it. */
  private async ofPart(
    row: CaseRow,
    { partId, changes, turned }: Extract<TakeUpAttempt, { from: 'part' }>,
  ): Promise<FoundElsewhere> {
    if (!(await this.cases.hasPart(partId))) throw notFound('part')
    for (const [i, { key, to }] of changes.entries()) {
      const fault = faultOf(key, to)
      if (fault)
        throw refused('bad-value', say(fault), [{ path: `change.changes.${i}.to`, message: say(fault) }])
    }
    const pair = await this.pairs.row(row.pairId, true)
    const found = { kind: 'part', id: partId } as const
    const onItsSide = turned ? handlingFound('turn-part', row.signs, found) : null
    row.partId ??= partId
    return {
      found,
      moved: changes.filter((c) => c.from !== c.to),
      fromVersion: pair.current,
      toVersion: pair.current,
      byHand: onItsSide ? [onItsSide] : [],
    }
  }

  /** Writes the version an attempt prints with. @returns its number */
  private async writeVersion(
    { id, pairId, part }: CaseRow,
    base: number,
    attempt: number,
    moves: readonly Extract<ChosenMend, { kind: 'setting' }>[],
  ): Promise<number> {
    const { suspect, proposal } = moves[0]
    const version = await this.versionsService.write(pairId, base, {
      set: Object.fromEntries(
        moves.flatMap((m) => [
          [m.key, m.to],
          ...(m.seamDirection === undefined ? [] : [['seamDirection', m.seamDirection]]),
        ]),
      ) as Changes,
      source: 'mend',
      at: today(),
      reason: caseReason('attempt-on', {
        attempt,
        part,
        why: because('mend-helps', { suspect, mend: mendOf(proposal)?.place ?? 0 }),
      }),
      versionReason: caseReason('attempt-changes', { attempt, part, changes: moves.map(changeReason) }),
      caseId: id,
    })
    return version.number
  }

  /** Takes back an attempt that was not printed yet; its recipe version stays and the one before it returns. */
  withdraw(id: string, number: number) {
    return this.casesService.change(id, async (row) => {
      const attempt = await this.kept(id, number)
      if (attempt.recordedAt)
        throw refused('recorded', 'This attempt has been looked at; it stays in the notebook.')
      const pair = await this.pairs.row(row.pairId, true)
      if (attempt.toVersion !== attempt.fromVersion && pair.current === attempt.toVersion)
        await this.versionsService.goBack(
          row.pairId,
          attempt.fromVersion,
          caseReason('attempt-taken-back', { attempt: number, part: row.part }),
          id,
        )
      await attempt.destroy()
    })
  }

  /** Takes the change of the latest attempt out of the recipe again, because it made things worse. */
  takeBack(id: string, number: number) {
    return this.casesService.change(id, async (row) => {
      const attempts = await this.cases.attempts(id)
      const pair = await this.pairs.row(row.pairId, true)
      const attempt = toTakeBack(attempts, pair.current)
      if (attempt?.number !== number)
        throw refused(
          'nothing-to-take-back',
          `The change of attempt ${number} is no longer in the recipe, or it did not make things worse.`,
        )
      await this.versionsService.goBack(
        row.pairId,
        attempt.fromVersion,
        caseReason('attempt-taken-back', { attempt: number, part: row.part }),
        id,
      )
    })
  }

  /**
   * Notes what came of an attempt: an answer for every sign that was seen before it. What was marked meanwhile, in another
   * window, stays as it was marked where nothing is said of it.
   */
  record(id: string, number: number, outcome: Outcome) {
    return this.casesService.change(id, async (row) => {
      const attempt = await this.kept(id, number)
      if (attempt.recordedAt) {
        // sent again because its answer was lost: it stands there already
        if (isRecordedAs(attempt, outcome)) return
        throw refused('recorded', `Attempt ${number} has been recorded already.`)
      }
      const seen = signsThat('present', row.signs)
      const missing = seen.filter((s) => attempt.signsBefore[s] === 'present' && !outcome.results[s])
      if (missing.length)
        throw refused(
          'incomplete',
          'Say for each sign whether it is gone, better, the same or worse.',
          missing.map((s) => ({ path: `results.${s}`, message: 'Not answered yet.' })),
        )
      const results: SignResults = Object.fromEntries(
        seen.flatMap((s) => (outcome.results[s] ? [[s, outcome.results[s]]] : [])),
      )
      attempt.results = results
      attempt.newSigns = outcome.newSigns
      attempt.note = outcome.note
      attempt.recordedAt = new Date()
      await attempt.save()
      await this.noteByHand(row.pairId, attempt)
      row.signs = signsAfter(row.signs, results, outcome.newSigns, outcome.notThere)
    })
  }

  /** What was done by hand is noted on the machine and the roll: washed, levelled, dried, changed. */
  private async noteByHand(pairId: string, { mends }: AttemptRow): Promise<void> {
    const done = mends.flatMap((m) => (m.kind === 'handling' ? [m.procedure] : []))
    if (!done.length) return
    const pair = await this.pairs.load(pairId, true)
    const machine = machineAfter(pair.machine, done, today())
    if (!isDeepStrictEqual(machine, pair.machine))
      await this.machines.repository.save(pair.machineRow, { body: machine })
    const filament = filamentAfter(pair.filament, done, today())
    if (!isDeepStrictEqual(filament, pair.filament))
      await this.filaments.repository.save(pair.filamentRow, { body: filament })
  }

  private async kept(caseId: string, number: number): Promise<AttemptRow> {
    const attempt = await this.cases.attempt(caseId, number)
    if (!attempt) throw notFound('attempt')
    return attempt
  }
}

/** A chosen mend with what it changes. @throws a problem at its place in the request */
function chosenMend(choice: MendChoice, values: RecipeValues, i: number): ChosenMend {
  const { proposal, asHandling, to, from, departs, seamDirection } = choice
  const wrong = (code: string, detail: string, field: string, message = detail) =>
    refused(code, detail, [{ path: `mends.${i}.${field}`, message }])
  const found = mendOf(proposal)
  if (!found) throw wrong('no-such-mend', 'There is no such mend.', 'proposal')
  const { suspect, mend } = found
  const procedure = mend.kind === 'handling' ? mend.procedure : asHandling
  if (procedure)
    return {
      kind: 'handling',
      proposal,
      suspect,
      procedure,
      ...(procedure === 'prepare-paths' && departs && { departs }),
    }
  const { key } = mend as { key: SettingKey }
  if (to === undefined) throw wrong('bad-value', 'Say which value the setting should get.', 'to')
  const fault = faultOf(key, to)
  if (fault) throw wrong('bad-value', say(fault), 'to')
  const now = values[key].value
  if (now === to)
    throw wrong(
      'no-change',
      'That is the value it has already: nothing would change.',
      'to',
      'Nothing would change.',
    )
  const printed = from !== undefined && from !== to && !faultOf(key, from) ? from : now
  const turned = key === 'seamPlace' && to === 'turned-away' && seamDirection !== undefined
  return { kind: 'setting', proposal, suspect, key, from: printed, to, ...(turned && { seamDirection }) }
}

/** Whether what was recorded of an attempt is this. */
const isRecordedAs = (attempt: AttemptRow, { results, newSigns, note }: Outcome): boolean =>
  attempt.note === note &&
  isDeepStrictEqual(attempt.newSigns, newSigns) &&
  Object.entries(attempt.results ?? {}).every(([sign, result]) => results[sign as SignId] === result)
