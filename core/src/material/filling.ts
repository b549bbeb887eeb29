import { cardOf, type MaterialCard } from './cards'
import type { Filament, Finish } from './filament'

/** What a filling changes about the plain plastic. Common practice, no source. */
export interface Filling {
  /** °C more than the plain plastic needs. */
  hotter: number
  /** Times the plain plastic's speeds, retraction and shrink. */
  speed: number
  retraction: number
  shrink: number
}

const FILLINGS: Partial<Record<Finish, Filling>> = {
  // wood chars and swells in a hot nozzle, and a long retraction lets it settle into a plug
  wood: { hotter: -8, speed: 0.85, retraction: 1 / 3, shrink: 1 },
  glow: { hotter: 5, speed: 0.85, retraction: 1, shrink: 1 },
  filled: { hotter: 5, speed: 0.85, retraction: 1, shrink: 0.8 },
  metal: { hotter: 10, speed: 0.8, retraction: 1, shrink: 0.8 },
  // fibres hold the plastic in shape as it cools
  fibre: { hotter: 10, speed: 0.8, retraction: 1, shrink: 0.4 },
}
/** What fibres ask more of nylon than of other plastics, °C. Common practice, no source. */
const FIBRE_IN_NYLON = 5

/** What a roll is filled with; null where it is not. A flexible plastic's card already speaks of how it runs. */
export function fillingOf({ finish, family }: Pick<Filament, 'finish' | 'family'>): Filling | null {
  const filling = FILLINGS[finish]
  if (!filling) return null
  return finish === 'fibre' && family === 'pa'
    ? { ...filling, hotter: filling.hotter + FIBRE_IN_NYLON }
    : filling
}

/** The card of a roll's plastic as its filling changes it. */
export function cardFor(filament: Pick<Filament, 'finish' | 'family'>): MaterialCard {
  const card = cardOf(filament.family)
  const filling = fillingOf(filament)
  if (!filling) return card
  const { nozzle, speed, retraction } = card
  const slowed = (v: number) => Math.max(3, Math.round(v * filling.speed))
  return {
    ...card,
    nozzle: {
      min: nozzle.min + Math.max(0, filling.hotter),
      max: nozzle.max + filling.hotter,
      start: nozzle.start + filling.hotter,
    },
    speed: {
      ...speed,
      outer: slowed(speed.outer),
      inner: slowed(speed.inner),
      ...(speed.top !== undefined && { top: slowed(speed.top) }),
      ...(speed.bridge !== undefined && { bridge: slowed(speed.bridge) }),
    },
    retraction: {
      direct: retraction.direct * filling.retraction,
      tube: retraction.tube === null ? null : retraction.tube * filling.retraction,
    },
    shrink: card.shrink * filling.shrink,
  }
}
