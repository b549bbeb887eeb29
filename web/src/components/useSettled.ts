import { useEffect, useState } from 'react'

/** A value that somebody is typing, once it has not changed for a while. */
export function useSettled<T>(value: T, milliseconds: number): T {
  const [settled, setSettled] = useState(value)
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), milliseconds)
    return () => clearTimeout(timer)
  }, [value, milliseconds])
  return settled
}
