/** A seeded stream of numbers in [0, 1): mulberry32, public domain. */
export function randomStream(seed: number): () => number {
  let a = seed >>> 0
  return () => {
    a = (a + 0x6d2b79f5) >>> 0
    let t = a
    t = Math.imul(t ^ (t >>> 15), t | 1)
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61)
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }
}

/** Standard normal numbers from a stream (Box & Muller 1958). */
export function normalStream(random: () => number): () => number {
  let spare: number | null = null
  return () => {
    if (spare !== null) {
      const v = spare
      spare = null
      return v
    }
    const r = Math.sqrt(-2 * Math.log(1 - random()))
    const a = 2 * Math.PI * random()
    spare = r * Math.sin(a)
    return r * Math.cos(a)
  }
}
