import { usePair } from '../api/queries'
import { Empty, Loaded } from '../components/states'
import { useCurrentPair } from '../pairs/PairContext'
import { Recipe } from './Recipe'
import { useRecipeFile } from './useRecipeFile'

/** The recipe of the current pair. */
export default function RecipeScreen() {
  const { pairId } = useCurrentPair()
  const pair = usePair(pairId)
  const file = useRecipeFile()
  return (
    <>
      {file.dialog}
      {pairId ? (
        <Loaded query={pair}>{(p) => <Recipe key={p.id} pair={p} takeIn={file.button} />}</Loaded>
      ) : (
        <Empty action={file.button}>
          Choose a pair above: its recipe is derived at once. Or take a recipe file in.
        </Empty>
      )}
    </>
  )
}
