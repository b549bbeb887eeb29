/** Screens with the letter that follows g, and other keys. The key list and the search are made from this. */
export const SCREENS = [
  { path: '/', label: 'Bench', key: 'b' },
  { path: '/cases', label: 'Cases', key: 'c' },
  { path: '/recipes', label: 'Recipes', key: 'r' },
  { path: '/trials', label: 'Trials', key: 't' },
  { path: '/paths', label: 'Paths', key: 'p' },
  { path: '/shelf', label: 'Shelf', key: 's' },
  { path: '/machines', label: 'Machines', key: 'm' },
  { path: '/handbook', label: 'Handbook', key: 'h' },
] as const

export const OTHER_KEYS = [
  { keys: 'Ctrl K or ⌘ K', what: 'Search for a screen, case, roll, setting, sign or procedure' },
  { keys: 'n', what: 'New case' },
  { keys: '?', what: 'This list' },
  { keys: 'Esc', what: 'Close what is open' },
] as const

/** True while a key press belongs to a field. */
export function isTyping(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || /^(input|textarea|select)$/i.test(target.tagName))
  )
}
