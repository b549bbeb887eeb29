import { useMutation, useQueryClient } from '@tanstack/react-query'
import type { PairDetail, RecipeVersion } from '@verimend/contract'
import { api, type RecipeEdits } from '../api/client'
import { ApiProblem } from '../api/http'
import { changed } from '../api/keys'
import { useUndo } from '../components/useUndo'

/**
 * Keeps changes of a recipe as a version, and goes back to older ones.
 * @param drop forgets what was typed, on the version that stands now
 */
export function useKeep(pair: PairDetail, drop: (base: number) => void) {
  const client = useQueryClient()
  const undo = useUndo()
  const refresh = () => changed.recipe(client, pair.id)
  const saved = (version: RecipeVersion, text: string, before: number) => {
    drop(version.number)
    void refresh()
    undo(text, () => {
      void api.pairs.restore(pair.id, version.number, before).then((v) => {
        drop(v.number)
        return refresh()
      })
    })
  }
  const save = useMutation({
    mutationFn: (edits: RecipeEdits) => api.pairs.change(pair.id, edits),
    onSuccess: (v) => saved(v, `Version ${v.number} is kept.`, pair.current),
  })
  const goBack = useMutation({
    mutationFn: (number: number) => api.pairs.restore(pair.id, pair.current, number),
    onSuccess: (v, number) => saved(v, `Version ${number} is back, as version ${v.number}.`, pair.current),
  })
  /** The version somebody else kept meanwhile. */
  const conflict =
    save.error instanceof ApiProblem && save.error.problem.status === 409
      ? (save.error.problem.current as RecipeVersion)
      : null
  return { save, goBack, conflict, refresh }
}
