/** Whether something long was ever at work: what shows it is sent for only then. */
let ever = false
const listeners = new Set<() => void>()

export const awake = {
  subscribe(listener: () => void) {
    listeners.add(listener)
    return () => void listeners.delete(listener)
  },
  ever: () => ever,
  wake() {
    if (ever) return
    ever = true
    listeners.forEach((tell) => tell())
  },
}
