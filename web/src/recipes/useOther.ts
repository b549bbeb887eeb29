import type { PairDetail } from '@verimend/contract'
import { deriveGraded, valuesOf, type Grade, type RecipeValues } from '@verimend/core/recipe'
import { useMemo } from 'react'
import { usePair, useVersion } from '../api/queries'

/** What a recipe is held against. */
export interface Other {
  label: string
  values: RecipeValues
}

/** What a recipe can be held against: the derived start, a version, another pair. */
export function useOther(pair: PairDetail, against: string, grade: Grade): Other | null {
  const number = against.startsWith('v') ? Number(against.slice(1)) : null
  const pairId = against.startsWith('p') ? against.slice(1) : null
  const version = useVersion(pair.id, number).data
  const other = usePair(pairId).data
  const { machine } = pair.machine
  const { filament } = pair.filament
  return useMemo(() => {
    if (against === 'start')
      return { label: 'Derived start', values: valuesOf(deriveGraded({ machine, filament }), grade) }
    if (number !== null && version) return { label: `Version ${number}`, values: valuesOf(version, grade) }
    if (pairId && other)
      return {
        label: `${other.filament.filament.name}, ${other.machine.machine.name}`,
        values: valuesOf(other.version, grade),
      }
    return null
  }, [against, number, pairId, version, other, grade, machine, filament])
}
