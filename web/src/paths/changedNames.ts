import type { SettingChange } from '@verimend/core/recipe'
import { settingLabel } from '@verimend/core/words'

/** A name that says what was changed. */
export function changedName(name: string, what: readonly string[]): string {
  const at = name.lastIndexOf('.')
  const [stem, end] = at > 0 ? [name.slice(0, at), name.slice(at)] : [name, '.gcode']
  return `${stem.slice(0, 120)} - ${what
    .slice(0, 2)
    .join(', ')
    .replace(/[^\p{L}\p{N} .,-]/gu, '')}${end}`
}

/** A setting as it is now, and as it was and is. */
export const settingNow = ({ key, to }: SettingChange) =>
  `${settingLabel(key)} ${to === true ? 'on' : to === false ? 'off' : to}`
export const settingThen = ({ key, from, to }: SettingChange) =>
  `${settingLabel(key)}${from === undefined ? '' : ` ${from}`} -> ${to}`

/** What was changed, for the head of the file. */
export const remarkOf = (name: string, what: readonly string[], version: number) =>
  `Verimend changed ${what.join(', ')} in ${name} (recipe version ${version}). All else is as it was.`
