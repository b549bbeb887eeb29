import { directionOfMend } from '../diagnosis/advice/sideEffects'
import type { SignStates } from '../diagnosis/inference/balance'
import { PRIOR, STRENGTH, type Mend, type SettingMend } from '../knowledge/types'
import type { ProcedureId } from '../knowledge/procedures'
import { SUSPECT_IDS, suspectOf, type SuspectId } from '../knowledge/suspects'
import { isPinned, type RecipeValues } from '../recipe/derive'
import { differences } from '../recipe/edits'
import type { SettingKey, SettingValue } from '../recipe/settings'
import { signsThat } from './notebook'

/** Where a change of a case was found, when it was not chosen among its fixes. */
export type FoundAt =
  | { kind: 'trial'; id: string }
  | { kind: 'measurement'; id: string }
  | { kind: 'part'; id: string }
  | { kind: 'recipe' }

/** A value that was changed. */
export interface Moved {
  key: SettingKey
  from: SettingValue
  to: SettingValue
}

/** A change found elsewhere, as a fix that a case tried. */
export type FoundMend = Moved & {
  kind: 'setting'
  proposal: string
  suspect: SuspectId
  found: FoundAt
}

export interface FoundHandling {
  kind: 'handling'
  proposal: string
  suspect: SuspectId
  found: FoundAt
  procedure: ProcedureId
}

/**
 * A change that was found outside a case, as a fix the case tried: of the suspects whose fix moves that setting that way, the
 * one that explains most of what is seen.
 * @returns null where no suspect is mended by it, or where it was not found for the case and explains nothing that is seen
 */
export function mendOfChange(moved: Moved, signs: SignStates, found: FoundAt): FoundMend | null {
  const best = bestFix((m) => m.kind === 'setting' && goesThatWay(m, moved), signs)
  if (!best || (found.kind === 'recipe' && !best.explains)) return null
  const { suspect, place } = best
  return { kind: 'setting', proposal: `${suspect}/${place}`, suspect, found, ...moved }
}

/** Something done by hand outside a case, as a fix that the case tried; null where no suspect is mended by it. */
export function handlingFound(
  procedure: ProcedureId,
  signs: SignStates,
  found: FoundAt,
): FoundHandling | null {
  const best = bestFix((m) => m.kind === 'handling' && m.procedure === procedure, signs)
  return (
    best && {
      kind: 'handling',
      proposal: `${best.suspect}/${best.place}`,
      suspect: best.suspect,
      found,
      procedure,
    }
  )
}

/** Of the suspects with a fix of a kind, the one that explains most of what is seen, and the place of that fix. */
function bestFix(
  fits: (mend: Mend) => boolean,
  signs: SignStates,
): { suspect: SuspectId; place: number; explains: number } | null {
  const seen = signsThat('present', signs)
  let best: { suspect: SuspectId; place: number; explains: number; score: number } | null = null
  for (const suspect of SUSPECT_IDS) {
    const { mends, signs: makes, prior } = suspectOf(suspect)
    const place = mends.findIndex(fits)
    if (place < 0) continue
    const explains = seen.reduce((sum, s) => sum + (makes[s] ? STRENGTH[makes[s]] : 0), 0)
    // what is common decides between suspects that explain as much; a first fix before a later one
    const score = explains + PRIOR[prior] - place / 1000
    if (!best || score > best.score) best = { suspect, place, explains, score }
  }
  return best
}

/** Whether a fix of the knowledge moves a setting as it was moved. */
function goesThatWay(mend: SettingMend, { key, from, to }: Moved): boolean {
  if (mend.key !== key) return false
  if (typeof from !== 'number' || typeof to !== 'number') return mend.to === undefined || mend.to === to
  const way = directionOfMend(mend)
  return way === 0 || way === Math.sign(to - from)
}

/** What was moved between two states of a recipe, outside a case: what somebody decided, before what only followed it. */
export function movedOutside(before: RecipeValues, now: RecipeValues): Moved[] {
  const all = differences(before, now).flatMap(({ key, from, to }): Moved[] =>
    from === undefined || to === undefined ? [] : [{ key, from, to }],
  )
  const decided = all.filter((m) => isPinned(now[m.key].source) || isPinned(before[m.key].source))
  return decided.length ? decided : all
}
