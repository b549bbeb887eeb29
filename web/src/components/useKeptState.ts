import { useCallback, useState } from 'react'

/** What was kept under a key; the usual where nothing was, or nothing that can be read. */
function keptIn<T>(store: Storage, key: string, usual: T): T {
  try {
    const text = store.getItem(key)
    return text === null ? usual : (JSON.parse(text) as T)
  } catch {
    return usual
  }
}

const onThisDevice = (): Storage => localStorage
/** Where what is kept for as long as this tab lies. */
export const ofThisTab = (): Storage => sessionStorage

/**
 * State that outlives the page: what somebody typed or marked and has not handed in yet.
 * @param usual what stands there until something was kept
 * @param where it lies: on this device for good, or for as long as this tab
 * @returns the state, how to change it, and how to forget what was kept once it is handed in
 */
export function useKeptState<T>(
  key: string,
  usual: T,
  where: () => Storage = onThisDevice,
): [T, (next: T | ((before: T) => T)) => void, () => void] {
  const [state, setState] = useState(() => keptIn(where(), key, usual))
  const keep = useCallback(
    (next: T | ((before: T) => T)) =>
      setState((before) => {
        const value = typeof next === 'function' ? (next as (before: T) => T)(before) : next
        try {
          where().setItem(key, JSON.stringify(value))
        } catch {
          // a browser without room keeps it in the page only
        }
        return value
      }),
    [key, where],
  )
  const forget = useCallback(() => where().removeItem(key), [key, where])
  return [state, keep, forget]
}
