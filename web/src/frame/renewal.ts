/** Least time between two looks, ms. */
const SELDOM = 60_000

/** The script that a page begins with: its name carries the fingerprint of the build. */
const entryOf = (page: Document): string | null =>
  page.querySelector('script[type="module"][src]')?.getAttribute('src') ?? null

let renewed = false
let looked = -Infinity
const listeners = new Set<() => void>()

/** Whether the server has another build of these pages by now. What this tab has not fetched yet may be gone then. */
export const renewal = {
  is: () => renewed,
  subscribe(listener: () => void) {
    listeners.add(listener)
    return () => void listeners.delete(listener)
  },
  /** Looks what the server has now. Where it cannot be asked, nothing is known. */
  async look(): Promise<void> {
    const own = entryOf(document)
    if (renewed || !own || performance.now() - looked < 2000) return
    looked = performance.now()
    try {
      const response = await fetch('/', { cache: 'no-store' })
      if (!response.ok) return
      const there = entryOf(new DOMParser().parseFromString(await response.text(), 'text/html'))
      if (!there || there === own) return
    } catch {
      return
    }
    renewed = true
    listeners.forEach((tell) => tell())
  },
  /** Looks whenever somebody comes back to the tab. */
  begin(): void {
    document.addEventListener('visibilitychange', () => {
      if (!document.hidden && performance.now() - looked > SELDOM) void renewal.look()
    })
  },
}
