import {
  deriveGraded,
  faultOf,
  inheritedIn,
  machineLimit,
  pinsOf,
  type Grade,
  type GradedRecipe,
  type Pins,
  type SettingKey,
  type SettingValue,
} from '@verimend/core'
import type { PairDetail } from '@verimend/contract'
import { useDeferredValue, useEffect, useMemo, useState } from 'react'
import type { Edits } from '../api/client'

/** Changes that are not kept yet: by grade, with the ± of those that were measured. */
export interface Draft {
  base: number
  edits: Record<Grade, Edits>
  measured: Partial<Record<SettingKey, number>>
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

export const isDirty = (d: Draft) => Object.values(d.edits).some((e) => Object.keys(e).length > 0)

const laid = (pins: Pins, edits: Edits, draft: Draft): Pins => {
  const out = { ...pins }
  for (const [key, value] of Object.entries(edits) as [SettingKey, SettingValue | null][]) {
    const pm = draft.measured[key]
    if (value === null) delete out[key]
    else if (!faultOf(key, value))
      out[key] = {
        value,
        source: pm === undefined ? 'hand' : 'measured',
        words: draft.reason || (pm === undefined ? 'Set by hand.' : 'Measured by hand.'),
        ...(pm !== undefined && { plusMinus: pm }),
      }
  }
  return out
}

/** The draft of a pair's recipe and the whole recipe as it would be with it; outlives a reload. */
export function useDraft(pair: PairDetail) {
  const [draft, setDraft] = useState(() => kept(pair.id, pair.current))
  const dirty = isDirty(draft)
  useEffect(() => {
    if (dirty || draft.reason) sessionStorage.setItem(storeKey(pair.id), JSON.stringify(draft))
    else sessionStorage.removeItem(storeKey(pair.id))
  }, [draft, dirty, pair.id])
  const current: GradedRecipe = useMemo(
    () => ({ values: pair.version.values, variants: pair.version.variants }),
    [pair.version.values, pair.version.variants],
  )
  const { machine } = pair.machine
  const { filament } = pair.filament
  const late = useDeferredValue(draft) // typing goes first
  const live = useMemo(
    () =>
      isDirty(late)
        ? deriveGraded({
            machine,
            filament,
            relative: inheritedIn(current.values),
            pins: laid(pinsOf(current.values), late.edits.standard, late),
            variantPins: {
              fine: laid(current.variants.fine.pins, late.edits.fine, late),
              coarse: laid(current.variants.coarse.pins, late.edits.coarse, late),
            },
          })
        : current,
    [current, late, machine, filament],
  )
  const edit = (grade: Grade, changes: Edits) =>
    setDraft((d) => {
      const own = { ...d.edits[grade] }
      const measured = { ...d.measured }
      for (const [key, value] of Object.entries(changes) as [SettingKey, SettingValue | null][]) {
        const was = grade === 'standard' ? current.values[key] : current.variants[grade].values[key]
        const stands = was ?? current.values[key]
        const pinned =
          grade === 'standard'
            ? ['hand', 'mend', 'measured'].includes(stands.source)
            : !!current.variants[grade].pins[key]
        if (value === stands.value || (value === null && !pinned)) {
          delete own[key]
          delete measured[key]
        } else own[key] = value
      }
      return {
        ...d,
        base: isDirty(d) ? d.base : pair.current,
        edits: { ...d.edits, [grade]: own },
        measured,
      }
    })
  const measure = (key: SettingKey, value: SettingValue, plusMinus: number | null) =>
    setDraft((d) => {
      const measured = { ...d.measured }
      if (plusMinus === null) delete measured[key]
      else measured[key] = plusMinus
      return {
        ...d,
        base: isDirty(d) ? d.base : pair.current,
        edits: { ...d.edits, standard: { ...d.edits.standard, [key]: value } },
        measured,
      }
    })
  return {
    draft,
    dirty,
    current,
    live,
    edit,
    measure,
    setReason: (reason: string) => setDraft((d) => ({ ...d, reason })),
    rebase: (base: number) => setDraft((d) => ({ ...d, base })),
    drop: (base = pair.current) => {
      sessionStorage.removeItem(storeKey(pair.id))
      setDraft(blank(base))
    },
  }
}

/** What is wrong with a typed value, if anything: the registry's bounds, then the machine's. */
export function editFault(
  key: SettingKey,
  value: SettingValue | null | undefined,
  machine: PairDetail['machine']['machine'],
): string | null {
  if (value === null || value === undefined) return null
  const limit = machineLimit(key, machine)
  return (
    faultOf(key, value) ??
    (typeof value === 'number' && limit !== undefined && value > limit
      ? `This machine goes up to ${limit}.`
      : null)
  )
}
