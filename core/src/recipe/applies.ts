import type { Machine } from '../machine/machine'
import type { ValuesOnly } from './derive'
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
