import type { FamilyId, Range } from './cards'
import type { Finish } from './filament'

/** What could be read off a roll's label. */
export interface LabelReading {
  nozzle: Range | null
  bed: Range | null
  speed: Range | null
  drying: { temperature: number; hours: number } | null
  diameter: number | null
  /** g */
  rollWeight: number | null
  family: FamilyId | null
  finish: Finish | null
  /** Shore A */
  shore: number | null
  /** Says that it wears a brass nozzle, by its filling or in so many words; null where it says nothing. */
  abrasive: true | null
}

/** Names of the plastics as labels print them; the first that fits counts. */
const FAMILY_WORDS: readonly [RegExp, FamilyId][] = [
  [/\bsilk\b.*\bpla\b|\bpla\b.*\bsilk\b/is, 'pla-silk'],
  [/\bpet-?g/i, 'petg'],
  [/\bpeba\b/i, 'peba'],
  [/\btp[ue]\b|\bthermoplastic (poly)?urethane\b/i, 'tpu-95a'],
  [/\bpla\b|\bpla[+-]/i, 'pla'],
  [/\babs\b|\babs[+-]/i, 'abs'],
  [/\basa\b|\basa[+-]/i, 'asa'],
  [/\bpva\b/i, 'pva'],
  [/\bhips\b/i, 'hips'],
  [/\bpa(?:-?\d{1,3}|ht)?(?:[- ]?[cg]f\d*)?\b|\bnylon\b|\bpolyamide\b/i, 'pa'],
  [/\bpc\b|\bpc[+-]|\bpolycarbonate\b/i, 'pc'],
  [/\bpp\b|\bpolypropylene\b/i, 'pp'],
  [/\bpet\b|\bpet-/i, 'pet'],
]
const FINISH_WORDS: readonly [RegExp, Finish][] = [
  [
    /[- ][cg]f\d{0,2}\b|\b(?:carbon|aramid|basalt)\b|\bglass[- ]?(?:fib|fill|reinf)|\bfib(?:re|er)s?\b/i,
    'fibre',
  ],
  [/\bglow|\bin the dark\b|luminous/i, 'glow'],
  [/\bwood|\bcork\b|\bbamboo\b/i, 'wood'],
  [/\b(?:bronze|copper|brass|steel|iron|metal)(?:[- ]?(?:filled|fill))\b|\bmetal powder\b/i, 'metal'],
  [/\b(?:stone|marble|ceramic|mineral)[- ]?fill(?:ed)?\b|\bfilled\b/i, 'filled'],
  [/\bsilk\b/i, 'silk'],
  [/\bmatt?e?\b/i, 'matte'],
  [/\bclear\b|\btransparent\b|\btranslucent\b/i, 'clear'],
]
const WEARS = /harden|wear[- ]resist|ruby[- ](?:nozzle|tip)|abrasi|steel nozzle/i
const COLOURS =
  'black|white|gr[ea]y|blue|green|brown|red|yellow|orange|purple|violet|pink|beige|silver|gold|turquoise|teal|navy'
/** Materials that are named for their colour, and what is printed behind the word colour: "carbon black", "colour: bamboo". */
const NAMES_A_COLOUR = new RegExp(
  `\\b(?:carbon|basalt|wood|cork|bamboo|ruby|stone|marble|glow|metal)[- ](?:${COLOURS})\\b|\\bcolou?rs?\\s*[:=]?\\s*[^,;\\n]*`,
  'gi',
)
const wordIn = <T>(text: string, words: readonly [RegExp, T][]): T | null =>
  words.find(([is]) => is.test(text))?.[1] ?? null

const SPAN =
  /(\d{1,3}(?:[.,]\d+)?)\s*(?:-|–|—|~|to|\.\.)\s*(\d{1,3}(?:[.,]\d+)?)\s*(mm\/s|°?\s*[cf]\b|º\s*[cf]\b|°)?/gi
const number = (text: string) => Number(text.replace(',', '.'))
const celsius = (value: number, unit: string) =>
  /f/i.test(unit) ? Math.round(((value - 32) * 5) / 9) : value
const lastOf = (text: string, words: RegExp) => {
  let at = -1
  for (const m of text.matchAll(words)) at = m.index
  return at
}

/**
 * Reads the ranges a maker prints on a roll from one or more typed lines, such as
 * "Nozzle 195–225 °C, bed 50-60 °C, 40–80 mm/s, dry 50 °C 6 h". The word before a range decides what it is;
 * without one, heats from 150 °C up are the nozzle's and lower ones the bed's. The plastic's name, what it is filled
 * with and its hardness are read where they stand. Nothing is guessed: what is not there stays null. °F is turned
 * into °C.
 */
