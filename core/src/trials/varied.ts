import { digitsOf, isNumberKey, roundTo, settingOf } from '../recipe/settings'
import type { DRAWN_KEYS, VariedKey } from './types'

/** What a stepped value is called and counted in. */
export interface Varied {
  label: string
  unit: string
  digits: number
}

const DRAWN: Record<(typeof DRAWN_KEYS)[number], Varied> = {
  meltRate: { label: 'Feed rate', unit: 'mm³/s', digits: 1 },
  gap: { label: 'Gap', unit: 'mm', digits: 2 },
  span: { label: 'Gap bridged', unit: 'mm', digits: 0 },
  length: { label: 'Length', unit: 'mm', digits: 1 },
  posts: { label: 'Columns', unit: 'at a time', digits: 0 },
}

/** What a stepped value is called and counted in: as its setting, or as the drawn size it is. */
export function variedOf(key: VariedKey): Varied {
  if (!isNumberKey(key)) return DRAWN[key]
  const s = settingOf(key)
  return { label: s.label, unit: s.unit, digits: digitsOf(s) }
}

/** A value rounded as its setting is, or to two digits where it is no setting. */
export const roundVaried = (key: VariedKey, value: number): number =>
  isNumberKey(key) ? roundTo(settingOf(key), value) : Number(value.toFixed(2))
