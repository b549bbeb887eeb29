import { cardOf, type FamilyId, type MaterialCard, type Range } from './cards'

export const FINISHES = [
  'plain',
  'silk',
  'matte',
  'filled',
  'clear',
  'glow',
  'wood',
  'metal',
  'fibre',
] as const
export type Finish = (typeof FINISHES)[number]

/** A diameter taken at one place of the roll: across, and across at a right angle where it was turned. mm. */
export interface DiameterReading {
  a: number
  b: number | null
}

/** One time in the dryer. */
export interface Drying {
  /** ISO date (yyyy-mm-dd). */
  on: string
  /** °C and hours; null where nobody wrote it down. */
  temperature: number | null
  hours: number | null
}

/** A roll on the shelf. Missing knowledge is null, never a guess. */
export interface Filament {
  name: string
  maker: string
  family: FamilyId
  finish: Finish
  /** Own colour, #rrggbb. */
  colour: string
  /** What the label prints; each may be missing. °C, °C, mm/s. */
  label: {
    nozzle: Range | null
    bed: Range | null
    speed: Range | null
    drying: { temperature: number; hours: number } | null
  }
  /** Nominal diameter, mm: 1.75 or 2.85. */
  diameter: number
  /** Measured diameters, one entry a place along the roll. */
  measured: DiameterReading[]
  /** Shore A hardness from the label; null for rigid plastic or unknown. */
  shore: number | null
  /** g of plastic when new, and what is left (null: not weighed). */
  rollWeight: number
  weightLeft: number | null
  /** g of the empty spool; null: not known. */
  spoolWeight: number | null
  /** What a full roll cost; null: not noted. */
  price: { amount: number; currency: string } | null
  /** ISO date (yyyy-mm-dd). */
  openedOn: string | null
  /** Oldest first. */
  dryings: Drying[]
  /** Contains fibre, glow or metal that wears a brass nozzle. */
  abrasive: boolean
  notes: string
}

export interface DiameterFacts {
  /** Diameter of the round filament with the same mean area, mm. */
  mean: number
  /** Largest minus smallest of the places, mm. */
  spread: number
  /** Largest difference between the two ways across at one place, mm; null when no place was turned. */
  ovality: number | null
  /** Standard uncertainty of the mean, mm; null for a single place. */
  uncertainty: number | null
  count: number
}

/** What a usual caliper resolves, mm. */
export const CALIPER_STEP = 0.01

/**
 * Mean, spread and ovality of measured diameters; null when none were taken. A place measured both ways counts
 * with the round diameter of its ellipse, √(a·b); the mean is taken over areas, since area is what is fed.
 * Uncertainty after JCGM 100 (GUM): scatter of the mean s/√n and reading resolution a/√12, in quadrature.
 */
export function diameterFacts(filament: Pick<Filament, 'measured'>): DiameterFacts | null {
  const round = filament.measured.map((d) => Math.sqrt(d.a * (d.b ?? d.a)))
  const n = round.length
  if (!n) return null
  const mean = Math.sqrt(round.reduce((sum, d) => sum + d * d, 0) / n)
  const turned = filament.measured.filter((d) => d.b !== null)
  const variance = n > 1 ? round.reduce((sum, d) => sum + (d - mean) ** 2, 0) / (n - 1) : 0
  return {
    mean,
    spread: Math.max(...round) - Math.min(...round),
    ovality: turned.length ? Math.max(...turned.map((d) => Math.abs(d.a - d.b!))) : null,
    uncertainty: n > 1 ? Math.sqrt(variance / n + CALIPER_STEP ** 2 / 12) : null,
    count: n,
  }
}

/** Whole days from an ISO date to `today`; null when the date is missing or in the future by more than a day. */
export function daysSince(date: string | null, today: string): number | null {
  if (!date) return null
  const days = Math.round((Date.parse(today) - Date.parse(date)) / 86_400_000)
  return Number.isFinite(days) && days >= 0 ? days : null
}

/** How a roll is to be dried: the label's word before the card's. */
export function dryingOf(filament: Pick<Filament, 'label' | 'family'>): MaterialCard['drying'] {
  const { drying } = cardOf(filament.family)
  return filament.label.drying ? { ...drying, ...filament.label.drying } : drying
}

