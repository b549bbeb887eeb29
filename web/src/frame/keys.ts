/** Keys besides those that go to a screen. */
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
