import { useEffect } from 'react'
import { useParams } from 'react-router'
import { useCase, usePair } from '../api/queries'
import { Loaded } from '../components/states'
import { useCurrentPair } from '../pairs/PairContext'
import { CaseHead } from './CaseHead'
import { Notebook } from './Notebook'

/** A case at its address; the strip follows it to its pair. */
export default function CaseScreen() {
  const { id = '' } = useParams()
  const query = useCase(id)
  const { pairId, choose } = useCurrentPair()
  const own = query.data?.pairId
  const pair = usePair(own)
  useEffect(() => {
    if (own && own !== pairId) choose(own)
  }, [own, pairId, choose])
  return (
    <Loaded query={query}>
      {(c) => (
        <>
          <CaseHead key={c.id} kase={c} />
          <Loaded query={pair}>{(p) => <Notebook key={c.id} kase={c} pair={p} />}</Loaded>
        </>
      )}
    </Loaded>
  )
}
