import type { Machine } from '../machine/machine'
import type { Filament } from '../material/filament'
import { said } from '../quantity/reason'
import { deriveRecipe, inheritedIn, pinsOf, type RecipeValues } from './derive'
import { layOver, type Changes } from './edits'

/**
 * A pair's recipe with what is otherwise for a part, or as tried: everything that hangs on it is derived anew. Later changes
 * lie over earlier ones.
 */
export function recipeWith(
  { machine, filament, recipe }: { machine: Machine; filament: Filament; recipe: RecipeValues },
  ...changes: readonly Changes[]
): RecipeValues {
  const all = changes.reduce<Changes>((sum, c) => ({ ...sum, ...c }), {})
  if (!Object.keys(all).length) return recipe
  return deriveRecipe({
    machine,
    filament,
    relative: inheritedIn(recipe),
    pins: layOver(pinsOf(recipe), all, { source: 'hand', reason: said('') }),
  })
}
