import { GRADES, type Grade } from '@verimend/core/recipe'
import { useSearchParams } from 'react-router'

/** What of a recipe is shown; kept in the address. */
export interface RecipeView {
  /** What settings are looked for. */
  find: string
  /** What it is held against: "start", "v" and a version, "p" and a pair; empty for nothing. */
  against: string
  grade: Grade
}

export function useRecipeView(): [RecipeView, (change: Partial<RecipeView>) => void] {
  const [params, setParams] = useSearchParams()
  const change = (next: Partial<RecipeView>) =>
    setParams(
      (old) => {
        const now = new URLSearchParams(old)
        for (const [name, value] of Object.entries(next))
          if (value && value !== 'standard') now.set(name, value)
          else now.delete(name)
        return now
      },
      { replace: true },
    )
  return [
    {
      find: params.get('find') ?? '',
      against: params.get('against') ?? '',
      grade: GRADES.find((g) => g === params.get('grade')) ?? 'standard',
    },
    change,
  ]
}
