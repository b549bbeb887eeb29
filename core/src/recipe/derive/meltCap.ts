import { meltCap, type Machine } from '../../machine/machine'
import { cardOf } from '../../material/cards'
import type { Filament } from '../../material/filament'
import type { Source } from './values'

/**
 * How soft a roll is against its card: 1 as the card; less for softer, more for harder. Common practice, no source.
 * @param perPoint change for each point of hardness
 */
export function softness({ family, shore }: Pick<Filament, 'family' | 'shore'>, perPoint: number): number {
  const ofCard = cardOf(family).shore
  if (ofCard === null || shore === null) return 1
  return Math.min(1.3, Math.max(0.35, 1 + perPoint * (shore - ofCard)))
}

/** Change of the melt rate for each point of hardness. Common practice, no source. */
export const MELT_PER_POINT = 0.04

/** Melt rate a hot end usually reaches with a roll, mm³/s: before anything was measured or set. */
export const usualMeltCap = (machine: Machine, filament: Filament): number =>
  meltCap(cardOf(filament.family).meltRate, machine) * softness(filament, MELT_PER_POINT)

/** How far above the usual a melt rate that nobody measured is believed, times. Common practice, no source. */
const BELIEVED = 2.5

/** The melt rate speeds are held to, mm³/s: one that was set by hand or came with a file is believed up to 2.5 times the usual. */
export function believedMeltCap(
  machine: Machine,
  filament: Filament,
  { value, source }: { value: number; source: Source },
): number {
  if (source === 'measured' || source === 'mend') return value
  return Math.min(value, BELIEVED * usualMeltCap(machine, filament))
}
