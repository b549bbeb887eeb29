/**
 * The cividis ramp (Nuñez, Anderton, Renslow 2018), nine of its colours, straight in between: readable with
 * colour-blindness. Values from memory.
 */
const RAMP = [
  '#00224e',
  '#123570',
  '#3b496c',
  '#575d6d',
  '#707173',
  '#8a8678',
  '#a59c74',
  '#c3b369',
  '#fee838',
]

/** Colour at a share of the ramp, 0 to 1. */
export function cividis(share: number): string {
  const t = Math.min(1, Math.max(0, share)) * (RAMP.length - 1)
  const i = Math.min(RAMP.length - 2, Math.floor(t))
  const mix = (k: number) => {
    const a = parseInt(RAMP[i].slice(k, k + 2), 16)
    const b = parseInt(RAMP[i + 1].slice(k, k + 2), 16)
    return Math.round(a + (b - a) * (t - i))
  }
  return `rgb(${mix(1)} ${mix(3)} ${mix(5)})`
}
