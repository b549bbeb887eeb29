import { useState } from 'react'

/**
 * A text that is saved when its field is left. Until somebody types, the field shows what is kept, also when that changes in another
 * window meanwhile; leaving a field that nobody typed in saves nothing.
 * @returns what the field shows, what to do as it changes, and what to do when it is left
 */
export function useTyped(
  kept: string,
  onSave: (text: string) => void,
): [string, (text: string) => void, () => void] {
  const [typed, setTyped] = useState<string | null>(null)
  // once it is kept, or is what was kept anyway, the field follows again; what could not be saved stays in it
  if (typed !== null && typed === kept) setTyped(null)
  const leave = () => {
    if (typed !== null && typed !== kept) onSave(typed)
  }
  return [typed ?? kept, setTyped, leave]
}
