import type { Machine } from '../machine/machine'
import type { ValuesOnly } from './derive'
import type { Changes } from './edits'
import { settingOf, type SettingKey } from './settings'

/** Whether a setting matters with the others as they are, and on this machine where one is given. */
export function settingApplies(
  key: SettingKey,
  values: ValuesOnly,
  machine?: Pick<Machine, 'limits'>,
): boolean {
  const rule = machine?.limits.corner.kind
  if (rule && key === 'cornerChange') return rule === 'instant-change'
  if (rule && key === 'junctionDeviation') return rule === 'junction-deviation'
  const { when } = settingOf(key)
  if (!when) return true
  const { value } = values[when.key]
  if ('not' in when) return value !== when.not
  return when.is === 'above-zero' ? Number(value) > 0 : value === when.is
}

/** What has to be switched on so that values of some settings take effect: a length of pull-back where nothing is pulled back. */
export function switchedOnFor(keys: readonly SettingKey[], values: ValuesOnly): Changes {
  const off = keys.flatMap((key) => {
    const { when } = settingOf(key)
    return when && 'is' in when && when.is === true && values[when.key].value !== true ? [when.key] : []
  })
  return Object.fromEntries(off.map((key) => [key, true])) as Changes
}
