import { createContext, useCallback, useContext, useMemo, useState, type ReactNode } from 'react'
import { usePairs } from '../api/queries'
import { chosenPair } from './chosenPair'

interface CurrentPair {
  /** The chosen pair; the one worked on last when none was chosen; null without any. */
  pairId: string | null
  choose: (id: string) => void
}
const Context = createContext<CurrentPair>({ pairId: null, choose: () => undefined })

/** Keeps the pair that every screen is read in. */
export function PairProvider({ children }: { children: ReactNode }) {
  const [chosen, setChosen] = useState<string | null>(chosenPair.read)
  const pairs = usePairs()
  const choose = useCallback((id: string) => {
    chosenPair.keep(id)
    setChosen(id)
  }, [])
  const known = pairs.data
  const pairId = known ? (known.find((p) => p.id === chosen)?.id ?? known[0]?.id ?? null) : chosen
  const value = useMemo(() => ({ pairId, choose }), [pairId, choose])
  return <Context value={value}>{children}</Context>
}

export const useCurrentPair = () => useContext(Context)
