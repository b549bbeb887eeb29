import { usePair } from '../api/queries'
import { Empty, Loaded } from '../components/states'
import { useCurrentPair } from '../pairs/PairContext'
import { ImportButton } from './ImportButton'
import { Recipe } from './Recipe'

/** The recipe of the current pair. */
export default function RecipeScreen() {
  const { pairId } = useCurrentPair()
  const pair = usePair(pairId)
  if (!pairId)
    return (
      <Empty action={<ImportButton />}>
        Choose a pair above: its recipe is derived at once. Or take a recipe file in.
      </Empty>
    )
  return <Loaded query={pair}>{(p) => <Recipe key={p.id} pair={p} />}</Loaded>
}