/** Finishes whose filling wears a brass nozzle and clogs a fine one. Common practice, no source. */
export const wears = (f: Pick<Filament, 'abrasive' | 'finish'>): boolean =>
  f.abrasive || f.finish === 'glow' || f.finish === 'metal' || f.finish === 'fibre' || f.finish === 'filled'

/**
 * Whether a heat would ruin a roll: above the softening point its turns weld together. Common practice, no source.
 * @param temperature °C of the dryer
 */
export const ruinsRoll = (filament: Pick<Filament, 'family'>, temperature: number): boolean => {
  const { softening, drying, flexible } = cardOf(filament.family)
  return temperature > Math.max(flexible ? drying.temperature + 15 : softening - 2, drying.temperature)
}

/**
 * Hours a roll needs in a dryer that only reaches `temperature`: twice as long for each 10 °C missing, common practice,
 * no source.
 * @returns null where the dryer is too cold to count (more than 15 °C short)
 */
export function dryingHours(
  wanted: { temperature: number; hours: number },
  temperature: number,
): number | null {
  const short = wanted.temperature - temperature
  if (short > 15) return null
  return short <= 0 ? wanted.hours : wanted.hours * 2 ** (short / 10)
}

/** Whether a time in the dryer was hot and long enough; one without figures is taken at its word. */
export function dryingCounts(drying: Drying, wanted: { temperature: number; hours: number }): boolean {
  if (drying.temperature === null || drying.hours === null) return true
  const needed = dryingHours(wanted, drying.temperature)
  return needed !== null && drying.hours >= needed * 0.95
}

/** The last drying that counted; null when there was none. */
export function lastDried(filament: Pick<Filament, 'label' | 'family' | 'dryings'>): Drying | null {
  const wanted = dryingOf(filament)
  return filament.dryings
    .filter((d) => dryingCounts(d, wanted))
    .reduce<Drying | null>((last, d) => (!last || d.on >= last.on ? d : last), null)
}

export type Dryness = 'dry' | 'fine' | 'due' | 'unknown'
export type Care = Pick<Filament, 'label' | 'family' | 'openedOn' | 'dryings'>

/** Days since the roll was last known dry: dried, else opened; null when neither is known. */
export function daysInAir(filament: Care, today: string): number | null {
  return daysSince(lastDried(filament)?.on ?? null, today) ?? daysSince(filament.openedOn, today)
}

/** Whether a roll should be dried before its next print. */
export function dryness(filament: Care, today: string): Dryness {
  const drying = dryingOf(filament)
  const dried = lastDried(filament) !== null
  const since = daysInAir(filament, today)
  if (since === null) return filament.openedOn === null && !drying.hygroscopic ? 'fine' : 'unknown'
  // age counts for every family, slowly for those that take up little water
  if (since > drying.openDays) return 'due'
  return dried ? 'dry' : 'fine'
}

/** Whether what is left on a roll makes a part. */
export interface RollFit {
  needed: number
  left: number
  /** g that stay on the roll; negative: missing. */
  after: number
  /** `tight` when under 5 % of the need stays: scales and estimates err by that much. */
  fits: 'yes' | 'tight' | 'no' | 'unknown'
}

/** Holds a part's grams against what is left on a roll. */
export function rollFit(filament: Pick<Filament, 'weightLeft'>, needed: number): RollFit {
  const left = filament.weightLeft
  if (left === null) return { needed, left: NaN, after: NaN, fits: 'unknown' }
  const after = left - needed
  return { needed, left, after, fits: after < 0 ? 'no' : after < 0.05 * needed ? 'tight' : 'yes' }
}

/**
 * Where a roll runs out in a print.
 * @param fed mm of filament each layer takes, lowest first
 * @param left mm on the roll
 * @returns index of the layer it runs out in; null when it lasts
 */
export function runsOutAt(fed: readonly number[], left: number): number | null {
  let sum = 0
  for (let i = 0; i < fed.length; i++) {
    sum += fed[i]
    if (sum > left) return i
  }
  return null
}

/** What a part's plastic costs, in the roll's own currency; null without a price. */
export function partCost(
  filament: Pick<Filament, 'price' | 'rollWeight'>,
  grams: number,
): { amount: number; currency: string } | null {
  if (!filament.price) return null
  return {
    amount: (filament.price.amount * grams) / filament.rollWeight,
    currency: filament.price.currency,
  }
}