export function readLabel(text: string): LabelReading {
  const out: LabelReading = {
    nozzle: null,
    bed: null,
    speed: null,
    drying: null,
    diameter: null,
    rollWeight: null,
    family: null,
    finish: null,
    shore: null,
    abrasive: null,
  }
  const clean = text.slice(0, 2000)
  let from = 0
  for (const m of clean.matchAll(SPAN)) {
    const unit = m[3] ?? ''
    const before = clean.slice(from, m.index)
    from = m.index + m[0].length
    const low = Math.min(number(m[1]), number(m[2]))
    const high = Math.max(number(m[1]), number(m[2]))
    const asks = [
      ['drying', lastOf(before, /dry|oven/gi)],
      ['speed', Math.max(lastOf(before, /speed/gi), /mm\/s/i.test(unit) ? 10_000 : -1)],
      ['bed', lastOf(before, /bed|plate|base/gi)],
      ['nozzle', lastOf(before, /nozzle|print|extru|hot|temp/gi)],
    ] as const
    const named = asks.reduce((best, a) => (a[1] > best[1] ? a : best), ['', -1] as readonly [
      string,
      number,
    ])[0]
    if (named === 'speed') {
      if (low > 0 && high <= 1000) out.speed ??= { min: low, max: high }
      continue
    }
    if (named === 'drying') continue
    const min = celsius(low, unit)
    const max = celsius(high, unit)
    if (min >= 150 && max <= 400 && named !== 'bed') out.nozzle ??= { min, max }
    else if (max <= 160 && (named === 'bed' || (named !== 'nozzle' && /c|f|°|º/i.test(unit))))
      out.bed ??= { min, max }
  }
  // a single heat is the bed's where the word says so
  const bed = /(?:bed|plate)\D{0,12}?(\d{2,3})(?![\d.,]|\s*(?:-|–|—|~|to\b|mm|g\b))\s*[°º]?\s*([cf])?/i.exec(
    clean,
  )
  if (bed && !out.bed) {
    const heat = celsius(number(bed[1]), bed[2] ?? '')
    if (heat >= 20 && heat <= 160) out.bed = { min: heat, max: heat }
  }
  const dry =
    /dry\D{0,20}(\d{2,3})\s*[°º]?\s*([cf])?\D{0,12}?(\d{1,2}(?:[.,]\d)?)\s*(?:-\s*\d{1,2}\s*)?h/i.exec(clean)
  if (dry) out.drying = { temperature: celsius(number(dry[1]), dry[2] ?? ''), hours: number(dry[3]) }
  const across = /(?:ø|Ø|dia\w*)?\s*(1[.,]75|2[.,]85|3[.,]0+)\s*mm/i.exec(clean)
  if (across) out.diameter = number(across[1])
  const kilo = /(\d(?:[.,]\d+)?)\s*kg\b/i.exec(clean)
  const gram = /(\d{3,4})\s*g\b/i.exec(clean)
  if (kilo) out.rollWeight = Math.round(number(kilo[1]) * 1000)
  else if (gram) out.rollWeight = number(gram[1])
  const hardness = /\b(?:shore\s*)?(\d{2})\s*a\b/i.exec(clean)
  if (hardness && Number(hardness[1]) >= 50) out.shore = Number(hardness[1])
  out.family = wordIn(clean, FAMILY_WORDS)
  if (out.family === 'tpu-95a' && out.shore !== null && out.shore <= 90) out.family = 'tpu-85a'
  out.finish = wordIn(clean.replace(NAMES_A_COLOUR, ' '), FINISH_WORDS)
  if (WEARS.test(clean) || out.finish === 'fibre' || out.finish === 'glow' || out.finish === 'metal')
    out.abrasive = true
  return out
}

/** Fields of a roll that a label filled in: what stood there before, and what was read. */
export type FilledIn = Partial<Record<keyof LabelReading, { was: unknown; read: unknown }>>

/**
 * Lays a label's reading over the fields of a roll. What an earlier label filled in and this one does not speak of goes back to
 * what it was, unless somebody changed it since.
 * @param now the fields as they stand
 * @param filled what the label before filled in
 * @returns the fields that change, and what is filled in now
 */
export function overlayLabel(
  now: Readonly<Record<keyof LabelReading, unknown>>,
  filled: FilledIn,
  reading: LabelReading,
): { changes: Partial<Record<keyof LabelReading, unknown>>; filled: FilledIn } {
  const changes: Partial<Record<keyof LabelReading, unknown>> = {}
  const next: FilledIn = {}
  for (const key of Object.keys(reading) as (keyof LabelReading)[]) {
    const before = filled[key]
    const untouched = before !== undefined && same(before.read, now[key])
    if (reading[key] !== null) {
      changes[key] = reading[key]
      next[key] = { was: untouched ? before.was : now[key], read: reading[key] }
    } else if (untouched) changes[key] = before.was
  }
  return { changes, filled: next }
}
const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b)
