const KEY = 'verimend.pair'

/** Which pair was chosen in this browser. */
export const chosenPair = {
  read: (): string | null => localStorage.getItem(KEY),
  keep: (id: string): void => localStorage.setItem(KEY, id),
}
