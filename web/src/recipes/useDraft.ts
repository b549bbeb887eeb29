import type { PairDetail } from '@verimend/contract'
import { caseReason } from '@verimend/core/casework'
import { said } from '@verimend/core/quantity'
import {
  GRADES,
  editRecipe,
  faultOf,
  isPinned,
  keysOf,
  machineLimit,
  type Changes,
  type Grade,
  type GradedRecipe,
  type RecipeEdit,
  type SettingKey,
  type SettingValue,
} from '@verimend/core/recipe'
import { say } from '@verimend/core/words'
import { useCallback, useDeferredValue, useEffect, useMemo, useState } from 'react'

/** Changes that are not kept yet: by grade, with the ± of those that were measured. */
export interface Draft {
  base: number
  edits: Record<Grade, Changes>
  measured: NonNullable<RecipeEdit['measured']>
  reason: string
}
const blank = (base: number): Draft => ({
  base,
  edits: { fine: {}, standard: {}, coarse: {} },
  measured: {},
  reason: '',
})
const storeKey = (pairId: string) => `draft.recipe.${pairId}`

function kept(pairId: string, current: number): Draft {
  try {
    const draft = JSON.parse(sessionStorage.getItem(storeKey(pairId)) ?? 'null') as Draft | null
    if (draft?.edits?.standard) return draft
  } catch {
    sessionStorage.removeItem(storeKey(pairId))
  }
  return blank(current)
}

export const isDirty = (d: Draft) => GRADES.some((g) => keysOf(d.edits[g]).length > 0)

/** What a typed value changes; what cannot be used is left out until it can. */
const usable = (edits: Changes): Changes =>
  Object.fromEntries(
    keysOf(edits).flatMap((k) => {
      const value = edits[k]
      return value === null || (value !== undefined && !faultOf(k, value)) ? [[k, value]] : []
    }),
  ) as Changes

/** The edit that a draft comes to; the server lays the same one over the recipe when it is kept. */
const editOf = ({ edits, measured, reason }: Draft): RecipeEdit => ({
  set: usable(edits.standard),
  variants: { fine: usable(edits.fine), coarse: usable(edits.coarse) },
  measured,
  source: 'hand',
  reason: reason ? said(reason) : caseReason(keysOf(measured).length ? 'measured-by-hand' : 'set-by-hand'),
})

/** The draft of a pair's recipe and the whole recipe as it would be with it; outlives a reload. */
export function useDraft(pair: PairDetail) {
  const { id, current: number } = pair
  const [draft, setDraft] = useState(() => kept(id, number))
  const dirty = isDirty(draft)
  useEffect(() => {
    if (dirty || draft.reason) sessionStorage.setItem(storeKey(id), JSON.stringify(draft))
    else sessionStorage.removeItem(storeKey(id))
  }, [draft, dirty, id])
  const current: GradedRecipe = useMemo(
    () => ({ values: pair.version.values, variants: pair.version.variants }),
    [pair.version.values, pair.version.variants],
  )
  const { machine } = pair.machine
  const { filament } = pair.filament
  const late = useDeferredValue(draft) // typing goes first
  const live = useMemo(
    () => (isDirty(late) ? editRecipe(current, { machine, filament }, editOf(late)) : current),
    [current, late, machine, filament],
  )
  const edit = useCallback(
    (grade: Grade, changes: Changes) => setDraft((d) => edited(d, current, number, grade, changes)),
    [current, number],
  )
  const measure = useCallback(
    (key: SettingKey, value: SettingValue, plusMinus: number | null) =>
      setDraft((d) => {
        const { [key]: _, ...others } = d.measured
        return {
          ...d,
          base: isDirty(d) ? d.base : number,
          edits: { ...d.edits, standard: { ...d.edits.standard, [key]: value } },
          measured: plusMinus === null ? others : { ...others, [key]: plusMinus },
        }
      }),
    [number],
  )
  const drop = useCallback(
    (base: number) => {
      sessionStorage.removeItem(storeKey(id))
      setDraft(blank(base))
    },
    [id],
  )
  return {
    draft,
    dirty,
    /** As it is kept. */
    current,
    /** As it would be with the draft. */
    live,
    edit,
    measure,
    setReason: (reason: string) => setDraft((d) => ({ ...d, reason })),
    rebase: (base: number) => setDraft((d) => ({ ...d, base })),
    drop,
  }
}

/** A draft with changes laid over; what stands already is no change. */
function edited(d: Draft, current: GradedRecipe, number: number, grade: Grade, changes: Changes): Draft {
  const own: Record<string, unknown> = { ...d.edits[grade] }
  const measured = { ...d.measured }
  for (const key of keysOf(changes)) {
    const value = changes[key]
    const variant = grade === 'standard' ? null : current.variants[grade]
    const stands = variant?.values[key] ?? current.values[key]
    const pinned = variant ? variant.pins[key] !== undefined : isPinned(stands.source)
    if (value === stands.value || (value === null && !pinned)) {
      delete own[key]
      delete measured[key]
    } else own[key] = value
  }
  return {
    ...d,
    base: isDirty(d) ? d.base : number,
    edits: { ...d.edits, [grade]: own as Changes },
    measured,
  }
}

/** What is wrong with a typed value, if anything: the registry's bounds, then the machine's. */
export function editFault(
  key: SettingKey,
  value: SettingValue | null | undefined,
  machine: PairDetail['machine']['machine'],
): string | null {
  if (value === null || value === undefined) return null
  const fault = faultOf(key, value)
  if (fault) return say(fault)
  const limit = machineLimit(key, machine)
  return typeof value === 'number' && limit !== undefined && value > limit
    ? `This machine goes up to ${limit}.`
    : null
}
