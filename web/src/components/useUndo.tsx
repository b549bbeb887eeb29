import { useCallback } from 'react'
import { useNotice } from './useNotice'

/** Says what was done and offers to take it back. */
export function useUndo() {
  const tell = useNotice()
  return useCallback(
    (text: string, undo: () => void) =>
      tell({ key: `undo-${Date.now()}`, title: text, seconds: 12, action: { label: 'Undo', run: undo } }),
    [tell],
  )
}
