import type { Range } from '../material/cards'
import type { Filament } from '../material/filament'
import { cardFor } from '../material/filling'
import type { FileDifference } from './againstFile'
import type { SettingKey } from './settings'

/** A value of a file that was hardly meant for this part or this roll. */
export interface Stray extends FileDifference {
  /** What the roll's label, or the card of its plastic, allows; left out where the value is odd by itself. */
  outside?: Range & { of: 'label' | 'card' }
}

/** How far off a roll's range a temperature still passes, °C: by its label, by the card of its plastic. Common practice, no source. */
const SLACK = { label: 5, card: 15 }
/** Odd by itself, but made on purpose as well. */
const ON_PURPOSE: ReadonlySet<SettingKey> = new Set(['raft'])
/** Makes another part of it, whatever else is wrong. */
const ANOTHER_PART: ReadonlySet<SettingKey> = new Set(['spiral', 'wallCount', 'topLayers', 'bottomLayers'])

/** Whether a print says little of its machine and its roll with such a value in its file. */
export const spoilsPrint = (s: Stray): boolean => s.outside !== undefined || ANOTHER_PART.has(s.key)

/** What a temperature of a roll may be, by what is printed on it, or by the card of its plastic. */
function rangeOf(key: SettingKey, filament: Filament): (Range & { of: 'label' | 'card' }) | null {
  const card = cardFor(filament)
  const { label } = filament
  if (key === 'nozzle' || key === 'nozzleFirst')
    return label.nozzle ? { ...label.nozzle, of: 'label' } : { ...card.nozzle, of: 'card' }
  if (key === 'bed' || key === 'bedFirst')
    // a cool bed may be meant; one far too hot is another plastic's
    return label.bed ? { min: 0, max: label.bed.max, of: 'label' } : { min: 0, max: card.bed.top, of: 'card' }
  return null
}

/** Differences of a file from the recipe that look left over from another job, or are another plastic's temperatures. */
export function straysIn(differences: readonly FileDifference[], filament: Filament): Stray[] {
  return differences.flatMap((d): Stray[] => {
    const range = rangeOf(d.key, filament)
    if (range && typeof d.file === 'number') {
      const slack = SLACK[range.of]
      // a heater that was never switched on is a reading of its own
      const off = d.file > range.max + slack || (d.file > 0 && d.file < range.min - slack)
      if (off) return [{ ...d, outside: range }]
    }
    return d.leftover && !ON_PURPOSE.has(d.key) ? [d] : []
  })
}
