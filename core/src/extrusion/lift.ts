import type { MaterialCard } from '../material/cards'

/** Longest side a bare card speaks of, mm: a part that fits the hand. */
const USUAL_LENGTH = 80
/** PLA's shrink, %, and stiffness, GPa: what others are measured against. */
const PLA = 0.3 * 3.3

/**
 * How hard a part pulls at its corners, as times of an 80 mm part of PLA in a room: shrink × stiffness × length, less
 * in warm air. Shrink is the card's (it includes crystallising), not the thermal strain alone; a free end moves by
 * strain × length. From memory; common practice for the order of the families.
 * @param air °C round the part
 * @param longest mm, the part's longest side; null where it is not known
 */
export function shrinkPull(
  card: Pick<MaterialCard, 'shrink' | 'stiffness' | 'softening'>,
  air: number,
  longest: number | null,
): number {
  // what shrinks after the part has left the warm air pulls no more
  const left = Math.max(0.2, Math.min(1, (card.softening - air) / Math.max(1, card.softening - 25)))
  return ((card.shrink * card.stiffness) / PLA) * ((longest ?? USUAL_LENGTH) / USUAL_LENGTH) * left
}
