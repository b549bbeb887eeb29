import {
  createContext,
  useCallback,
  useContext,
  useLayoutEffect,
  useMemo,
  useState,
  type ReactNode,
} from 'react'
import { applyPalette, type Mode } from './theme'

const Context = createContext<{ mode: Mode; toggle: () => void }>({ mode: 'light', toggle: () => undefined })
const KEY = 'verimend.theme'

/** Light or dark: as chosen, else as the system has it. */
export function ModeProvider({ children }: { children: ReactNode }) {
  const [mode, setMode] = useState<Mode>(() => {
    const kept = localStorage.getItem(KEY)
    if (kept === 'light' || kept === 'dark') return kept
    return window.matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light'
  })
  useLayoutEffect(() => applyPalette(mode), [mode])
  const toggle = useCallback(
    () =>
      setMode((m) => {
        const next = m === 'dark' ? 'light' : 'dark'
        localStorage.setItem(KEY, next)
        return next
      }),
    [],
  )
  const value = useMemo(() => ({ mode, toggle }), [mode, toggle])
  return <Context value={value}>{children}</Context>
}

export const useMode = () => useContext(Context)
