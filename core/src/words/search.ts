import { settingOf, type SettingKey } from '../recipe/settings'

/** Whether a text holds every word that is looked for, in any order. */
export function holdsWords(text: string, wanted: string): boolean {
  const low = text.toLowerCase()
  return wanted
    .toLowerCase()
    .split(/\s+/)
    .every((w) => low.includes(w))
}

/** What a setting is found by: its label, what it is, its key, and the trade's other words for it. */
export function settingSearchText(key: SettingKey): string {
  const { label, what, aka = [] } = settingOf(key)
  return [label, what, key, ...aka].join(' · ')
}

/** Whether a setting is meant by some words. */
export const settingMatches = (key: SettingKey, wanted: string): boolean =>
  holdsWords(settingSearchText(key), wanted)
