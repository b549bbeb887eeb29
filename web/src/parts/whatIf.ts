import {
  isSettingKey,
  settingOf,
  type Changes,
  type SettingKey,
  type SettingValue,
} from '@verimend/core/recipe'

/** A change of a recipe as a word in an address: `brimLines:8,wipe:0.4`. */
export const changesText = (changes: Changes): string =>
  Object.entries(changes)
    .map(([key, value]) => `${key}:${String(value)}`)
    .join(',')

/** Reads changes from an address; what is none is passed over. */
export function changesFrom(text: string | null): Changes {
  const out: Partial<Record<SettingKey, SettingValue>> = {}
  for (const part of (text ?? '').split(',')) {
    const [key, word = ''] = part.split(':')
    if (!isSettingKey(key) || !word) continue
    const s = settingOf(key)
    if (s.kind === 'number') {
      const v = Number(word)
      if (Number.isFinite(v)) out[key] = Math.min(s.max, Math.max(s.min, v))
    } else if (s.kind === 'switch') out[key] = word === 'true'
    else if (s.choices.some((c) => c.value === word)) out[key] = word
  }
  return out as Changes
}

/** Address at which a change is seen on a part. */
export const seenOnPart = (partId: string, changes: Changes): string =>
  `/parts/${partId}?change=${encodeURIComponent(changesText(changes))}`
